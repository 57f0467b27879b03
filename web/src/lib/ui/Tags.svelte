<script lang="ts">
  /** The tags of what is kept, with how many have each; one at a time can be picked, and let go. */
  let {
    tags,
    tag = $bindable(''),
    onpick,
  }: { tags: { tag: string; count: number }[]; tag?: string; onpick: () => void } = $props();
</script>

{#if tags.length}
  <div class="mb-3 flex flex-wrap gap-1 text-[13px]" role="group" aria-label="Tags">
    {#each tags as t (t.tag)}
      <button
        class="button min-h-[26px]! px-2! py-0! {tag === t.tag ? 'border-blue! font-[650]' : ''}"
        aria-pressed={tag === t.tag}
        onclick={() => {
          tag = tag === t.tag ? '' : t.tag;
          onpick();
        }}>{t.tag} <span class="text-quiet">{t.count}</span></button
      >
    {/each}
  </div>
{/if}
