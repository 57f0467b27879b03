<script lang="ts">
  /** The job's files: made by a task that shows its progress and can be stopped, then one zip and each file alone. */
  import { startWork } from '../api/work.svelte';
  import type { JobState } from '../state/job.svelte';
  import { STEP_NAMES } from '../state/steps';
  import Working from '../ui/Working.svelte';

  let { job, only = [], label = 'All files' }: { job: JobState; only?: string[]; label?: string } = $props();
  // They are there still when somebody comes back to them.
  const task = $derived(job.files);
  const made = $derived(task.now?.status === 'done' ? task.now : null);
  const names = $derived((made?.result.names ?? []).filter((n) => !only.length || only.some((o) => n.startsWith(o))));

  const start = () =>
    task.run(async () => {
      await job.store();
      if (job.save !== 'saved') throw new Error('The job must be saved first: put right what is marked.');
      job.filesOf = job.saving.revision;
      return startWork({ kind: 'files', job: job.id, key: '' });
    });
</script>

<div class="flex flex-wrap items-center gap-2">
  <button class="button button-main" disabled={task.busy} onclick={start}
    >{made ? 'Make them again' : `Make ${label.toLowerCase()}`}</button
  >
  {#if made && !only.length}
    <a class="button button-main" href="/api/works/{made.id}/zip" download>Download the zip</a>
  {/if}
</div>
{#if job.red.length}
  <p class="text-stop mt-1 text-[13px] leading-tight">
    {job.red.map((step) => STEP_NAMES[step]).join(' and ')}
    {job.red.length > 1 ? 'are' : 'is'} red: put right what is said there before anything is cut.
  </p>
{/if}
<Working {task} what="Making files" stopped="Stopped; nothing was made." />
{#if made}
  {#if job.saving.revision !== job.filesOf}
    <p class="fine mt-1">Made before the last change.</p>
  {/if}
  <ul class="mt-1 max-h-56 overflow-y-auto text-[13px] leading-6">
    {#each names as name (name)}
      <li class="truncate"><a class="link" href="/api/works/{made.id}/files/{name}" download>{name}</a></li>
    {/each}
  </ul>
{/if}
