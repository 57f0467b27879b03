<script lang="ts">
  /** Keeps the blank on the Shelf. */
  import { client, take, wordsOf } from '../../api/client';
  import type { JobState } from '../../state/job.svelte';
  let { job }: { job: JobState } = $props();
  let said = $state('');
  let trouble = $state('');
  async function keep() {
    trouble = '';
    said = '';
    try {
      await job.store();
      if (job.save !== 'saved') throw new Error('The job must be saved first: put right what is marked.');
      const kept = await take(client.POST('/api/shelf', { body: { job: job.id, name: '' } }));
      said = `“${kept.name}” is on the Shelf.`;
    } catch (bad) {
      trouble = wordsOf(bad);
    }
  }
</script>

<div class="py-2 text-[13px]" aria-live="polite">
  <button class="button px-2!" onclick={keep}>Keep this blank on the Shelf</button>
  {#if said}<span class="ml-2">{said} <a class="link" href="/shelf">Look</a></span>{/if}
  {#if trouble}<p class="text-stop pt-1" role="alert">{trouble}</p>{/if}
</div>
