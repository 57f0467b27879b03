<script lang="ts">
  /** The job's files: made by a task that shows its progress and can be stopped, then one zip and each file alone. */
  import { client, take, wordsOf, type Schemas } from '../api/client';
  import { follow, isBusy } from '../api/work';
  import type { JobState } from '../state/job.svelte';

  let { job, only = [], label = 'All files' }: { job: JobState; only?: string[]; label?: string } = $props();
  let made = $state<Schemas['ExportOut'] | null>(null);
  let trouble = $state('');
  const busy = $derived(isBusy(made));
  const names = $derived((made?.names ?? []).filter((n) => !only.length || only.some((o) => n.startsWith(o))));

  async function start() {
    trouble = '';
    made = null;
    try {
      await job.store();
      if (job.save !== 'saved') throw new Error('The job must be saved first: put right what is marked.');
      made = await follow(
        take(client.POST('/api/jobs/{job_id}/exports', { params: { path: { job_id: job.id } } })),
        (id) => take(client.GET('/api/exports/{export_id}', { params: { path: { export_id: id } } })),
        (now) => (made = now),
      );
      if (made.error) trouble = `${made.error.message} ${made.error.hint}`;
    } catch (bad) {
      trouble = wordsOf(bad);
    }
  }
  async function stop() {
    if (made)
      made = await take(client.DELETE('/api/exports/{export_id}', { params: { path: { export_id: made.id } } }));
  }
</script>

<div class="flex flex-wrap items-center gap-2">
  <button class="button button-main" disabled={busy} onclick={start}
    >{made?.status === 'done' ? 'Make them again' : `Make ${label.toLowerCase()}`}</button
  >
  {#if busy}
    <button class="button" onclick={stop}>Stop</button>
  {/if}
  {#if made?.status === 'done' && !only.length}
    <a class="button button-main" href="/api/exports/{made.id}/zip" download>Download the zip</a>
  {/if}
</div>
<div aria-live="polite" class="mt-2 text-[13px]">
  {#if busy}
    <progress class="w-full" max={made?.total || 1} value={made?.done ?? 0} aria-label="Making files"></progress>
    <p class="fine truncate">{made?.working_on || 'waiting its turn'}</p>
  {:else if made?.status === 'stopped'}
    <p>Stopped; nothing was made.</p>
  {/if}
  {#if trouble}<p class="text-stop" role="alert">{trouble}</p>{/if}
  {#if made?.status === 'done'}
    <ul class="mt-1 max-h-56 overflow-y-auto leading-6">
      {#each names as name (name)}
        <li class="truncate"><a class="link" href="/api/exports/{made.id}/files/{name}" download>{name}</a></li>
      {/each}
    </ul>
  {/if}
</div>
