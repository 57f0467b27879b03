<script lang="ts">
  /** A paper template wrapped round the blank: how it gaped, what that makes of the body, and the trials before. */
  import { onMount } from 'svelte';
  import type { JobState } from '../../state/job.svelte';
  import { tables } from '../../state/tables.svelte';
  import { session } from '../../state/session.svelte';
  import { lengthText, unitOf } from '../../units';
  import Field from '../../ui/Field.svelte';
  import Fold from '../../ui/Fold.svelte';
  import FilesButton from '../FilesButton.svelte';

  let { job }: { job: JobState } = $props();
  type Trial = { on: string | null };
  const trials = $derived((job.value('blank.trials') as Trial[] | undefined) ?? []);
  const found = $derived(job.scene?.measure.trials ?? []);
  const n = $derived(trials.length - 1);
  onMount(() => void tables.load());
  async function add() {
    const on = new Date().toISOString().slice(0, 10);
    await job.setOffered<object>('blank.trials', 'trials.next', (next) => [...trials, { ...next, on }]);
    setTimeout(() => document.getElementById(`field-blank.trials.${n}.top_mm`)?.focus(), 30);
  }
  const text = (mm: number | undefined) => (mm === undefined ? '…' : lengthText(mm, session.style, 1));
</script>

<Fold title="Trial fit" note={trials.length ? `${trials.length} done` : ''} open={trials.length > 0}>
  <p class="fine pb-1 leading-snug">
    Print the template 1 : 1, cut it out, wrap it where it will sit. Type how far its ends gape; an overlap is negative.
  </p>
  <FilesButton {job} only={['template']} label="Template" />
  {#if n >= 0}
    <Field {job} path="blank.trials.{n}.top_mm" label="Gap at the top" note="trial {n + 1}" />
    <Field {job} path="blank.trials.{n}.bottom_mm" label="Gap at the bottom" />
    <table class="mt-2 w-full text-[13px]">
      <caption class="sr-only">Trials, with the way round before and after each</caption>
      <thead class="text-quiet text-left">
        <tr
          ><th class="font-[500]">trial</th><th class="font-[500]">round the top</th><th class="font-[500]"
            >the bottom</th
          ></tr
        >
      </thead>
      <tbody class="narrow">
        {#each trials as t, i (i)}
          <tr class="border-hairline border-t">
            <td>{i + 1}{t.on ? `, ${t.on}` : ''}</td>
            <td>{text(found[i]?.top_before)} → <b class="font-[650]">{text(found[i]?.top_after)}</b></td>
            <td
              >{text(found[i]?.bottom_before)} → <b class="font-[650]">{text(found[i]?.bottom_after)}</b>
              {unitOf(session.style)}</td
            >
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
  <div class="flex gap-2 pt-2 text-[13px]">
    <button class="button px-2!" disabled={!tables.hasRoom('cup.trials', trials.length)} onclick={add}
      >{n >= 0 ? 'Another trial' : 'Type a trial'}</button
    >
    {#if n >= 0}
      <button class="button px-2!" onclick={() => job.set('blank.trials', trials.slice(0, -1))}
        >Take the last one back</button
      >
    {/if}
  </div>
</Fold>
