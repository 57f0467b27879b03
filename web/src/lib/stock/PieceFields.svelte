<script lang="ts">
  /** What is written down of a piece of film. */
  import { session } from '../state/session.svelte';
  import { tables } from '../state/tables.svelte';
  import { unitOf } from '../units';
  import { stock, type PieceForm } from './stock.svelte';

  let { form = $bindable(), fixed }: { form: PieceForm; fixed: boolean } = $props();
  void tables.load();
  const names = $derived(tables.colours.filter((c) => c.film === form.film));
  const colour = $derived(names.find((c) => c.name === form.name)?.colour ?? '#ffffff');
  const FORMS: [PieceForm['form'], string][] = [
    ['roll', 'a roll'],
    ['sheet', 'sheets'],
    ['remnant', 'a remnant'],
  ];
</script>

{#snippet row(key: keyof PieceForm, label: string, note: string, unit: string, type: string)}
  {@const fault = stock.fault(key)}
  <div class="border-hairline grid grid-cols-[1fr_132px] items-center gap-x-3 border-b py-[7px]">
    <label for="piece-{key}" class="leading-tight"
      >{label}
      {#if note}<span class="fine block">{note}</span>{/if}</label
    >
    <span class="relative block">
      <input
        id="piece-{key}"
        {type}
        class="input {unit ? 'pr-9!' : ''}"
        autocomplete="off"
        aria-invalid={fault ? 'true' : undefined}
        aria-describedby={fault ? `piece-fault-${key}` : undefined}
        bind:value={form[key]}
      />
      {#if unit}<span class="text-quiet pointer-events-none absolute top-[7px] right-2.5 text-[13px]">{unit}</span>{/if}
    </span>
    {#if fault}
      <p id="piece-fault-{key}" class="text-stop col-span-2 mt-1 text-[13px] leading-tight" role="alert">
        {fault.message}
        {fault.hint}
      </p>
    {/if}
  </div>
{/snippet}

<div class="border-hairline grid grid-cols-[56px_1fr] items-center gap-x-3 border-b py-[7px]">
  <label for="piece-film">Film</label>
  <select id="piece-film" class="input" disabled={fixed} bind:value={form.film} onchange={() => (form.name = '')}>
    {#each tables.films as f (f.id)}<option value={f.id}>{f.name}</option>{/each}
  </select>
</div>
<div class="border-hairline grid grid-cols-[56px_1fr] items-center gap-x-3 border-b py-[7px]">
  <label for="piece-name">Colour</label>
  <span class="flex items-center gap-2">
    <span class="border-edge size-5 shrink-0 rounded-[2px] border" style:background={colour}></span>
    <select id="piece-name" class="input" disabled={fixed} bind:value={form.name}>
      {#each names as c (c.name)}<option value={c.name}>{c.name}</option>{/each}
    </select>
  </span>
</div>
<div class="border-hairline grid grid-cols-[1fr_132px] items-center gap-x-3 border-b py-[7px]">
  <label for="piece-form">It is</label>
  <select id="piece-form" class="input" bind:value={form.form}>
    {#each FORMS as [id, words] (id)}<option value={id}>{words}</option>{/each}
  </select>
</div>
{@render row('width_mm', 'Width', 'across it', unitOf(session.style), 'text')}
{@render row(
  'length_mm',
  'Length',
  form.form === 'roll' ? 'left on the roll' : 'along it',
  unitOf(session.style),
  'text',
)}
{#if form.form === 'sheet'}{@render row('sheets', 'How many', '', '', 'text')}{/if}
{#if form.form === 'remnant'}
  {@const fault = stock.fault('outline')}
  <div class="border-hairline border-b py-[7px]">
    <label for="piece-corners" class="leading-tight"
      >Corners<span class="fine block">where it is no rectangle: across, along; across, along; …</span></label
    >
    <textarea
      id="piece-corners"
      class="input mt-1 text-[13px]"
      rows="2"
      aria-invalid={fault ? 'true' : undefined}
      aria-describedby={fault ? 'piece-fault-corners' : undefined}
      bind:value={form.corners}></textarea>
    {#if fault}
      <p id="piece-fault-corners" class="text-stop mt-1 text-[13px] leading-tight" role="alert">
        {fault.message}
        {fault.hint}
      </p>
    {/if}
  </div>
{:else}
  {@render row('bare_edge_mm', 'Bare edge', 'liner without film at its beginning', unitOf(session.style), 'text')}
{/if}
{@render row('bought_on', 'Bought on', '', '', 'date')}
{@render row('note', 'Note', '', '', 'text')}
