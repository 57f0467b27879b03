<script lang="ts">
  /** Flat panels of every shape, panels bent one way, and what is kept clear on them. */
  import { onMount } from 'svelte';
  import { client, take, fileForm } from '../../api/client';
  import type { JobState } from '../../state/job.svelte';
  import { tables } from '../../state/tables.svelte';
  import { session } from '../../state/session.svelte';
  import { length } from '../../units';
  import Field from '../../ui/Field.svelte';
  import Fold from '../../ui/Fold.svelte';
  import Pick from '../../ui/Pick.svelte';
  import Switch from '../../ui/Switch.svelte';
  import CutFrom from './CutFrom.svelte';
  import Readings from '../Readings.svelte';
  import { SHAPES } from './kinds';
  import RiseGrid from './RiseGrid.svelte';
  import FilePick from '../../ui/FilePick.svelte';
  import Zones from './Zones.svelte';

  let { job }: { job: JobState } = $props();
  const kind = $derived(String(job.value('blank.kind')));
  const shape = $derived(String(job.value('blank.shape') ?? 'rectangle'));
  const places = $derived((job.value('blank.places') as unknown[] | undefined) ?? []);
  const free = $derived(job.scene?.measure.free.parts[0]);
  onMount(() => void tables.load());
  let trouble = $state('');
  let picker: FilePick;

  /** Another shape keeps the size it had, read the way that shape is read. */
  function pickShape(to: string) {
    if (to === 'outline') return picker.pick();
    void job.setOffered<object>('blank', `shape.${to}`, (shape) => ({ ...(job.value('blank') as object), ...shape }));
  }
  async function bringOutline(file: File) {
    const added = await take(
      client.POST('/api/jobs/{job_id}/outline', {
        params: { path: { job_id: job.id } },
        ...fileForm(file),
      }),
    );
    job.set('blank', {
      ...(job.value('blank') as object),
      shape: 'outline',
      outline: added.file,
      width: { reads: 'width', instrument: 'ruler', readings: [Number(added.width.toFixed(2))] },
      height: null,
      corner: null,
    });
  }
  const SIZES: [string, string][] = [
    ['across_flats', 'across flats'],
    ['across_corners', 'across corners'],
    ['side', 'one side'],
  ];
</script>

<FilePick bind:this={picker} accept=".svg,.dxf" label="Drawing of the outline" onfile={bringOutline} bind:trouble />
{#if kind === 'panel'}
  <Pick {job} path="blank.shape" label="Shape" choices={SHAPES} onpick={pickShape} />
  {#if shape === 'outline'}
    <p class="fine py-1">
      {job.value('blank.outline')} ·
      <button class="link" onclick={() => picker.pick()}>another drawing</button>
    </p>
  {/if}
  {#if shape === 'circle'}
    <Readings
      {job}
      name="width"
      title="Size"
      reads={[
        ['diameter', 'across it'],
        ['circumference', 'round it'],
      ]}
      checks={[
        ['diameter', 'across it'],
        ['circumference', 'round it'],
      ]}
    />
  {:else if shape === 'hexagon' || shape === 'polygon'}
    {#if shape === 'polygon'}<Field {job} path="blank.sides" label="Sides" kind="number" />{/if}
    <Readings {job} name="width" title="Size" reads={SIZES} checks={shape === 'hexagon' ? SIZES.slice(0, 2) : []} />
  {:else}
    <Readings {job} name="width" title="Width" reads={[['width', 'width']]} />
    {#if shape !== 'outline'}<Readings {job} name="height" title="Height" reads={[['height', 'height']]} />{/if}
    {#if shape === 'rounded'}<Readings {job} name="corner" title="Corners" reads={[['radius', 'radius']]} />{/if}
  {/if}
{:else if kind === 'curved_panel'}
  {@const along: [string, string][] = [['arc', 'along it'], ['chord', 'edge to edge']]}
  {@const across = job.value('blank.bend') === 'across'}
  <Pick
    {job}
    path="blank.bend"
    label="It bends"
    choices={[
      ['across', 'from left to right'],
      ['up', 'from below upward'],
    ]}
  />
  <Switch {job} path="blank.hollow" label="Hollow" note="bends away from who looks at it" />
  <Readings {job} name="width" title="Width" reads={across ? along : [['width', 'width']]} />
  <Readings {job} name="height" title="Height" reads={across ? [['height', 'height']] : along} />
  {#each places as _, i (i)}
    <div class="flex items-center justify-between pt-3">
      <h2 class="text-blue">Bend, place {i + 1}</h2>
      {#if tables.canSpare('curved_panel.places', places.length)}
        <button
          class="link text-[13px]"
          onclick={() =>
            job.set(
              'blank.places',
              places.filter((_, n) => n !== i),
            )}>take out</button
        >
      {/if}
    </div>
    <Readings {job} name="places.{i}.chord" title="Chord" reads={[['chord', 'straight edge']]} />
    <Readings {job} name="places.{i}.rise" title="Rise in its middle" reads={[['rise', 'rise']]} />
  {/each}
  <button
    class="button my-2 text-[13px]"
    disabled={!tables.hasRoom('curved_panel.places', places.length)}
    onclick={() => job.set('blank.places', [...places, places[places.length - 1]])}>+ place</button
  >
{:else if kind === 'rise_panel'}
  <RiseGrid {job} />
{/if}
{#if kind === 'panel'}<CutFrom {job} />{/if}
{#if trouble}<p class="text-stop py-1 text-[13px]" role="alert">{trouble}</p>{/if}
<Fold
  title="Keep out"
  open
  note={free ? `free: ${length(free.width, session.style)} × ${length(free.height, session.style)}` : ''}
>
  <Field {job} path="blank.margin_mm" label="Margin kept clear" />
  {#if kind !== 'dome'}
    <Switch
      {job}
      path="blank.on_vehicle"
      label="On a vehicle"
      note="then mark lights, plates, sensors, labels, the view"
    />
  {/if}
  <Zones {job} round={false} />
</Fold>
