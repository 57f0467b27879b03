<script lang="ts">
  /** The upper corner: the places outside a job, the workshop's units, and who is here: other workshops, people, the way
   * out. */
  import { goto } from '$app/navigation';
  import { DropdownMenu } from 'bits-ui';
  import type { LengthStyle } from '../api/client';
  import { session } from '../state/session.svelte';

  async function out() {
    await session.signOut();
    await goto('/sign-in');
  }
  async function choose(id: number) {
    await session.choose(id);
    // What is open belongs to the workshop that is left.
    location.assign('/bench');
  }
  const others = $derived((session.current?.workshops ?? []).filter((w) => w.id !== session.current?.workshop?.id));
  const ITEM = 'data-highlighted:bg-wash block cursor-pointer px-3 py-1.5 text-[14px]';
</script>

<div class="flex items-center gap-2 text-[13px]">
  <a class="link narrow text-[15px]" href="/bench">Bench</a>
  <a class="link narrow text-[15px]" href="/shelf">Shelf</a>
  <a class="link narrow text-[15px]" href="/folio">Folio</a>
  <a class="link narrow text-[15px]" href="/stock">Stock</a>
  <a class="link narrow text-[15px]" href="/cutters">Cutters</a>
  <select
    class="border-edge bg-sheet narrow h-[26px] w-[74px] rounded-[3px] border px-1"
    aria-label="Lengths are written in"
    value={session.style}
    disabled={!session.makes}
    onchange={(e) => session.setStyle((e.target as HTMLSelectElement).value as LengthStyle)}
  >
    <option value="mm">mm</option>
    <option value="in_fraction">in, 1/64</option>
    <option value="in_decimal">in, 0.001</option>
  </select>
  <DropdownMenu.Root>
    <DropdownMenu.Trigger
      class="link max-w-[62px] truncate"
      title={session.current?.account}
      aria-label="{session.current?.user}: account and people">{session.current?.user}</DropdownMenu.Trigger
    >
    <DropdownMenu.Content
      class="bg-sheet border-edge z-20 w-[230px] rounded-[3px] border py-1"
      sideOffset={6}
      align="end"
    >
      <p class="fine border-hairline mb-1 truncate border-b px-3 pt-1 pb-2">
        {session.current?.role} in {session.current?.workshop?.name}
      </p>
      {#each others as w (w.id)}
        <DropdownMenu.Item class="{ITEM} truncate" onSelect={() => choose(w.id)}>Go to {w.name}</DropdownMenu.Item>
      {/each}
      {#if session.owns}
        <DropdownMenu.Item class={ITEM} onSelect={() => goto('/people')}>People</DropdownMenu.Item>
      {/if}
      <DropdownMenu.Item class={ITEM} onSelect={() => goto('/account')}>Password and sessions</DropdownMenu.Item>
      <DropdownMenu.Item class={ITEM} onSelect={out}>Leave</DropdownMenu.Item>
    </DropdownMenu.Content>
  </DropdownMenu.Root>
</div>
