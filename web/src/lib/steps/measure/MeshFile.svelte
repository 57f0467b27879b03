<script lang="ts">
  /** Brings a triangle mesh into the job and makes it the blank. */
  import { client, take, fileForm } from '../../api/client';
  import FilePick from '../../ui/FilePick.svelte';
  import type { JobState } from '../../state/job.svelte';

  let { job, label }: { job: JobState; label: string } = $props();
  let trouble = $state('');
  let busy = $state(false);
  let picker: FilePick;

  export function pick() {
    picker.pick();
  }
  async function upload(file: File) {
    const added = await take(
      client.POST('/api/jobs/{job_id}/mesh', {
        params: { path: { job_id: job.id } },
        ...fileForm(file),
      }),
    );
    const now = job.value('blank') as Record<string, unknown>;
    job.set('blank', {
      kind: 'mesh',
      name: now.kind === 'mesh' ? now.name : file.name.replace(/\.[^.]*$/, '').slice(0, 100),
      colour: now.colour,
      file: added.file,
      unit: now.kind === 'mesh' ? now.unit : added.unit,
      up: now.kind === 'mesh' ? now.up : 'z',
    });
  }
</script>

<FilePick bind:this={picker} accept=".stl,.obj,.ply" label="Mesh of the body" onfile={upload} bind:busy bind:trouble />
<button class="button text-[13px]" disabled={busy} onclick={pick}>{busy ? 'Reading …' : label}</button>
{#if trouble}<p class="text-stop pt-1 text-[13px]" role="alert">{trouble}</p>{/if}
