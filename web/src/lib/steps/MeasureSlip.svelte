<script lang="ts">
  import { onMount } from 'svelte';
  import type { JobState } from '../state/job.svelte';
  import { tables } from '../state/tables.svelte';
  import Field from '../ui/Field.svelte';
  import Fold from '../ui/Fold.svelte';
  import CupFields from './measure/CupFields.svelte';
  import DomeFields from './measure/DomeFields.svelte';
  import InsertFields from './measure/InsertFields.svelte';
  import { kindOf, KINDS } from './measure/kinds';
  import MeshFields from './measure/MeshFields.svelte';
  import MeshFile from './measure/MeshFile.svelte';
  import PanelFields from './measure/PanelFields.svelte';
  import RingFields from './measure/RingFields.svelte';
  import ShelfLink from './measure/ShelfLink.svelte';
  import StackFields from './measure/StackFields.svelte';

  let { job }: { job: JobState } = $props();
  const kind = $derived(String(job.value('blank.kind')));
  const chosen = $derived(kindOf(job.value('blank') as never));
  let wantsMesh = $state(false);
  onMount(() => void tables.load());

  function pick(e: Event) {
    const to = (e.target as HTMLSelectElement).value;
    wantsMesh = to === 'mesh';
    if (wantsMesh) return;
    const start = tables.blanks[to] as Record<string, unknown> | undefined;
    if (!start) return;
    job.photo = false;
    const now = job.value('blank') as Record<string, unknown>;
    job.set('blank', { ...start, colour: now.colour, note: now.note });
  }
</script>

<label class="border-hairline grid grid-cols-[1fr_212px] items-center gap-x-3 border-b pb-[7px]">
  It is a
  <select id="field-blank.kind" class="input" value={wantsMesh ? 'mesh' : chosen} onchange={pick}>
    {#each KINDS as [id, name] (id)}<option value={id}>{name}</option>{/each}
  </select>
</label>
{#if wantsMesh && kind !== 'mesh'}
  <p class="fine py-2">A scan or a drawing of the body as triangles: STL, OBJ or PLY.</p>
  <MeshFile {job} label="Bring a mesh" />
{/if}
{#if kind === 'cup'}<CupFields {job} />
{:else if kind === 'stack'}<StackFields {job} />
{:else if kind === 'revolution'}<RingFields {job} />
{:else if kind === 'dome'}<DomeFields {job} />
{:else if kind === 'insert'}<InsertFields {job} />
{:else if kind === 'mesh'}<MeshFields {job} />
{:else}<PanelFields {job} />{/if}
<Fold title="The blank" note={String(job.value('blank.name') ?? '')}>
  <Field {job} path="blank.name" label="Called" kind="text" />
  <label class="border-hairline flex items-center justify-between border-b py-[7px]">
    Colour
    <input
      type="color"
      class="h-8 w-[122px]"
      value={String(job.value('blank.colour'))}
      onchange={(e) => job.set('blank.colour', (e.target as HTMLInputElement).value)}
    />
  </label>
  <label class="block pt-2">
    Note
    <textarea
      class="input mt-1 min-h-16"
      maxlength="2000"
      value={String(job.value('blank.note') ?? '')}
      onchange={(e) => job.set('blank.note', (e.target as HTMLTextAreaElement).value)}></textarea>
  </label>
  <ShelfLink {job} />
</Fold>
<Fold title="The job" open note={String(job.value('title') ?? '')}>
  <Field {job} path="title" label="Title" kind="text" />
  <Field {job} path="customer" label="For" kind="text" />
  <Field {job} path="quantity" label="How many" kind="number" />
  <label class="border-hairline flex items-center justify-between border-b py-[7px]">
    Due
    <input
      type="date"
      class="input w-[150px]!"
      value={String(job.value('due') ?? '')}
      onchange={(e) => job.set('due', (e.target as HTMLInputElement).value || null)}
    />
  </label>
</Fold>
