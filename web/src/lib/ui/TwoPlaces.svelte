<script lang="ts">
  /** Asked where a job was changed in two places: keep both, or go on from the newer. */
  import { Dialog } from 'bits-ui';
  import { goto } from '$app/navigation';
  import type { JobState } from '../state/job.svelte';

  let { job }: { job: JobState } = $props();
  async function keepBoth() {
    const twin = await job.saving.keepBoth();
    await goto(`/jobs/${twin}/${job.step}`);
  }
</script>

<Dialog.Root open={job.stale !== null}>
  <Dialog.Portal>
    <Dialog.Overlay class="fixed inset-0 bg-black/30" />
    <Dialog.Content
      class="bg-sheet border-edge fixed top-1/2 left-1/2 w-[440px] -translate-x-1/2 -translate-y-1/2 rounded-[3px] border p-6"
      escapeKeydownBehavior="ignore"
      interactOutsideBehavior="ignore"
    >
      <Dialog.Title class="text-[19px] font-[650]">Changed in two places</Dialog.Title>
      <Dialog.Description class="mt-2 mb-4 leading-snug"
        >This job was changed elsewhere since you opened it. Nothing is lost: keep yours as a job of its own beside the
        other, or go on from the newer one.</Dialog.Description
      >
      <div class="flex gap-2">
        <button class="button button-main" onclick={keepBoth}>Keep both</button>
        <button class="button" onclick={() => job.takeNewer()}>Go on from the newer one</button>
      </div>
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>
