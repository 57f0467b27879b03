<script lang="ts">
  /** What is written down of a piece of film. */
  import { session } from '../state/session.svelte';
  import { tables } from '../state/tables.svelte';
  import { unitOf } from '../units';
  import TypedRow from '../ui/TypedRow.svelte';
  import { stock, type PieceForm } from './stock.svelte';

  let { form = $bindable(), fixed }: { form: PieceForm; fixed: boolean } = $props();
  void tables.load();
  const unit = $derived(unitOf(session.style));
  const names = $derived(tables.colours.filter((c) => c.film === form.film));
  const colour = $derived(names.find((c) => c.name === form.name)?.colour ?? '#ffffff');
  const FORMS: [PieceForm['form'], string][] = [
    ['roll', 'a roll'],
    ['sheet', 'sheets'],
    ['remnant', 'a remnant'],
  ];
</script>

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
<TypedRow
  id="piece-width"
  label="Width"
  note="across it"
  {unit}
  fault={stock.fault('width_mm')}
  bind:value={form.width_mm}
/>
<TypedRow
  id="piece-length"
  label="Length"
  note={form.form === 'roll' ? 'left on the roll' : 'along it'}
  {unit}
  fault={stock.fault('length_mm')}
  bind:value={form.length_mm}
/>
{#if form.form === 'sheet'}
  <TypedRow id="piece-sheets" label="How many" fault={stock.fault('sheets')} bind:value={form.sheets} />
{/if}
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
  <TypedRow
    id="piece-bare"
    label="Bare edge"
    note="liner without film at its beginning"
    {unit}
    fault={stock.fault('bare_edge_mm')}
    bind:value={form.bare_edge_mm}
  />
{/if}
<TypedRow
  id="piece-bought"
  label="Bought on"
  type="date"
  fault={stock.fault('bought_on')}
  bind:value={form.bought_on}
/>
<TypedRow id="piece-note" label="Note" wide fault={stock.fault('note')} bind:value={form.note} />
