<script lang="ts">
  /** Which part of a scanned body is wrapped, which line stays true, and its flattening as a task. */
  import { startWork, Task } from '../api/work.svelte';
  import type { JobState } from '../state/job.svelte';
  import Field from '../ui/Field.svelte';
  import Pick from '../ui/Pick.svelte';
  import Working from '../ui/Working.svelte';

  let { job, choice }: { job: JobState; choice: boolean } = $props();
  const task = new Task();
  const mode = $derived(String(job.value('wrap.patch.mode') ?? 'whole'));
  const wanted = $derived(job.scene?.waiting.find((w) => w.kind === 'patch'));
  const loop = $derived((job.value('wrap.patch.loop') as [number, number][] | undefined) ?? []);
  const faults = $derived(job.faults.filter((f) => f.field.startsWith('wrap.patch')));

  async function flatten() {
    const key = wanted!.key;
    await task.run(() => startWork({ kind: 'patch', job: job.id, key, document: job.document as never }));
    await job.build();
  }
  const startLoop = () =>
    job.set('wrap.patch', {
      ...(job.value('wrap.patch') as object),
      mode: 'loop',
      loop: job.offer('patch.loop') ?? [],
    });
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
{#if wanted || task.busy}
  <button class="button button-main mt-2" disabled={task.busy} onclick={flatten}>Flatten the patch</button>
{/if}
<Working {task} what="Flattening" stopped="Stopped; nothing was flattened." />
{#if !wanted}
  {#each faults as fault (fault.message)}
    <p class="text-stop pt-1 text-[13px]" role="alert">{fault.message} {fault.hint}</p>
  {/each}
{/if}
