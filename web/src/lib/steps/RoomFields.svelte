<script lang="ts">
  /** Where the chosen drawing may be put, and how large it may be there: by its rectangle, or by its true outline. */
  import { client, take, wordsOf, type Placement } from '../api/client';
  import type { JobState } from '../state/job.svelte';
  import type { Scene } from '../state/scene';

  let { job, path, placed, grows }: { job: JobState; path: string; placed: Scene['placed'][number]; grows: boolean } =
    $props();
  let trouble = $state('');
  let growing = $state(false);
  let margin = $state(2);
  /** As large as is free by its true outline, moved and, if that may be, turned. */
  async function grow(turning: boolean) {
    if (!job.document) return;
    growing = true;
    trouble = '';
    try {
      const body = { ...job.placementIn(), margin_mm: Number(margin) || 0, turning };
      const sets = await take(client.POST('/api/jobs/{job_id}/grow', { params: job.params, body }));
      job.place(path, sets as Partial<Placement>);
    } catch (bad) {
      trouble = wordsOf(bad);
    } finally {
      growing = false;
    }
  }
</script>

<div class="flex flex-wrap gap-1 py-2 text-[13px] empty:hidden">
  {#each placed.spots as spot (spot.words)}
    <button class="button px-2!" onclick={() => job.place(path, spot.sets)}>{spot.words}</button>
  {/each}
</div>
{#if placed.rooms.length || grows}<div class="flex flex-wrap items-center gap-1 pb-2 text-[13px]">
    <span class="fine">As large as is free:</span>
    {#each placed.rooms as room (room.words)}
      <button class="button px-2!" onclick={() => job.place(path, room.sets)}>{room.words}</button>
    {/each}
    {#if grows}
      <button class="button px-2!" disabled={growing} onclick={() => grow(false)}>to its outline</button>
      <button class="button px-2!" disabled={growing} onclick={() => grow(true)}
        >{growing ? 'Trying …' : 'turned too'}</button
      >
      <label class="fine flex items-center gap-1"
        >with <input
          class="input w-[58px]! px-1! py-0!"
          type="number"
          min="0"
          max="200"
          step="0.5"
          bind:value={margin}
        /> mm round it</label
      >
    {/if}
  </div>{/if}
{#if trouble}<p class="text-stop pb-2 text-[13px]" role="alert">{trouble}</p>{/if}
