<script lang="ts">
  /** The few numbers of what was done to pieces, where it has any. */
  import type { JobState } from '../state/job.svelte';
  import type { Edit } from '../state/pieces.svelte';
  import Field from '../ui/Field.svelte';
  import Pick from '../ui/Pick.svelte';
  import Switch from '../ui/Switch.svelte';

  let { job, edit, path }: { job: JobState; edit: Edit; path: string } = $props();
</script>

{#if edit.kind === 'outline'}
  <Field {job} path="{path}.by_mm" label="Wide" note="below zero it goes inward" />
  <Pick
    {job}
    path="{path}.corners"
    label="Corners"
    choices={[
      ['round', 'round'],
      ['mitred', 'mitred'],
      ['blunt', 'blunt'],
    ]}
  />
  <Switch {job} path="{path}.filled" label="Islands filled" />
{:else if edit.kind === 'shadow'}
  <Field {job} path="{path}.across_mm" label="Sideways" />
  <Field {job} path="{path}.up_mm" label="Up" />
  <Switch {job} path="{path}.swept" label="With all that lies between" />
{:else if edit.kind === 'background'}
  <Pick
    {job}
    path="{path}.shape"
    label="Shape"
    choices={[
      ['close', 'close round them'],
      ['hull', 'stretched round them'],
      ['box', 'a rectangle'],
    ]}
  />
  <Field {job} path="{path}.margin_mm" label="Margin" />
  {#if edit.shape === 'close'}<Field
      {job}
      path="{path}.reach_mm"
      label="Bridges gaps"
      note="up to twice as wide"
    />{/if}
{:else if edit.kind === 'bridges'}
  <Field {job} path="{path}.width_mm" label="Wide" />
  <Field {job} path="{path}.across_mm" label="Moved sideways" />
  <Field {job} path="{path}.turn_deg" label="Turned" kind="number" unit="°" />
{:else if edit.kind === 'cut_out'}
  <Field {job} path="{path}.gap_mm" label="Gap round them" />
  <Switch {job} path="{path}.stay" label="They stay themselves" />
{:else if edit.kind === 'divide'}
  <Field {job} path="{path}.gap_mm" label="Gap" />
  <p class="fine pt-2">From where to where, across and up, in the drawing’s own size</p>
  <div class="mt-1 grid grid-cols-2 gap-1">
    {#each ['start', 'end'] as end (end)}
      {#each ['across', 'up'] as axis, k (axis)}
        <Field {job} path="{path}.{end}.{k}" label="The line’s {end}, {axis}" short />
      {/each}
    {/each}
  </div>
{:else if edit.kind === 'move'}
  <Field {job} path="{path}.turn_deg" label="Turned" kind="number" unit="°" />
{/if}
