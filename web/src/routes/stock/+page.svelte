<script lang="ts">
  /** The workshop's film drawn to one scale: rolls, sheets and remnants of every colour, and what is written down of
   * each. */
  import { onMount } from 'svelte';
  import PieceDrawing from '$lib/stock/PieceDrawing.svelte';
  import PieceFields from '$lib/stock/PieceFields.svelte';
  import { emptyForm, formOf, stock, type PieceForm } from '$lib/stock/stock.svelte';
  import { session } from '$lib/state/session.svelte';
  import { tables } from '$lib/state/tables.svelte';
  import TypedRow from '$lib/ui/TypedRow.svelte';
  import Places from '$lib/ui/Places.svelte';
  import { fieldText, length, unitOf } from '$lib/units';

  const SCALE = 0.2;
  const LONGEST = 1800;
  let id = $state<string | null>(null);
  let form = $state<PieceForm | null>(null);
  let over = $state('');
  onMount(async () => {
    await Promise.all([stock.load(), tables.load()]);
    over = fieldText(stock.now?.remnant_mm ?? 80, session.style);
  });
  const films = $derived(stock.now?.films ?? []);
  function open(of: string, next: PieceForm) {
    id = of;
    form = next;
    stock.clear();
  }
  function fresh() {
    const first = tables.colours[0];
    const at = films.flatMap((f) => f.pieces).find((p) => p.piece.id === id)?.piece;
    form = emptyForm(at?.film ?? first?.film ?? '', at?.name ?? first?.name ?? '');
    id = null;
  }
  async function write() {
    if (form && (await stock.write(id, form)) && id === null) form = null;
  }
  async function takeOff() {
    if (id && (await stock.takeOff(id))) [id, form] = [null, null];
  }
</script>

<svelte:head><title>Stock · Wimple</title></svelte:head>
<header class="border-edge bg-steel flex h-[72px] items-center justify-between border-b px-5">
  <div>
    <h1>Stock</h1>
    <p class="fine">{session.current?.workshop?.name}: film on rolls, in sheets and in remnants</p>
  </div>
  <Places />
</header>
<div class="grid h-[calc(100%-72px)] grid-cols-[352px_1fr]">
  <aside class="border-edge overflow-y-auto border-r px-5 py-4">
    {#if form}
      <h2 class="mb-1">{id ? 'This piece of film' : 'More film'}</h2>
      <fieldset disabled={!session.makes || stock.busy}>
        <PieceFields bind:form fixed={id !== null} />
        {#if stock.trouble && !stock.faults.length}<p class="text-stop mt-2 text-[13px]" role="alert">
            {stock.trouble}
          </p>{/if}
        <div class="mt-3 flex flex-wrap gap-2">
          <button class="button button-main" onclick={write}>{id ? 'Write it down so' : 'Write it down'}</button>
          {#if id}<button class="button" onclick={takeOff}>It is gone</button>{/if}
          <button class="button" onclick={() => ([id, form] = [null, null])}>Leave it</button>
        </div>
      </fieldset>
    {:else}
      <h2 class="mb-1">Film that is counted</h2>
      {#each films as f (f.film + f.name)}
        <div class="border-hairline flex items-center gap-2 border-b py-[7px]">
          <span class="border-edge size-4 shrink-0 rounded-[2px] border" style:background={f.colour}></span>
          <span class="grow leading-tight"
            >{f.name}<span class="fine block truncate">{f.family.toLowerCase()}</span></span
          >
          <span class="fine narrow text-right">{f.left}<br />{f.price_per_m2} a m²</span>
        </div>
      {:else}
        <p class="leading-snug">
          {stock.now
            ? 'No film is counted yet: every colour is taken to be there. Write a roll down, and loads are planned on what is left of it, remnants first.'
            : '…'}
        </p>
      {/each}
      {#if stock.trouble}<p class="text-stop mt-2 text-[13px]" role="alert">{stock.trouble}</p>{/if}
      {#if films.length}
        <p class="border-hairline flex border-b py-[7px]">
          <span class="grow">Worth</span><span class="narrow">{stock.now?.worth}</span>
        </p>
        <TypedRow
          id="remnant"
          label="Remnants are kept"
          note="where a square of this side goes in"
          unit={unitOf(session.style)}
          disabled={!session.makes}
          bind:value={over}
          onchange={() => stock.keepOver(over)}
        />
      {/if}
      {#if session.makes}<button class="button mt-3" onclick={fresh}>Write film down</button>{/if}
    {/if}
  </aside>
  <main class="overflow-auto px-6 py-4" aria-label="Film to one scale">
    {#if films.length}
      <p class="fine narrow mb-3">
        All to one scale, 1 : {Math.round(1 / SCALE / 0.2646)}; length to the right. A roll over {length(
          LONGEST,
          session.style,
          0,
        )} is broken.
      </p>
    {/if}
    {#each films as f (f.film + f.name)}
      <section class="border-hairline mb-3 border-b pb-1" aria-label="{f.name}, {f.family}">
        <h2 class="mb-1.5 font-[550]">{f.name} <span class="fine font-normal">{f.family.toLowerCase()}</span></h2>
        <div class="flex flex-wrap items-end gap-x-2 gap-y-1">
          {#each f.pieces as p (p.piece.id)}
            <PieceDrawing
              film={f}
              shown={p}
              scale={SCALE}
              longest={LONGEST}
              chosen={p.piece.id === id}
              onpick={() => open(p.piece.id, formOf(p.piece))}
            />
          {/each}
        </div>
      </section>
    {/each}
  </main>
</div>
