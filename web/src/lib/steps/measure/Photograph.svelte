<script lang="ts">
  /** A side view: taken in by a task, marked by hand, held against the readings, or read off as rings. */
  import { client, fileForm, takeAs } from '../../api/client';
  import { startWork, Task, type Work } from '../../api/work.svelte';
  import { untrack } from 'svelte';
  import type { JobState } from '../../state/job.svelte';
  import { session } from '../../state/session.svelte';
  import { length } from '../../units';
  import Field from '../../ui/Field.svelte';
  import Fold from '../../ui/Fold.svelte';
  import FilePick from '../../ui/FilePick.svelte';
  import Pick from '../../ui/Pick.svelte';
  import Working from '../../ui/Working.svelte';

  let { job }: { job: JobState } = $props();
  const task = new Task();
  let trouble = $state('');
  let picker: FilePick;
  const photo = $derived(job.value('blank.photo') as { file: string } | null);
  const busy = $derived(task.busy);
  const found = $derived(job.scene?.measure.photo);
  /** How many rings may be read off it. */
  const offered = $derived([7, 13].filter((n) => job.offer(`rings.${n}`)));
  const faults = $derived(
    job.faults.filter((f) => ['blank.photo.file', 'blank.photo.known', 'blank.photo.axis'].includes(f.field)),
  );
  const WORDS: Record<string, string> = { upper: 'top', lower: 'bottom', base: 'foot' };
  const placeName = (path: string) => {
    const [head, n] = path.split('.');
    return head === 'rings'
      ? `ring ${Number(n) + 1}`
      : head === 'sections'
        ? `section ${Number(n) + 1}`
        : (WORDS[path] ?? path);
  };

  async function upload(file: File) {
    const work = await task.run(() =>
      takeAs<Work>(
        client.POST('/api/jobs/{job_id}/photo', { params: { path: { job_id: job.id } }, ...fileForm(file) }),
      ),
    );
    const taken = work?.result.photo;
    if (!taken) return;
    const { known, axis } = taken.marks;
    job.set('blank.photo', { file: taken.name, known, axis, side: job.offer('photo.side') ?? 'both' });
    job.photo = true;
  }
  // A photograph that came with its job: its outline is found once, by itself.
  $effect(() => {
    const wanted = job.scene?.waiting.find((w) => w.kind === 'photo');
    if (!wanted || untrack(() => task.busy || task.now?.key === wanted.key)) return;
    const document = job.document as never;
    void task
      .run(() => startWork({ kind: 'photo', job: job.id, key: wanted.key, document }))
      .then((done) => done && job.build());
  });
</script>

<FilePick
  bind:this={picker}
  accept="image/jpeg,image/png,image/webp,image/tiff"
  label="Photograph of the side"
  onfile={upload}
  bind:trouble
/>
<Fold title="Photograph" note={photo?.file ?? ''} open={!!photo}>
  {#if !photo}
    <p class="fine pb-2 leading-snug">
      From the side, lens level with the middle of the blank and some 60 cm away, before a plain ground, with a card or
      a rule standing beside it, as far from the lens as its axis.
    </p>
  {/if}
  <div class="flex flex-wrap gap-2 text-[13px]">
    <button class="button px-2!" disabled={busy} onclick={() => picker.pick()}
      >{busy ? 'Finding the outline …' : photo ? 'Another photograph' : 'Bring a photograph'}</button
    >
    {#if photo}
      <button class="button px-2!" aria-pressed={job.photo} onclick={() => (job.photo = !job.photo)}
        >{job.photo ? 'Show the drawing' : 'Show the photograph'}</button
      >
      <button
        class="button px-2!"
        onclick={() => {
          job.photo = false;
          job.set('blank.photo', null);
        }}>Take out</button
      >
    {/if}
  </div>
  <Working {task} what="Finding the outline" stopped="Stopped; nothing was taken in." />
  {#if trouble}<p class="text-stop pt-1 text-[13px]" role="alert">{trouble}</p>{/if}
  {#each faults as fault (fault.message)}
    <p class="text-stop pt-1 text-[13px]" role="alert">{fault.message} {fault.hint}</p>
  {/each}
  {#if photo}
    <p class="fine pt-2 leading-snug">
      In the photograph, drag the white line to both ends of the known length and the dashed one to the middle of foot
      and rim.
    </p>
    <Field {job} path="blank.photo.known_mm" label="Known length" note="85.6 mm is a bank card’s long side" />
    <Field {job} path="blank.photo.distance_mm" label="Lens to axis" note="empty: very far away" optional />
    <Field {job} path="blank.photo.nearer_mm" label="Known length nearer by" note="than the axis, to the lens" />
    <Pick
      {job}
      path="blank.photo.side"
      label="Read the edge"
      choices={[
        ['both', 'both'],
        ['left', 'left'],
        ['right', 'right'],
      ]}
    />
    {#if found?.checks.length}
      <table class="mt-2 w-full text-[13px]">
        <caption class="sr-only">Diameters by photograph and by hand</caption>
        <thead class="text-quiet text-left"
          ><tr
            ><th class="font-[500]">across</th><th class="font-[500]">photograph</th><th class="font-[500]">by hand</th
            ></tr
          ></thead
        >
        <tbody class="narrow">
          {#each found.checks as c (c.name)}
            {@const off = Math.abs(c.by_photo - c.by_hand) > c.spread}
            <tr class="border-hairline border-t {off ? 'text-look-ink font-[650]' : ''}">
              <td>{placeName(c.name)}</td>
              <td>{length(2 * c.by_photo, session.style, 1)}</td>
              <td>{length(2 * c.by_hand, session.style, 1)}{off ? ' ▲' : ''}</td>
            </tr>
          {/each}
        </tbody>
      </table>
    {/if}
    {#if offered.length}
      <div class="flex gap-2 pt-2 text-[13px]">
        {#each offered as count (count)}
          <button class="button px-2!" onclick={() => job.setOffered('blank.rings', `rings.${count}`)}
            >Read {count} rings off it</button
          >
        {/each}
      </div>
    {/if}
  {/if}
</Fold>
