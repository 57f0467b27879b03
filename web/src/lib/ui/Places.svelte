<script lang="ts">
  /** The upper corner: the places outside a job, the workshop's units, the way out. */
  import { goto } from '$app/navigation';
  import type { LengthStyle } from '../api/client';
  import { session } from '../state/session.svelte';

  async function out() {
    await session.signOut();
    await goto('/sign-in');
  }
</script>

<div class="flex items-center gap-3 text-[13px]">
  <a class="link text-[15px]" href="/bench">Bench</a>
  <a class="link text-[15px]" href="/shelf">Shelf</a>
  <select
    class="border-edge bg-sheet h-[26px] rounded-[3px] border px-1"
    aria-label="Lengths are written in"
    value={session.style}
    onchange={(e) => session.setStyle((e.target as HTMLSelectElement).value as LengthStyle)}
  >
    <option value="mm">mm</option>
    <option value="in_fraction">in, 1/64</option>
    <option value="in_decimal">in, 0.001</option>
  </select>
  <button class="link" onclick={out}>Leave</button>
</div>
