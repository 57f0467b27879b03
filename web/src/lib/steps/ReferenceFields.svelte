<script lang="ts">
  /** A picture to work by: laid under or over the drawing, see-through, never cut. */
  import { client, fileForm, take } from '../api/client';
  import type { JobState } from '../state/job.svelte';
  import Field from '../ui/Field.svelte';
  import FilePick from '../ui/FilePick.svelte';
  import Fold from '../ui/Fold.svelte';
  import Pick from '../ui/Pick.svelte';

  let { job }: { job: JobState } = $props();
  const there = $derived(!!job.document?.reference);
  const what = $derived(
    job.pieces.on && job.pieces.chosen.length ? 'Bring the pieces to it' : 'Bring the drawing to it',
  );
  let busy = $state(false);
  let trouble = $state('');
  let picker = $state<FilePick>();

  async function bring(file: File) {
    const taken = await take(
      client.POST('/api/jobs/{job_id}/reference', { params: { path: { job_id: job.id } }, ...fileForm(file) }),
    );
    job.set('reference', taken);
  }
  const hand = (what: 'move' | 'colour' | 'bring') => (job.picture.hand = job.picture.hand === what ? '' : what);
</script>

<Fold title="Picture to work by" note={there ? 'never cut' : 'none'} open={there}>
  <FilePick
    bind:this={picker}
    accept=".png,.jpg,.jpeg,.webp,image/png,image/jpeg,image/webp"
    label="Picture to work by"
    onfile={bring}
    bind:busy
    bind:trouble
  />
  {#if !there}
    <button class="button my-2 px-2! text-[14px]" disabled={busy} onclick={() => picker?.pick()}
      >{busy ? 'Reading …' : 'Lay a picture under it'}</button
    >
  {:else}
    <Pick
      {job}
      path="reference.lies"
      label="It lies"
      choices={[
        ['under', 'under the drawing'],
        ['over', 'over the drawing'],
        ['hidden', 'out of sight'],
      ]}
    />
    <Field {job} path="reference.seen_percent" label="Seen" kind="number" unit="%" />
    <Field {job} path="reference.width_mm" label="Across" />
    <Field {job} path="reference.turn_deg" label="Turned" kind="number" unit="°" />
    <div class="flex flex-wrap gap-1 py-2 text-[13px]">
      <button class="button px-2!" aria-pressed={job.picture.hand === 'move'} onclick={() => hand('move')}
        >{job.picture.hand === 'move' ? 'Leave it there' : 'Move it by hand'}</button
      >
      <button class="button px-2!" aria-pressed={job.picture.hand === 'colour'} onclick={() => hand('colour')}
        >Take a colour from it</button
      >
      <button
        class="button px-2!"
        aria-pressed={job.picture.hand === 'bring'}
        disabled={!job.scene?.placed.length}
        onclick={() => hand('bring')}>{job.picture.hand === 'bring' ? 'It is there' : what}</button
      >
      <button
        class="button px-2!"
        onclick={() => {
          job.picture.hand = '';
          job.set('reference', null);
        }}>Take it away</button
      >
    </div>
    {#if job.picture.hand === 'bring'}
      <p class="fine pb-2">
        Drag from a place on {job.pieces.on && job.pieces.chosen.length ? 'the pieces picked' : 'the drawing'} to where it
        belongs on the picture. A second drag turns {job.pieces.on ? 'them' : 'and sizes it'} about the first.
      </p>
    {/if}
    {#if job.picture.brought}<p class="pb-2 text-[13px]" role="status">{job.picture.brought}</p>{/if}
    {#if job.picture.taken}
      <p class="flex items-center gap-2 pb-2 text-[13px]" role="status">
        <span class="border-edge size-5 border" style:background={job.picture.taken}></span>{job.picture.taken} · {job
          .picture.takenFor}
      </p>
    {/if}
  {/if}
  {#if trouble}<p class="text-stop py-1 text-[13px]" role="alert">{trouble}</p>{/if}
</Fold>
