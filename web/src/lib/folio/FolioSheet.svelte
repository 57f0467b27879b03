<script lang="ts">
  /** One drawing or font of the Folio, whole: its name and tags, where it is used, and what can be done with it. */
  import { Dialog } from 'bits-ui';
  import { onMount } from 'svelte';
  import { client, take, takeAs, wordsOf, type Schemas } from '../api/client';
  import { session } from '../state/session.svelte';
  import Outline from '../ui/Outline.svelte';
  import type { FolioItem } from './folio';

  let { item, onclose, onshow }: { item: FolioItem; onclose: () => void; onshow: (next: FolioItem) => void } = $props();
  let trouble = $state('');
  let sure = $state(false);
  let uses = $state.raw<Schemas['UsedInOut'][]>([]);
  const at = $derived({ params: { path: { item_id: item.id } } });
  onMount(() => run(async () => void (uses = await take(client.GET('/api/folio/{item_id}/used-in', at)))));

  async function run(work: () => Promise<void>) {
    trouble = '';
    try {
      await work();
    } catch (bad) {
      trouble = wordsOf(bad);
    }
  }
  const change = (body: Schemas['FolioChangeIn']) =>
    run(async () => onshow(await takeAs<FolioItem>(client.PATCH('/api/folio/{item_id}', { ...at, body }))));
  const drop = () =>
    run(async () => {
      await take(client.DELETE('/api/folio/{item_id}', at));
      onclose();
    });
</script>

<Dialog.Root open onOpenChange={(o) => !o && onclose()}>
  <Dialog.Portal>
    <Dialog.Overlay class="fixed inset-0 bg-black/30" />
    <Dialog.Content
      class="bg-sheet border-edge fixed top-1/2 left-1/2 flex max-h-[92vh] w-[720px] -translate-x-1/2 -translate-y-1/2 flex-col rounded-[3px] border p-6"
    >
      <Dialog.Title class="truncate text-[19px] font-[650]">{item.name}</Dialog.Title>
      <Dialog.Description class="fine mb-3"
        >{item.kind} · {item.says} · {item.file} · {item.kilobytes.toFixed(1)} kB</Dialog.Description
      >
      <fieldset disabled={!session.makes} class="grid min-h-0 grid-cols-[300px_1fr] gap-6 overflow-y-auto">
        <Outline
          outline={[]}
          bounds={item.bounds}
          paints={item.paints}
          class="border-hairline h-[260px] w-full border p-2"
        />
        <div>
          <label class="block">
            Called
            <input
              class="input mt-1"
              value={item.name}
              maxlength="120"
              onchange={(e) => change({ name: e.currentTarget.value || item.name })}
            />
          </label>
          <label class="mt-2 block">
            Tags, with commas between
            <input
              class="input mt-1"
              value={item.tags.join(', ')}
              onchange={(e) => change({ tags: e.currentTarget.value.split(',').slice(0, 20) })}
            />
          </label>
          <h2 class="mt-3">Used in</h2>
          <ul class="max-h-[110px] overflow-y-auto text-[14px]">
            {#each uses as u (u.job)}
              <li class="truncate py-[2px]"><a class="link" href="/jobs/{u.job}/artwork">{u.title}</a></li>
            {:else}<li class="fine">no job yet</li>{/each}
          </ul>
        </div>
      </fieldset>
      {#if trouble}<p class="text-stop mt-2 text-[13px]" role="alert">{trouble}</p>{/if}
      <div class="mt-4 flex gap-2">
        <a class="button" href="/api/folio/{item.id}/file" download={item.file}>Carry out</a>
        {#if session.makes}
          {#if sure}<button class="button text-stop!" onclick={drop}>Yes, take it out for good</button>
          {:else}<button class="button" onclick={() => (sure = true)}>Take it out of the Folio</button>{/if}
        {/if}
        <span class="grow"></span>
        <button class="button" onclick={onclose}>Close</button>
      </div>
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>
