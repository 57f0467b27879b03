<script lang="ts">
  import type { JobState } from '../state/job.svelte';
  import Field from '../ui/Field.svelte';
  import Pick from '../ui/Pick.svelte';
  import FilesButton from './FilesButton.svelte';

  let { job }: { job: JobState } = $props();
  const cup = $derived(job.value('blank.kind') === 'cup');
</script>

{#if cup}
  <Pick
    {job}
    path="wrap.extent"
    label="Template covers"
    choices={[
      ['full', 'all round'],
      ['free', 'the free area'],
    ]}
  />
  {#if job.value('wrap.extent') === 'full'}
    <Field {job} path="wrap.overlap_mm" label="Ends overlap" note="below zero leaves a gap" />
  {/if}
{/if}
<Field
  {job}
  path="wrap.film_thickness_um"
  label="Film thickness"
  note="it wraps at its middle"
  kind="number"
  unit="µm"
/>
<p class="fine mt-4 mb-3 leading-snug">
  Print the template at 100 %, check both rules on the page, wrap it round and see how its ends meet. A tapered wall
  unrolls to a piece of a ring; a straight one to a rectangle.
</p>
<FilesButton {job} only={['template']} label="Template files" />
