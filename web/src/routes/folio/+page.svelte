<script lang="ts">
  /** The workshop's drawings and fonts, kept outside jobs: found, named, carried in and out. */
  import { onMount } from 'svelte';
  import { addToFolio, FILES, FONT_FILES, listFolio, type Folio, type FolioItem } from '$lib/folio/folio';
  import FolioCard from '$lib/folio/FolioCard.svelte';
  import FolioSheet from '$lib/folio/FolioSheet.svelte';
  import { Paged } from '$lib/state/paged.svelte';
  import { session } from '$lib/state/session.svelte';
  import DropFiles from '$lib/ui/DropFiles.svelte';
  import FilePick from '$lib/ui/FilePick.svelte';
  import Places from '$lib/ui/Places.svelte';
  import Tags from '$lib/ui/Tags.svelte';

  let folio = $state.raw<Folio | null>(null);
  let q = $state('');
  let tag = $state('');
  let kind = $state<'' | 'drawing' | 'font'>('');
  let trouble = $state('');
  let busy = $state(false);
  let open = $state.raw<FolioItem | null>(null);
  let picker: FilePick;
  const list = new Paged<FolioItem>(async (start) => {
    folio = await listFolio({ q, tag, kind, start });
    return { total: folio.found, rows: folio.items };
  });
  onMount(() => void list.load());
  async function bringIn(file: File) {
    open = await addToFolio(file);
    await list.load();
  }
</script>

<svelte:head><title>Folio · Wimple</title></svelte:head>
<header class="border-edge bg-steel flex h-[72px] items-center justify-between border-b px-5">
  <div>
    <h1>Folio</h1>
    <p class="fine">{session.current?.workshop?.name}: drawings and fonts of the workshop</p>
  </div>
  <Places />
</header>
<main class="h-[calc(100%-72px)] overflow-y-auto px-5 py-4">
  <div class="mb-3 flex flex-wrap items-center gap-2">
    <input
      class="input w-[260px]!"
      type="search"
      placeholder="name, file, tag"
      aria-label="Search the Folio"
      bind:value={q}
      oninput={() => list.later()}
    />
    <select class="input w-[170px]!" aria-label="Kind" bind:value={kind} onchange={() => list.fresh()}>
      <option value="">drawings and fonts</option>
      <option value="drawing">drawings</option>
      <option value="font">fonts</option>
    </select>
    <span class="fine" aria-live="polite">{folio ? `${folio.found} of ${folio.total}` : '…'}</span>
    <span class="grow"></span>
    {#if folio?.total}<a class="button" href="/api/folio/export" download="folio.zip">Carry all out</a>{/if}
    {#if session.makes}
      <button class="button" disabled={busy} onclick={() => picker.pick()}>{busy ? 'Reading …' : 'Bring in'}</button>
      <DropFiles what="Let go to keep it in the Folio" onfile={bringIn} bind:busy bind:trouble />
    {/if}
    <FilePick
      bind:this={picker}
      accept="{FILES},{FONT_FILES}"
      label="Drawing or font for the Folio"
      onfile={bringIn}
      bind:busy
      bind:trouble
    />
  </div>
  <Tags tags={folio?.tags ?? []} bind:tag onpick={() => list.fresh()} />
  {#if trouble || list.trouble}<p class="text-stop mb-2" role="alert">{trouble || list.trouble}</p>{/if}
  {#if folio && !folio.total}
    <p class="max-w-[520px] leading-snug">
      Nothing in the Folio yet. Bring in drawings (SVG, DXF, PDF, or pictures to be traced) and the workshop’s own
      fonts, or drop them on this page; any job can then use them.
    </p>
  {:else if folio && !folio.found}
    <p>Nothing of that kind or name. Search for less, or let the tag go.</p>
  {/if}
  <ul class="grid grid-cols-[repeat(auto-fill,minmax(216px,1fr))] gap-3">
    {#each list.rows ?? [] as item (item.id)}<FolioCard {item} onshow={() => (open = item)} />{/each}
  </ul>
  {#if list.more}<button class="button mt-4" onclick={() => list.next()}>More of {list.total}</button>{/if}
</main>

{#if open}
  {#key open.id}
    <FolioSheet
      item={open}
      onclose={() => {
        open = null;
        void list.load();
      }}
      onshow={(next) => {
        // What was changed last may be answered when the sheet is closed again.
        if (open) open = next;
        else void list.load();
      }}
    />
  {/key}
{/if}
