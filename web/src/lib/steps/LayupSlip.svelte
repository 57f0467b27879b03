<script lang="ts">
  import type { JobState } from '../state/job.svelte';
  import Field from '../ui/Field.svelte';
  import Pick from '../ui/Pick.svelte';

  let { job }: { job: JobState } = $props();
  const layup = $derived(job.scene?.layup);
  const applied = $derived(String(job.value('layup.apply_on') ?? '').slice(0, 16));
</script>

<Pick
  {job}
  path="layup.order"
  label="Layers come together"
  choices={[
    ['auto', 'on the tape, usual'],
    ['tape', 'on the tape'],
    ['blank', 'on the blank'],
    ['mat', 'on the mat'],
  ]}
/>
<label class="border-hairline flex items-center justify-between gap-3 border-b py-[7px]"
  >Applied <input
    type="datetime-local"
    class="input w-[196px]!"
    value={applied}
    onchange={(e) => job.set('layup.apply_on', (e.target as HTMLInputElement).value || null)}
  /></label
>
<Field {job} path="layup.cure_hours" label="Cures for" note="48 h at least, 72 are better" kind="number" unit="h" />
{#if layup?.wash_from}
  <p class="py-2">
    First wash from <b
      >{new Date(layup.wash_from).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })}</b
    >
  </p>
{/if}
{#if layup}
  <h2 class="mt-3 mb-1">Take care</h2>
  <ul class="text-[13.5px] leading-snug">
    {#each layup.cautions as c (c)}<li class="border-hairline border-b py-[6px]">{c}</li>{/each}
  </ul>
  <p class="fine mt-2">Where a rule is local or a trade is licensed, that rule comes first.</p>
{/if}
