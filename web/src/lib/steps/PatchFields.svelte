<script lang="ts">
  /** Which part of a scanned body is wrapped, which line stays true, and its flattening as a task. */
  import { client, take, wordsOf, type Schemas } from '../api/client';
  import { follow, isBusy } from '../api/work';
  import type { JobState } from '../state/job.svelte';
  import Field from '../ui/Field.svelte';
  import Pick from '../ui/Pick.svelte';

  let { job, choice }: { job: JobState; choice: boolean } = $props();
  let work = $state<Schemas['FlatteningOut'] | null>(null);
  let trouble = $state('');
  const mode = $derived(String(job.value('wrap.patch.mode') ?? 'whole'));
  const busy = $derived(isBusy(work));
  const waits = $derived(job.scene?.fault?.code === 'not_flattened');
  const loop = $derived((job.value('wrap.patch.loop') as [number, number][] | undefined) ?? []);
  const faults = $derived(job.faults.filter((f) => f.field.startsWith('wrap.patch')));

  async function flatten() {
    trouble = '';
    try {
      work = await follow(
        take(
          client.POST('/api/jobs/{job_id}/flattenings', {
            params: { path: { job_id: job.id } },
            body: { document: job.document as never },
          }),
        ),
        (id) => take(client.GET('/api/flattenings/{work_id}', { params: { path: { work_id: id } } })),
        (now) => (work = now),
      );
      if (work.error) trouble = `${work.error.message} ${work.error.hint}`;
      await job.build();
    } catch (bad) {
      trouble = wordsOf(bad);
    }
  }
  async function stop() {
    if (work)
      work = await take(client.DELETE('/api/flattenings/{work_id}', { params: { path: { work_id: work.id } } }));
  }
  /** A loop to start from: a box round the middle of what is seen. */
  function startLoop() {
    const m = job.scene?.measure;
    const w = (m?.width ?? 100) / 4;
    const h = (m?.height ?? 100) / 4;
    const y = (m?.height ?? 100) / 2;
    job.set('wrap.patch', {
      ...(job.value('wrap.patch') as object),
      mode: 'loop',
      loop: [
        [-w, y - h],
        [w, y - h],
        [w, y + h],
        [-w, y + h],
      ],
    });
  }
</script>

{#if choice}
  <Pick
    {job}
    path="wrap.patch.mode"
    label="Wrapped is"
    choices={[
      ['whole', 'the whole body'],
      ['grow', 'round a place'],
      ['loop', 'inside a loop'],
    ]}
    onpick={(v) => (v === 'loop' && !loop.length ? startLoop() : job.set('wrap.patch.mode', v))}
  />
  {#if mode === 'grow'}
    <Field {job} path="wrap.patch.radius_mm" label="Within" note="along the surface" />
    <p class="fine pt-1">Click the place on the object, or type it: right, up, toward the eye.</p>
    <div class="mt-1 grid grid-cols-3 gap-2">
      {#each ['right', 'up', 'toward the eye'] as name, i (name)}
        <Field {job} path="wrap.patch.seed.{i}" label="Place, {name}" short />
      {/each}
    </div>
  {:else if mode === 'loop'}
    <p class="fine pt-1">Drag its corners on the front view of Measure (key 1), or type them: to the right, and up.</p>
    {#each loop as _, c (c)}
      <div class="mt-1 grid grid-cols-2 gap-2">
        <Field {job} path="wrap.patch.loop.{c}.0" label="Loop corner {c + 1}, right" short />
        <Field {job} path="wrap.patch.loop.{c}.1" label="Loop corner {c + 1}, up" short />
      </div>
    {/each}
  {/if}
{/if}
<Pick
  {job}
  path="wrap.patch.line"
  label="Stays true"
  note="through the middle"
  choices={[
    ['across', 'the level line'],
    ['up', 'the upright line'],
  ]}
/>
{#if waits || busy}
  <div class="flex gap-2 pt-2">
    <button class="button button-main" disabled={busy} onclick={flatten}>Flatten the patch</button>
    {#if busy}<button class="button" onclick={stop}>Stop</button>{/if}
  </div>
{/if}
<div aria-live="polite" class="text-[13px]">
  {#if busy}
    <progress class="mt-2 w-full" max="1" value={work?.share ?? 0} aria-label="Flattening"></progress>
    <p class="fine">{work?.working_on || 'waiting its turn'}</p>
  {:else if work?.status === 'stopped'}<p class="pt-1">Stopped; nothing was flattened.</p>{/if}
  {#if trouble}<p class="text-stop pt-1" role="alert">{trouble}</p>{/if}
  {#if !waits}
    {#each faults as fault (fault.message)}
      <p class="text-stop pt-1" role="alert">{fault.message} {fault.hint}</p>
    {/each}
  {/if}
</div>
