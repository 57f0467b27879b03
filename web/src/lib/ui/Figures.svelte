<script lang="ts">
  /** A short table of figures beside the drawing. */
  let { rows }: { rows: [string, string][] } = $props();
</script>

<dl class="text-[13px]">
  {#each rows as [name, value] (name)}
    <div class="border-hairline flex justify-between gap-3 border-b py-[3px]">
      <dt class="text-quiet narrow">{name}</dt>
      <dd class="narrow text-right font-[600]">{value}</dd>
    </div>
  {/each}
</dl>
