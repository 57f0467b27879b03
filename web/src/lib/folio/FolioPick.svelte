<script lang="ts">
  /** The Folio's drawings, to bring one into a job. */
  import { Dialog } from 'bits-ui';
  import { onMount } from 'svelte';
  import { Paged } from '../state/paged.svelte';
  import { listFolio, type FolioItem } from './folio';
  import FolioCard from './FolioCard.svelte';

  let { onpick, onclose }: { onpick: (item: FolioItem) => void; onclose: () => void } = $props();
  let q = $state('');
  const list = new Paged<FolioItem>(async (start) => {
    const page = await listFolio({ q, kind: 'drawing', start });
    return { total: page.found, rows: page.items };
  });
  onMount(() => void list.load());
</script>

<Dialog.Root open onOpenChange={(o) => !o && onclose()}>
  <Dialog.Portal>
    <Dialog.Overlay class="fixed inset-0 bg-black/30" />
    <Dialog.Content
      class="bg-sheet border-edge fixed top-1/2 left-1/2 flex max-h-[86vh] w-[760px] -translate-x-1/2 -translate-y-1/2 flex-col rounded-[3px] border p-6"
    >
      <Dialog.Title class="text-[19px] font-[650]">From the Folio</Dialog.Title>
      <Dialog.Description class="fine mb-3">A drawing comes into this job as it is kept there.</Dialog.Description>
      <input
        class="input mb-3 w-[260px]!"
        type="search"
        placeholder="name, file, tag"
        aria-label="Search the Folio"
        bind:value={q}
        oninput={() => list.later()}
      />
      {#if list.trouble}<p class="text-stop mb-2" role="alert">{list.trouble}</p>{/if}
      {#if list.rows && !list.rows.length}
        <p>{q ? 'Nothing of that name.' : 'No drawing in the Folio yet: bring one in on its page.'}</p>
      {/if}
      <ul class="grid min-h-0 grid-cols-3 gap-3 overflow-y-auto">
        {#each list.rows ?? [] as item (item.id)}<FolioCard {item} onshow={() => onpick(item)} />{/each}
      </ul>
      <div class="mt-4 flex gap-2">
        {#if list.more}<button class="button" onclick={() => list.next()}>More of {list.total}</button>{/if}
        <span class="grow"></span>
        <button class="button" onclick={onclose}>Close</button>
      </div>
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>
