<script lang="ts">
  /** Keep-out zones the maker adds: bands, sectors, polygons. */
  import type { JobState } from '../../state/job.svelte';
  import Field from '../../ui/Field.svelte';
  import Pick from '../../ui/Pick.svelte';

  let { job, round }: { job: JobState; round: boolean } = $props();
  type Zone = { form: string; kind: string; points?: [number, number][] };
  const zones = $derived((job.value('blank.zones') as Zone[] | undefined) ?? []);
  const kinds = $derived(Object.entries(job.scene?.measure.zone_kinds ?? {}));
  const add = (form: 'band' | 'sector' | 'polygon') =>
    job.setOffered('blank.zones', `zones.${form}`, (zone) => [...zones, zone]);
  const without = (i: number) =>
    job.set(
      'blank.zones',
      zones.filter((_, n) => n !== i),
    );
  function addCorner(i: number) {
    const points = zones[i]!.points!;
    const [a, b] = [points[points.length - 1]!, points[0]!];
    job.set(`blank.zones.${i}.points`, [
      ...points,
      [(Number(a[0]) + Number(b[0])) / 2, (Number(a[1]) + Number(b[1])) / 2],
    ]);
  }
  const FORMS: Record<string, string> = { band: 'Band', sector: 'Strip', polygon: 'Outline' };
</script>

{#each zones as zone, i (i)}
  {@const path = `blank.zones.${i}`}
  <div class="border-hairline border-b py-1">
    <div class="flex items-center justify-between gap-2">
      <span class="text-[13px] font-[650]">{FORMS[zone.form]} {i + 1}</span>
      <button class="link text-[13px]" onclick={() => without(i)}>take out</button>
    </div>
    <Pick {job} path="{path}.kind" label="It is a" choices={kinds} />
    <Field {job} path="{path}.name" label="Called" kind="text" />
    {#if zone.form === 'sector'}
      {#if round}<Field {job} path="{path}.centre_deg" label="Middle" note="from the front" kind="number" unit="°" />
      {:else}<Field {job} path="{path}.centre_mm" label="Middle" note="from the middle" />{/if}
      <Field {job} path="{path}.width_mm" label="Width" />
    {/if}
    {#if zone.form !== 'polygon'}
      <Field {job} path="{path}.low_mm" label="From" note="up" optional={zone.form === 'sector'} />
      <Field {job} path="{path}.high_mm" label="To" note="up" optional={zone.form === 'sector'} />
    {:else}
      <p class="fine pt-1">Corners: {round ? 'round from the front' : 'from the middle'}, and up</p>
      {#each zone.points ?? [] as _, c (c)}
        <div class="mt-1 grid grid-cols-[1fr_1fr_auto] items-center gap-2">
          <Field {job} path="{path}.points.{c}.0" label="Zone {i + 1}, corner {c + 1}, across" short />
          <Field {job} path="{path}.points.{c}.1" label="Zone {i + 1}, corner {c + 1}, up" short />
          <button
            class="text-quiet hover:text-stop size-6"
            aria-label="Take out corner {c + 1} of zone {i + 1}"
            disabled={(zone.points?.length ?? 0) <= 3}
            onclick={() =>
              job.set(
                `${path}.points`,
                zone.points!.filter((_, n) => n !== c),
              )}>×</button
          >
        </div>
      {/each}
      <button class="link mt-1 text-[13px]" onclick={() => addCorner(i)}>another corner</button>
    {/if}
    {#each job.faults.filter((f) => f.field === path || f.field === `${path}.points`) as fault (fault.message)}
      <p class="text-stop mt-1 text-[13px]" role="alert">{fault.message} {fault.hint}</p>
    {/each}
  </div>
{/each}
<div class="flex flex-wrap gap-1 pt-2 text-[13px]">
  <button class="button px-2!" onclick={() => add('band')}>+ band</button>
  <button class="button px-2!" onclick={() => add('sector')}>+ strip</button>
  <button class="button px-2!" onclick={() => add('polygon')}>+ outline</button>
</div>
