<script lang="ts">
  import type { JobState } from '../state/job.svelte';
  import Field from '../ui/Field.svelte';

  let { job }: { job: JobState } = $props();
  const layup = $derived(job.scene?.layup);
  const ORDERS: Record<string, string> = { tape: 'On the tape', blank: 'On the blank', mat: 'On the mat' };
  const applied = $derived(String(job.value('layup.apply_on') ?? '').slice(0, 16));
</script>

{#if layup?.choices.length}<fieldset class="border-hairline border-b pb-1">
    <legend class="text-[15px]">Layers come together</legend>
    {#each layup?.choices ?? [] as c (c.order)}
      {@const taken = layup!.order === c.order}
      <label class="flex gap-2.5 py-1.5 leading-snug">
        <input
          type="radio"
          name="layup-order"
          class="accent-blue mt-0.5 size-4 shrink-0"
          checked={taken}
          onchange={() => job.set('layup.order', c.usual ? 'auto' : c.order)}
        />
        <span class="grow"
          ><b class="font-[650]">{ORDERS[c.order]}</b>{#if c.usual}<span class="fine">, usual here</span>{/if}
          <span class="block text-[13.5px]">{c.asks}</span>
          <span class="block text-[13.5px]">A mistake costs {c.mistake}</span>
          <span class="fine block">Tape: {c.tape}. {c.why[0]!.toUpperCase() + c.why.slice(1)}.</span>
        </span>
      </label>
    {/each}
  </fieldset>{/if}
{#if layup && layup.films > 0}
  <p class="border-hairline border-b py-[7px] text-[14px]">
    The pile is <b class="narrow font-[600]">{layup.thickness}</b> at its highest{layup.films > 1
      ? `, ${layup.films} films on each other`
      : ''}; its highest edge <b class="narrow font-[600]">{layup.edge}</b>{layup.catches
      ? ', which a nail catches.'
      : '.'}
  </p>
{/if}
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
