<script lang="ts">
  import type { JobState } from '../../state/job.svelte';
  import Field from '../../ui/Field.svelte';
  import Fold from '../../ui/Fold.svelte';
  import Switch from '../../ui/Switch.svelte';
  import CutFrom from './CutFrom.svelte';
  import Readings from '../Readings.svelte';
  import Zones from './Zones.svelte';
  let { job }: { job: JobState } = $props();
  const hole = $derived(job.value('blank.hole') as { form: string } | null);
  const tab = $derived(job.value('blank.tab'));
  const across: [string, string][] = [
    ['diameter', 'across it'],
    ['circumference', 'round it'],
  ];
</script>

<Readings {job} name="inside" title="Inside of the lid or jar" reads={across} checks={across} />
<Field {job} path="blank.clearance_mm" label="Clearance" note="kept free on each side" />
<label class="border-hairline grid grid-cols-[1fr_172px] items-center gap-x-3 border-b py-[7px]">
  Hole
  <select
    class="input"
    value={hole?.form ?? 'none'}
    onchange={(e) => {
      const v = (e.target as HTMLSelectElement).value;
      job.set(
        'blank.hole',
        v === 'none'
          ? null
          : v === 'round'
            ? { form: 'round', width_mm: 3.175, across_mm: 0, up_mm: 0 }
            : { form: 'slot', width_mm: 15.875, height_mm: 2.38125, across_mm: 0, up_mm: 0 },
      );
    }}
  >
    <option value="none">none</option>
    <option value="round">round</option>
    <option value="slot">slot</option>
  </select>
</label>
{#if hole}
  <Field {job} path="blank.hole.width_mm" label={hole.form === 'round' ? 'Across the hole' : 'Slot is long'} />
  {#if hole.form === 'slot'}<Field {job} path="blank.hole.height_mm" label="Slot is wide" />{/if}
  <Field {job} path="blank.hole.across_mm" label="Hole sideways" note="from the middle" />
  <Field {job} path="blank.hole.up_mm" label="Hole up" note="from the middle" />
{/if}
<Switch {job} path="blank.tab" label="Pull tab" on={{ width_mm: 8.636, height_mm: 12.7 }} off={null} />
{#if tab}
  <Field {job} path="blank.tab.width_mm" label="Tab is wide" />
  <Field {job} path="blank.tab.height_mm" label="Tab stands out" />
{/if}
<CutFrom {job} />
<Switch {job} path="blank.candle" label="Covers a candle" note="it must say “remove before lighting”" />
<Fold title="Keep out" open>
  <Field {job} path="blank.margin_mm" label="Margin kept clear" />
  <Zones {job} round={false} />
</Fold>
