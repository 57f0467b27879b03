<script lang="ts">
  /** Ways of doing one thing, each with what it takes: the one that is taken, and the others a click away. */
  let {
    label,
    ways,
    chosen,
    onpick,
  }: { label: string; ways: [string, string, string][]; chosen: string; onpick: (way: string) => void } = $props();
</script>

<div role="radiogroup" aria-label={label}>
  {#each ways as [way, words, takes] (way)}
    <button
      role="radio"
      aria-checked={way === chosen}
      class="border-hairline flex w-full items-baseline gap-2 border-b px-1 py-[6px] text-left {way === chosen
        ? 'bg-sheet font-[600]'
        : ''}"
      onclick={() => onpick(way)}
    >
      <span class="grow">{words}</span>
      <span class="fine narrow text-right">{takes}</span>
    </button>
  {/each}
</div>
