<script lang="ts">
  /** A side view: taken in by a task, marked by hand, held against the readings, or read off as rings. */
  import { client, takeAs, fileForm, type Schemas } from '../../api/client';
  import { follow, isBusy } from '../../api/work';
  import type { JobState } from '../../state/job.svelte';
  import { session } from '../../state/session.svelte';
  import { length } from '../../units';
  import Field from '../../ui/Field.svelte';
  import Fold from '../../ui/Fold.svelte';
  import FilePick from '../../ui/FilePick.svelte';
  import Pick from '../../ui/Pick.svelte';

  let { job }: { job: JobState } = $props();
  type Photo = Schemas['PhotoOut'];
  let reading = $state<Photo | null>(null);
  let trouble = $state('');
  let picker: FilePick;
  const photo = $derived(job.value('blank.photo') as { file: string } | null);
  const busy = $derived(isBusy(reading));
  const found = $derived(job.scene?.measure.photo);
  const revolution = $derived(job.value('blank.kind') === 'revolution');
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
    reading = await follow(
      takeAs<Photo>(
        client.POST('/api/jobs/{job_id}/photo', { params: { path: { job_id: job.id } }, ...fileForm(file) }),
      ),
      (id) => takeAs<Photo>(client.GET('/api/photos/{reading_id}', { params: { path: { reading_id: id } } })),
      (now) => (reading = now),
    );
    if (reading.error) trouble = `${reading.error.message} ${reading.error.hint}`;
    if (reading.status === 'done' && reading.marks) {
      job.set('blank.photo', {
        file: reading.name,
        known_mm: 85.6,
        known: reading.marks.known,
        axis: reading.marks.axis,
        distance_mm: 600,
        nearer_mm: 0,
        side: job.value('blank.handle') ? ((job.scene?.measure.handle ?? 0) > 0 ? 'left' : 'right') : 'both',
      });
      job.photo = true;
    }
  }
  async function stop() {
    if (reading)
      reading = await takeAs<Photo>(
        client.DELETE('/api/photos/{reading_id}', { params: { path: { reading_id: reading.id } } }),
      );
  }
  /** Rings at even heights off the side line the core found. */
  function readOff(count: number) {
    if (!found) return;
    const { z, r } = found;
    const rings = Array.from({ length: count }, (_, i) => {
      const at = Math.round(((z.length - 1) * i) / (count - 1));
      return {
        height: { reads: 'upright', instrument: 'photo', readings: [Number(Math.max(z[at]!, 0.1).toFixed(2))] },
        girth: { reads: 'diameter', instrument: 'photo', readings: [Number((2 * r[at]!).toFixed(2))] },
      };
    });
    job.set('blank.rings', rings);
  }
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
    {#if busy}<button class="button px-2!" onclick={stop}>Stop</button>{/if}
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
  <div aria-live="polite" class="text-[13px]">
    {#if busy}<p class="fine pt-1">{reading?.working_on || 'waiting its turn'}</p>{/if}
    {#if reading?.status === 'stopped'}<p class="pt-1">Stopped; nothing was taken in.</p>{/if}
    {#if trouble}<p class="text-stop pt-1" role="alert">{trouble}</p>{/if}
    {#each faults as fault (fault.message)}
      <p class="text-stop pt-1" role="alert">{fault.message} {fault.hint}</p>
    {/each}
  </div>
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
    {#if revolution && found}
      <div class="flex gap-2 pt-2 text-[13px]">
        <button class="button px-2!" onclick={() => readOff(7)}>Read 7 rings off it</button>
        <button class="button px-2!" onclick={() => readOff(13)}>13 rings</button>
      </div>
    {/if}
  {/if}
</Fold>
