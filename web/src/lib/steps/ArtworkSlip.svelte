<script lang="ts">
  import { DropdownMenu } from 'bits-ui';
  import { onMount, tick } from 'svelte';
  import { client, fileForm, take, takeAs, wordsOf, type Placement } from '../api/client';
  import { nameOf, type Element } from '../state/elements';
  import type { JobState } from '../state/job.svelte';
  import { tables } from '../state/tables.svelte';
  import { fetchInto, FILES, type FolioItem } from '../folio/folio';
  import FolioPick from '../folio/FolioPick.svelte';
  import DropFiles from '../ui/DropFiles.svelte';
  import FilePick from '../ui/FilePick.svelte';
  import NamesFields from './NamesFields.svelte';
  import PlaceFields from './PlaceFields.svelte';
  import PieceFields from './PieceFields.svelte';
  import ReferenceFields from './ReferenceFields.svelte';

  let { job }: { job: JobState } = $props();
  const elements = $derived(job.document?.elements ?? []);
  /** One button for each placement of each element. */
  const all = $derived(
    elements.flatMap((e, n) =>
      (e.placements ?? [{}]).map((_, k) => {
        const path = `elements.${n}.placements.${k}`;
        const name = job.scene?.placed.find((d) => d.path === path)?.name ?? nameOf(e);
        return { element: n, path, name, source: e.source };
      }),
    ),
  );
  const i = $derived(Math.min(job.selected, Math.max(all.length - 1, 0)));
  let trouble = $state('');
  let busy = $state(false);
  let picker: FilePick;
  onMount(() => void tables.load());

  async function upload(file: File) {
    job.addDrawing(
      await take(
        client.POST('/api/jobs/{job_id}/drawings', { params: { path: { job_id: job.id } }, ...fileForm(file) }),
      ),
    );
  }
  async function words(text: string) {
    await make('words');
    job.set(`elements.${(job.document?.elements?.length ?? 1) - 1}.source.text`, text.slice(0, 600));
  }
  async function make(what: string) {
    const made = await takeAs<{ source: Element['source']; placement: Placement; knocks_out: boolean }>(
      client.POST('/api/jobs/{job_id}/make', { params: { path: { job_id: job.id } }, body: { make: what } }),
    );
    job.addElement({ source: made.source, placements: [made.placement], knocks_out: made.knocks_out });
    await tick();
    document.querySelector<HTMLTextAreaElement>('#slip textarea')?.select();
  }
  function takeOut() {
    job.selected = 0;
    job.set(
      'elements',
      elements.filter((_, n) => n !== all[i]?.element),
    );
  }
  const TABS: ['place' | 'pieces' | 'names', string][] = [
    ['place', 'Its place'],
    ['pieces', 'Its pieces'],
    ['names', 'Names'],
  ];
  let listed = $state(false);
  const tab = $derived(job.pieces.on ? 'pieces' : listed ? 'names' : 'place');
  const names = $derived(job.document?.names?.rows.length ?? 0);
  let choosing = $state(false);
  async function fromFolio(item: FolioItem) {
    choosing = false;
    busy = true;
    trouble = '';
    try {
      const file = await fetchInto(item.id, job.id);
      const [left, low, right, high] = item.bounds;
      const placement = await take(
        client.GET('/api/jobs/{job_id}/place', {
          params: { path: { job_id: job.id }, query: { width: right - left, height: high - low } },
        }),
      );
      job.addDrawing({ file, width: right - left, height: high - low, placement });
    } catch (bad) {
      trouble = wordsOf(bad);
    } finally {
      busy = false;
    }
  }
</script>

<FilePick bind:this={picker} accept={FILES} label="Drawing to add" onfile={upload} bind:busy bind:trouble />
<DropFiles what="Let go to lay it on the blank" onfile={upload} ontext={words} bind:busy bind:trouble />
{#if choosing}<FolioPick onpick={fromFolio} onclose={() => (choosing = false)} />{/if}
{#if !all.length}
  <p class="mb-3 leading-snug">
    Bring a drawing as an SVG, DXF or PDF file, or a picture to be traced, add words, or draw a shape by its measures.
    It is laid on the free area; then drag it on the template, or type its place.
  </p>
{/if}
{#if all.length > 1}
  <div class="mb-2 flex flex-wrap gap-1" role="group" aria-label="Drawings">
    {#each all as d, n (d.path)}
      <button
        class="button max-w-[150px] truncate px-2! text-[13px] {n === i ? 'border-blue! font-[650]' : ''}"
        aria-pressed={n === i}
        onclick={() => (job.selected = n)}>{d.name}</button
      >
    {/each}
  </div>
{/if}
<div class="flex gap-2 pb-2">
  <button
    class="button px-2! whitespace-nowrap {all.length ? '' : 'button-main'}"
    disabled={busy || !tables.hasRoom('elements', elements.length)}
    onclick={() => picker.pick()}>{busy ? 'Reading …' : all.length ? 'Add a drawing' : 'Bring a drawing'}</button
  >
  <button
    class="button px-2! whitespace-nowrap"
    disabled={!tables.hasRoom('elements', elements.length)}
    onclick={() => make('words')}>Add words</button
  >
  <DropdownMenu.Root>
    <DropdownMenu.Trigger class="button px-2! whitespace-nowrap" disabled={!tables.hasRoom('elements', elements.length)}
      >Draw …</DropdownMenu.Trigger
    >
    <DropdownMenu.Content
      class="bg-sheet border-edge z-20 max-h-[480px] min-w-[230px] overflow-y-auto rounded-[3px] border py-1"
      sideOffset={4}
      align="start"
    >
      <DropdownMenu.Item class="data-highlighted:bg-wash cursor-pointer px-3 py-1.5" onSelect={() => (choosing = true)}
        >from the Folio …</DropdownMenu.Item
      >
      {#each tables.makes.filter((m) => m.group !== 'words') as m (m.id)}
        <DropdownMenu.Item class="data-highlighted:bg-wash cursor-pointer px-3 py-1.5" onSelect={() => make(m.id)}
          >{m.words}</DropdownMenu.Item
        >
      {/each}
    </DropdownMenu.Content>
  </DropdownMenu.Root>
</div>
{#if trouble}<p class="text-stop pb-2 text-[13px]" role="alert">{trouble}</p>{/if}
{#if all.length}
  <div
    class="border-edge mb-2 grid grid-cols-[1fr_1fr_1fr_auto] items-center border-b"
    role="group"
    aria-label="What the hand takes"
  >
    {#each TABS as [id, words] (id)}
      <button
        class="min-h-9 border-b-[3px] text-left {tab === id
          ? 'border-brass font-[650]'
          : 'text-quiet border-transparent'}"
        aria-pressed={tab === id}
        onclick={() => {
          job.pieces.on = id === 'pieces';
          listed = id === 'names';
        }}>{words}{id === 'names' && names ? ` ${names}` : ''}</button
      >
    {/each}
    <button class="link text-[14px]" onclick={takeOut}>Take out</button>
  </div>
{/if}
{#if all.length && tab === 'names'}
  <NamesFields {job} />
{:else if all.length && job.pieces.on}
  <PieceFields {job} />
{:else if all.length}
  <PlaceFields {job} {all} {i} />
{/if}
{#if tab !== 'names'}<ReferenceFields {job} />{/if}
