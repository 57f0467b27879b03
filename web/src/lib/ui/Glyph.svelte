<script lang="ts">
  /** A verdict's sign: ok a ring, look a triangle, stop a square; never by colour alone. */
  import type { Level } from '../api/client';
  /** `faint`: it was so when it was last looked at. */
  let { level, size = 13, faint = false }: { level: Level; size?: number; faint?: boolean } = $props();
  const words = { ok: 'fine', look: 'look at this', stop: 'stop' };
</script>

<svg
  width={size}
  height={size}
  viewBox="0 0 14 14"
  role="img"
  aria-label={words[level]}
  class="inline-block shrink-0 {faint ? 'opacity-45' : ''}"
>
  {#if level === 'ok'}<circle cx="7" cy="7" r="5" fill="none" stroke="var(--color-ok)" stroke-width="2" />
  {:else if level === 'look'}<path d="M7 1L13.5 13H.5z" fill="var(--color-look)" />
  {:else}<rect x="1.5" y="1.5" width="11" height="11" fill="var(--color-stop)" />{/if}
</svg>
