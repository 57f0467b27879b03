<script lang="ts">
  /** Measured blanks, kept: found, compared, used again, carried in and out. */
  import { untrack } from 'svelte';
  import { goto } from '$app/navigation';
  import { client, take, takeAs, fileForm, wordsOf, type Schemas } from '$lib/api/client';
  import { Task, type Work } from '$lib/api/work.svelte';
  import Card from '$lib/shelf/Card.svelte';
  import Comparison from '$lib/shelf/Comparison.svelte';
  import Working from '$lib/ui/Working.svelte';
  import ShelfCard from '$lib/shelf/ShelfCard.svelte';
  import { Paged } from '$lib/state/paged.svelte';
  import { session } from '$lib/state/session.svelte';
  import { KINDS } from '$lib/steps/measure/kinds';
  import FilePick from '$lib/ui/FilePick.svelte';
  import Places from '$lib/ui/Places.svelte';
  import Tags from '$lib/ui/Tags.svelte';

  type Blank = Schemas['CardOut'];
  let shelf = $state.raw<Schemas['ShelfOut'] | null>(null);
  let q = $state('');
  let tag = $state('');
  let kind = $state('');
  let trouble = $state('');
  let said = $state('');
  let chosen = $state.raw<Blank[]>([]);
  let open = $state.raw<Schemas['BlankOut'] | null>(null);
  let compared = $state.raw<Schemas['ComparisonOut'] | null>(null);
  let importer: FilePick;
  const bringing = new Task();
  const list = new Paged<Blank>(async (start) => {
    shelf = await takeAs<Schemas['ShelfOut']>(client.GET('/api/shelf', { params: { query: { q, tag, kind, start } } }));
    return { total: shelf.found, rows: shelf.blanks };
  });
  // Read again when the workshop writes its lengths another way: the cards hold figures.
  $effect(() => {
    if (session.style) untrack(() => void list.load());
  });
  async function show(id: number) {
    try {
      open = await takeAs<Schemas['BlankOut']>(
        client.GET('/api/shelf/{blank_id}', { params: { path: { blank_id: id } } }),
      );
    } catch (bad) {
      trouble = wordsOf(bad);
    }
  }
  async function start(id: number, name: string) {
    const made = await take(
      client.POST('/api/shelf/{blank_id}/jobs', { params: { path: { blank_id: id } }, body: { title: name } }),
    );
    await goto(`/jobs/${made.job}/measure`);
  }
  function choose(card: Blank) {
    chosen = chosen.some((c) => c.id === card.id)
      ? chosen.filter((c) => c.id !== card.id)
      : [...chosen.slice(-1), card];
  }
  async function compare() {
    const [first, second] = chosen;
    if (!first || !second) return;
    try {
      compared = await take(
        client.GET('/api/shelf/compare', { params: { query: { first: first.id, second: second.id } } }),
      );
    } catch (bad) {
      trouble = wordsOf(bad);
    }
  }
  async function bringIn(file: File) {
    said = '';
    const body = fileForm(file);
    const done = await bringing.run(() => takeAs<Work>(client.POST('/api/shelf/import', body)));
    if (!done) return;
    await list.load();
    const taken = done.result.taken ?? 0;
    said = `${taken} blank${taken === 1 ? '' : 's'} taken in.`;
  }
  const kinds = KINDS.filter(([k]) => k !== 'mug');
</script>

<svelte:head><title>Shelf · Wimple</title></svelte:head>
<header class="border-edge bg-steel flex h-[72px] items-center justify-between border-b px-5">
  <div>
    <h1>Shelf</h1>
    <p class="fine">{session.current?.workshop?.name}: blanks that are measured</p>
  </div>
  <Places />
</header>
<main class="h-[calc(100%-72px)] overflow-y-auto px-5 py-4">
  <div class="mb-3 flex flex-wrap items-center gap-2">
    <input
      class="input w-[260px]!"
      type="search"
      placeholder="name, size, tag, note"
      aria-label="Search the Shelf"
      bind:value={q}
      oninput={() => list.later()}
    />
    <select class="input w-[200px]!" aria-label="Kind of blank" bind:value={kind} onchange={() => list.fresh()}>
      <option value="">every kind</option>
      {#each kinds as [id, name] (id)}<option value={id}>{name}</option>{/each}
    </select>
    <span class="fine" aria-live="polite">{shelf ? `${shelf.found} of ${shelf.total}` : '…'}</span>
    <span class="grow"></span>
    <button class="button" disabled={chosen.length !== 2} onclick={compare}
      >{chosen.length === 2 ? 'Compare the two' : `Compare (${chosen.length} of 2 chosen)`}</button
    >
    <a class="button" href="/api/shelf/export" download="shelf.wimple.json">Carry out</a>
    {#if session.makes}<button class="button" onclick={() => importer.pick()}>Bring in</button>{/if}
    <FilePick
      bind:this={importer}
      accept=".json,application/json"
      label="Exported Shelf"
      onfile={bringIn}
      bind:trouble
    />
  </div>
  <Tags tags={shelf?.tags ?? []} bind:tag onpick={() => list.fresh()} />
  {#if trouble || list.trouble}<p class="text-stop mb-2" role="alert">{trouble || list.trouble}</p>{/if}
  <Working task={bringing} what="Taking blanks in" stopped="Stopped; nothing was taken in." />
  {#if said}<p class="mb-2" role="status">{said}</p>{/if}
  {#if shelf && !shelf.total}
    <p class="max-w-[520px] leading-snug">
      Nothing on the Shelf yet. Measure a blank in a job, then “Keep this blank on the Shelf” under The blank: next time
      it need not be measured again.
    </p>
  {:else if shelf && !shelf.found}
    <p>Nothing of that kind or name. Search for less, or let the tag go.</p>
  {/if}
  <ul class="grid grid-cols-[repeat(auto-fill,minmax(232px,1fr))] gap-3">
    {#each list.rows ?? [] as card (card.id)}
      <Card
        {card}
        chosen={chosen.some((c) => c.id === card.id)}
        onshow={() => show(card.id)}
        onchoose={() => choose(card)}
      />
    {/each}
  </ul>
  {#if list.more}
    <button class="button mt-4" onclick={() => list.next()}>More of {list.total}</button>
  {/if}
</main>

{#if open}
  <ShelfCard
    blank={open}
    onclose={() => {
      open = null;
      void list.load();
    }}
    onshow={(next) => {
      // What was changed last may be answered when the card is closed again.
      if (open) open = next;
      else void list.load();
    }}
    onstart={start}
  />
{/if}
{#if compared}
  <Comparison {compared} names={[chosen[0]?.name ?? '', chosen[1]?.name ?? '']} onclose={() => (compared = null)} />
{/if}
