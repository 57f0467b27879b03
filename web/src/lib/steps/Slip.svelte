<script lang="ts">
  /** The fields of the step the job is at. */
  import type { JobState } from '../state/job.svelte';
  import { STEP_NAMES } from '../state/steps';
  import ArtworkSlip from './ArtworkSlip.svelte';
  import LayersSlip from './LayersSlip.svelte';
  import LayupSlip from './LayupSlip.svelte';
  import MeasureSlip from './MeasureSlip.svelte';
  import PriceSlip from './PriceSlip.svelte';
  import SheetsSlip from './SheetsSlip.svelte';
  import UnwrapSlip from './UnwrapSlip.svelte';

  let { job, load = $bindable() }: { job: JobState; load: number } = $props();
</script>

<h1 class="mb-2">{job.step === 'measure' ? String(job.value('blank.name') ?? '') : STEP_NAMES[job.step]}</h1>
{#if job.document}
  {#if job.step === 'measure'}<MeasureSlip {job} />
  {:else if job.step === 'unwrap'}<UnwrapSlip {job} />
  {:else if job.step === 'artwork'}<ArtworkSlip {job} />
  {:else if job.step === 'layers'}<LayersSlip {job} />
  {:else if job.step === 'sheets'}<SheetsSlip {job} bind:load />
  {:else if job.step === 'layup'}<LayupSlip {job} />
  {:else}<PriceSlip {job} />{/if}
{/if}
