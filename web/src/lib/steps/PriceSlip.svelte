<script lang="ts">
  import type { JobState } from '../state/job.svelte';
  import Field from '../ui/Field.svelte';
  import Pick from '../ui/Pick.svelte';
  import FilesButton from './FilesButton.svelte';

  let { job }: { job: JobState } = $props();
  const from = $derived(job.value('price.price_from'));
</script>

<Field {job} path="price.currency" label="Currency" note="up to three letters" kind="text" />
<Field
  {job}
  path="price.blank_cost"
  label="Blank"
  note="each; empty: as a cup usually costs, nothing for what is there"
  kind="money"
  optional
/>
<Field
  {job}
  path="price.labour_minutes"
  label="Labour"
  note="each; empty: as its weeding and laying up are reckoned"
  kind="number"
  unit="min"
  optional
/>
<Field {job} path="price.rate_per_hour" label="Rate" kind="money" unit="/ h" />
<Field {job} path="price.overhead" label="Overhead" note="each" kind="money" />
<Field
  {job}
  path="price.tape_per_m2"
  label="Transfer tape"
  note="empty: as the tape's own table has it"
  kind="money"
  unit="/ m²"
  optional
/>
<h2 class="mt-4 mb-1">Price</h2>
<Pick
  {job}
  path="price.price_from"
  label="Set by"
  choices={[
    ['margin', 'margin'],
    ['markup', 'markup'],
    ['price', 'the price itself'],
  ]}
/>
{#if from === 'margin'}<Field
    {job}
    path="price.margin_percent"
    label="Margin"
    note="profit of the price"
    kind="number"
    unit="%"
  />
{:else if from === 'markup'}<Field
    {job}
    path="price.markup_percent"
    label="Markup"
    note="profit on the cost"
    kind="number"
    unit="%"
  />
{:else}<Field {job} path="price.price" label="Price" note="each" kind="money" />{/if}
<Field {job} path="quantity" label="How many" kind="number" />
<h2 class="mt-4 mb-2">Files</h2>
<FilesButton {job} />
