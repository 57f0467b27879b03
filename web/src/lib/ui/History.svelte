<script lang="ts">
  /** What was done to a job, by whom, and the way back to any of it. */
  import { Dialog } from 'bits-ui';
  import { client, take, type Schemas } from '../api/client';
  import type { JobState } from '../state/job.svelte';
  import { Paged } from '../state/paged.svelte';
  import { session } from '../state/session.svelte';
  import { moment } from './day';

  let { job }: { job: JobState } = $props();
  let open = $state(false);
  const list = new Paged<Schemas['RevisionOut']>(async (start) => {
    const at = { params: { path: { job_id: job.id }, query: { start } } };
    const page = await take(client.GET('/api/jobs/{job_id}/history', at));
    return { total: page.total, rows: page.revisions };
  });
  const VIA = { started: 'Started', saved: 'Changed', undone: 'Undid', redone: 'Redid', restored: 'Brought back' };

  // What lies behind can be neither reached nor read while this is open.
  $effect(() => {
    const behind = document.getElementById('wimple');
    behind?.toggleAttribute('inert', open);
    return () => behind?.removeAttribute('inert');
  });
  async function show() {
    await job.store();
    await list.fresh();
  }
  async function back(to: number) {
    if (await job.restore(to)) open = false;
    else await list.load();
  }
</script>

<Dialog.Root
  bind:open
  onOpenChange={(now) => {
    if (now) void show();
  }}
>
  <Dialog.Trigger class="button min-h-[26px]! px-2! py-0!">History</Dialog.Trigger>
  <Dialog.Portal>
    <Dialog.Overlay class="fixed inset-0 z-30 bg-black/30" />
    <Dialog.Content
      class="bg-sheet border-edge fixed top-0 right-0 z-30 flex h-full w-[460px] max-w-full flex-col border-l"
    >
      <div class="border-hairline flex items-start justify-between gap-4 border-b px-5 pt-4 pb-3">
        <div>
          <Dialog.Title class="text-[19px] font-[650]">History</Dialog.Title>
          <Dialog.Description class="fine leading-snug"
            >The newest first. What is brought back becomes the newest; nothing is lost.</Dialog.Description
          >
        </div>
        <Dialog.Close class="button">Close</Dialog.Close>
      </div>
      <div class="min-h-0 grow overflow-y-auto px-5 pb-5" tabindex="-1">
        {#if list.trouble}<p class="text-stop mt-3" role="alert">{list.trouble}</p>{/if}
        {#if list.rows}
          <ol aria-label="Revisions">
            {#each list.rows as r, i (r.revision)}
              <li class="border-hairline grid grid-cols-[34px_1fr_auto] items-baseline gap-x-2 border-b py-2">
                <span class="fine narrow text-right">{r.revision}</span>
                <span class="min-w-0">
                  <span class="block leading-snug break-words">{VIA[r.via]}{r.what ? ` ${r.what}` : ''}</span>
                  <span class="fine block truncate">{r.by || 'somebody'} · {moment(r.at)}</span>
                </span>
                {#if i === 0}<span class="fine">now</span>
                {:else if session.makes}<button
                    class="link text-[13px]"
                    aria-label="Bring back revision {r.revision}"
                    onclick={() => back(r.revision)}>Bring back</button
                  >{/if}
              </li>
            {/each}
          </ol>
          {#if list.more}
            <button class="button mt-3" onclick={() => list.next()}>Earlier ones</button>
          {/if}
        {:else if !list.trouble}<p class="fine mt-3">Opening …</p>{/if}
      </div>
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>
