<script lang="ts">
  /** A colour, and out of which it is chosen: those of the films at hand, or any other. */
  import { Popover } from 'bits-ui';
  import { tables } from '../state/tables.svelte';

  let {
    value,
    label,
    film = '',
    id,
    size = 'h-8 w-14',
    words = '',
    onpick,
  }: {
    value: string;
    label: string;
    /** The film whose colours come first. */
    film?: string;
    id?: string;
    size?: string;
    /** What stands on it in place of a colour, where it has none yet. */
    words?: string;
    onpick: (colour: string) => void;
  } = $props();
  let open = $state(false);
  const there = $derived(tables.palette(film));
  const name = $derived(there.find((c) => c.colour === value)?.name ?? value);
  function pick(colour: string) {
    open = false;
    onpick(colour);
  }
</script>

<Popover.Root bind:open>
  <Popover.Trigger
    {id}
    class={words ? 'button px-2!' : `border-edge ${size} shrink-0 rounded-[3px] border`}
    style={words ? '' : `background: ${value}`}
    aria-label={words ? label : `${label}: ${name}`}>{words}</Popover.Trigger
  >
  <Popover.Content
    class="bg-sheet border-edge z-30 w-[252px] rounded-[3px] border p-3"
    side="right"
    strategy="fixed"
    sideOffset={6}
    collisionPadding={8}
    aria-label="Colours of film at hand"
  >
    <div class="grid grid-cols-8 gap-1">
      {#each there as c (c.colour)}
        <button
          class="size-[25px] rounded-[2px] border {c.colour === value ? 'border-brass border-2' : 'border-edge'}"
          style:background={c.colour}
          aria-label={c.name}
          title={c.name}
          onclick={() => pick(c.colour)}
        ></button>
      {/each}
    </div>
    <label class="mt-3 flex items-center justify-between text-[13px]"
      >any other
      <input
        type="color"
        class="border-edge h-7 w-12 border"
        aria-label="{label}: any other colour"
        {value}
        onchange={(e) => pick(e.currentTarget.value)}
      /></label
    >
  </Popover.Content>
</Popover.Root>
