<script lang="ts">
  /** A blank on the Shelf, small. */
  import type { Schemas } from '../api/client';
  import { kindName } from '../steps/measure/kinds';
  import Outline from '../ui/Outline.svelte';

  let {
    card,
    chosen,
    onshow,
    onchoose,
  }: { card: Schemas['CardOut']; chosen: boolean; onshow: () => void; onchoose: () => void } = $props();
</script>

<li class="bg-sheet relative rounded-[3px] border {chosen ? 'border-blue' : 'border-hairline'}">
  <button class="block w-full p-3 text-left" onclick={onshow}>
    {#if card.has_picture}
      <img class="mb-2 h-[128px] w-full object-contain" src="/api/shelf/{card.id}/picture" alt="" />
    {:else}
      <Outline outline={card.outline} bounds={card.bounds} fill={card.colour} class="mb-2 h-[128px] w-full" />
    {/if}
    <span class="block truncate font-[650]">{card.name}</span>
    <span class="fine narrow block truncate">{card.size}</span>
    <span class="fine block truncate"
      >{kindName(card.kind)} · {card.jobs} job{card.jobs === 1 ? '' : 's'}{card.tags.length
        ? ` · ${card.tags.join(', ')}`
        : ''}</span
    >
  </button>
  <label class="absolute top-1 right-1 flex size-8 items-center justify-center">
    <input
      type="checkbox"
      class="accent-blue size-6"
      checked={chosen}
      aria-label="Choose {card.name} to compare"
      onchange={onchoose}
    />
  </label>
</li>
