<script lang="ts">
  /** What every round body has besides its readings: wall, bands, handle, who sees it, the level. */
  import type { JobState } from '../../state/job.svelte';
  import { session } from '../../state/session.svelte';
  import { length, volumeText, volumeUnit } from '../../units';
  import Field from '../../ui/Field.svelte';
  import Fold from '../../ui/Fold.svelte';
  import Pick from '../../ui/Pick.svelte';
  import Switch from '../../ui/Switch.svelte';
  import Readings from '../Readings.svelte';
  import Zones from './Zones.svelte';

  let { job }: { job: JobState } = $props();
  const m = $derived(job.scene?.measure);
  /** Are there lines read somewhere below the rim and above the foot? */
  const lines = $derived(job.value('blank.rim_mm') !== undefined);
  const handle = $derived(job.value('blank.handle') as { free_width?: unknown; free_height?: unknown } | null);
  const level = $derived(job.value('blank.level') as { given: string } | null);
  const free = $derived(m?.free.parts[0]);
</script>

{#if lines}
  <Field {job} path="blank.rim_mm" label="Top was read" note="below the rim, along the side" />
  <Field {job} path="blank.foot_mm" label="Bottom was read" note="above the foot" />
{/if}
<Field {job} path="blank.tape_thickness_mm" label="Tape thickness" />
<Field {job} path="blank.capacity_ml" label="Says it holds" kind="volume" optional />
<Fold
  title="Keep out"
  open
  note={free ? `free: ${length(free.width, session.style)} × ${length(free.height, session.style)}` : ''}
>
  <Field {job} path="blank.lip_band_mm" label="Lip band" note="mouth touches here" />
  <Field {job} path="blank.base_band_mm" label="Base band" />
  <Switch {job} path="blank.handle" label="Handle" on={{ width_mm: 40 }} off={null} />
  {#if handle}
    {#if handle.free_width}
      <Readings {job} name="handle.free_width" title="Free width beside it" reads={[['width', 'round the cup']]} />
      <button class="link text-[13px]" onclick={() => job.set('blank.handle.free_width', null)}
        >give the handle’s own width instead</button
      >
    {:else}
      <Field {job} path="blank.handle.width_mm" label="Handle takes" note="round the cup, with a finger’s room" />
      <button class="link text-[13px]" onclick={() => job.setOffered('blank.handle.free_width', 'handle.free_width')}
        >read the free width beside it instead</button
      >
    {/if}
    {#if handle.free_height}
      <Readings {job} name="handle.free_height" title="Free height beside it" reads={[['height', 'height']]} />
      <button class="link text-[13px]" onclick={() => job.set('blank.handle.free_height', null)}
        >as high as the bands leave</button
      >
    {:else}
      <button
        class="link ml-3 text-[13px]"
        onclick={() => job.setOffered('blank.handle.free_height', 'handle.free_height')}
        >read the free height too</button
      >
    {/if}
  {/if}
  <Zones {job} round />
</Fold>
<Fold title="Who sees it" note={(m?.free.faces ?? []).map((f) => f.seen_by).join(', ')}>
  <Pick
    {job}
    path="blank.faces"
    label="Seen by"
    choices={[
      ['others', 'others'],
      ['holder', 'the holder'],
      ['both', 'both'],
    ]}
  />
  {#if job.value('blank.faces') === 'both'}
    <Pick
      {job}
      path="blank.decals"
      label="Decals"
      choices={[
        ['1', 'one, opposite the handle'],
        ['2', 'two, one each side'],
      ]}
      onpick={(v) => job.set('blank.decals', Number(v))}
    />
  {/if}
  <Pick
    {job}
    path="blank.hand"
    label="Owner’s hand"
    choices={[
      ['right', 'right'],
      ['left', 'left'],
    ]}
  />
  {#each m?.free.faces ?? [] as face (face.seen_by)}
    <p class="fine pt-1">
      {face.seen_by}, {face.centre.toFixed(0)}° round: {length(face.width, session.style)} × {length(
        face.height,
        session.style,
      )} free and readable
    </p>
  {/each}
</Fold>
<Fold title="Wall and level" note={m?.level ? `level ${length(m.level.height, session.style)} up` : ''} open={!!level}>
  <Pick
    {job}
    path="blank.wall"
    label="Wall"
    choices={[
      ['single', 'single'],
      ['double', 'double'],
    ]}
  />
  <Field {job} path="blank.wall_mm" label="Wall thickness" />
  <Switch
    {job}
    path="blank.level"
    label="Water for a level line"
    on={{ given: 'height', height_mm: 40, volume_ml: 100 }}
    off={null}
  />
  {#if level}
    <Pick
      {job}
      path="blank.level.given"
      label="Given is"
      choices={[
        ['height', 'its height'],
        ['volume', 'what is poured'],
      ]}
    />
    {#if level.given === 'height'}
      <Field {job} path="blank.level.height_mm" label="Level stands" note="above the bench" />
    {:else}
      <Field {job} path="blank.level.volume_ml" label="Poured" kind="volume" />
    {/if}
    {#if m?.level}
      <p class="py-1 text-[14px]">
        {#if m.level.volume === null}
          Double wall: set a gauge or a rubber band to {length(m.level.height, session.style)} above the bench.
        {:else}
          <b class="font-[650]">{volumeText(Math.round(m.level.volume), session.style)} {volumeUnit(session.style)}</b>
          stand <b class="font-[650]">{length(m.level.height, session.style)}</b> above the bench; to the brim it holds
          {volumeText(Math.round(m.level.brim), session.style)}.
        {/if}
      </p>
    {/if}
  {/if}
</Fold>
