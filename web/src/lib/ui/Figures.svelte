<script lang="ts">
  /** A short table of figures beside the drawing. */
  import type { Scene } from '../state/scene';

  let { rows }: { rows: Scene['rows'] } = $props();
</script>

<dl class="text-[13px]">
  {#each rows as { name, text } (name)}
    <div class="border-hairline flex justify-between gap-3 border-b py-[3px]">
      <dt class="text-quiet narrow">{name}</dt>
      <dd class="narrow text-right font-[600]">{text}</dd>
    </div>
  {/each}
</dl>
