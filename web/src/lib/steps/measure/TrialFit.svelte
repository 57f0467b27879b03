<script lang="ts">
  /** A paper template wrapped round the blank: how it gaped, what that makes of the body, and the trials before. */
  import type { JobState } from '../../state/job.svelte';
  import { session } from '../../state/session.svelte';
  import { lengthText, unitOf } from '../../units';
  import Field from '../../ui/Field.svelte';
  import Fold from '../../ui/Fold.svelte';
  import FilesButton from '../FilesButton.svelte';

  let { job }: { job: JobState } = $props();
  type Trial = {
    top_mm: number;
    bottom_mm: number;
    template_top_mm: number;
    template_bottom_mm: number;
    on: string | null;
  };
  const trials = $derived((job.value('blank.trials') as Trial[] | undefined) ?? []);
  const n = $derived(trials.length - 1);
  const value = (name: string) => job.scene?.measure.figures.find((f) => f.name === name)?.value ?? 0;
  function add() {
    const next = trials.length;
    job.set('blank.trials', [
      ...trials,
      {
        top_mm: 0,
        bottom_mm: 0,
        template_top_mm: value('seam_top'),
        template_bottom_mm: value('seam_bottom'),
        on: new Date().toISOString().slice(0, 10),
      },
    ]);
    setTimeout(() => document.getElementById(`field-blank.trials.${next}.top_mm`)?.focus(), 30);
  }
  const text = (mm: unknown) => (typeof mm === 'number' ? lengthText(mm, session.style, 1) : String(mm));
  const after = (t: Trial, edge: 'top' | 'bottom') => {
    const gap = t[`${edge}_mm`];
    return typeof gap === 'number' ? text(t[`template_${edge}_mm`] + gap) : '…';
  };
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
            <td>{text(t.template_top_mm)} → <b class="font-[650]">{after(t, 'top')}</b></td>
            <td
              >{text(t.template_bottom_mm)} → <b class="font-[650]">{after(t, 'bottom')}</b> {unitOf(session.style)}</td
            >
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
  <div class="flex gap-2 pt-2 text-[13px]">
    <button class="button px-2!" disabled={trials.length >= 50} onclick={add}
      >{n >= 0 ? 'Another trial' : 'Type a trial'}</button
    >
    {#if n >= 0}
      <button class="button px-2!" onclick={() => job.set('blank.trials', trials.slice(0, -1))}
        >Take the last one back</button
      >
    {/if}
  </div>
</Fold>
