<script lang="ts">
  /** A part of the slip that folds away under its heading. */
  import type { Snippet } from 'svelte';
  let {
    title,
    note = '',
    open = false,
    children,
  }: { title: string; note?: string; open?: boolean; children: Snippet } = $props();
  // Whoever opened it finds it open when its note changes.
  let now = $derived(open);
</script>

<details bind:open={now} class="border-hairline group border-b">
  <summary class="flex min-h-9 items-center justify-between gap-3 py-[7px]">
    <h2 class="flex items-center gap-2">
      <svg width="9" height="9" viewBox="0 0 9 9" class="transition-transform group-open:rotate-90" aria-hidden="true"
        ><path d="M2 0l5 4.5L2 9z" fill="var(--color-quiet)" /></svg
      >{title}
    </h2>
    <span class="fine narrow truncate">{note}</span>
  </summary>
  <div class="pb-2">{@render children()}</div>
</details>
