<script lang="ts">
  /** The font of some words: shipped, of the workshop's Folio, or brought here; and the forms it offers. */
  import { onMount } from 'svelte';
  import { client, takeAs, wordsOf, type Schemas } from '../api/client';
  import { addToFolio, fetchInto, FONT_FILES, listFolio, type FolioItem } from '../folio/folio';
  import type { JobState } from '../state/job.svelte';
  import { tables } from '../state/tables.svelte';
  import FilePick from '../ui/FilePick.svelte';
  import Pick from '../ui/Pick.svelte';

  let { job, path, features = '' }: { job: JobState; path: string; features?: string } = $props();
  const font = $derived(String(job.value(path) ?? ''));
  const shipped = $derived(tables.fonts.find((f) => f.id === font));
  let mine = $state.raw<FolioItem[]>([]);
  let forms = $state.raw<Schemas['FeatureOut'][]>([]);
  let busy = $state(false);
  let trouble = $state('');
  let picker: FilePick;
  const FOLIO = 'folio:';
  const choices = $derived<[string, string][]>([
    ...tables.fonts.map((f) => [f.id, f.name] as [string, string]),
    ...(shipped || !font ? [] : [[font, mine.find((m) => m.file === font)?.name ?? font] as [string, string]]),
    ...mine.filter((m) => m.file !== font).map((m) => [`${FOLIO}${m.id}`, m.name] as [string, string]),
  ]);
  onMount(() => void find());

  async function find() {
    try {
      mine = (await listFolio({ kind: 'font' })).items;
    } catch (bad) {
      trouble = wordsOf(bad);
    }
  }
  $effect(() => {
    if (features && font) void offered(font);
  });
  async function offered(of: string) {
    const params = { path: { job_id: job.id }, query: { font: of } };
    try {
      const found = await takeAs<Schemas['FeatureOut'][]>(client.GET('/api/jobs/{job_id}/features', { params }));
      if (of === font) forms = found;
    } catch {
      if (of === font) forms = [];
    }
  }
  async function pick(value: string) {
    trouble = '';
    try {
      job.set(path, value.startsWith(FOLIO) ? await fetchInto(Number(value.slice(FOLIO.length)), job.id) : value);
    } catch (bad) {
      trouble = wordsOf(bad);
    }
  }
  async function bring(file: File) {
    const item = await addToFolio(file);
    if (item.kind !== 'font') throw new Error('This is a drawing, not a font; it is in the Folio now.');
    await find();
    await pick(`${FOLIO}${item.id}`);
  }
  const switched = $derived((job.value(features) ?? []) as string[]);
  const isOn = (f: Schemas['FeatureOut']) => (f.on ? !switched.includes(`-${f.tag}`) : switched.includes(f.tag));
  function turn(f: Schemas['FeatureOut']) {
    const sign = f.on ? `-${f.tag}` : f.tag;
    job.set(features, switched.includes(sign) ? switched.filter((s) => s !== sign) : [...switched, sign]);
  }
</script>

<Pick
  {job}
  {path}
  label="Font"
  note={shipped?.character ?? (font ? 'the workshop’s own' : '')}
  {choices}
  onpick={pick}
/>
<FilePick bind:this={picker} accept={FONT_FILES} label="Font to bring" onfile={bring} bind:busy bind:trouble />
<p class="border-hairline flex flex-wrap items-center gap-x-3 border-b py-1 text-[13px]">
  <button class="link" disabled={busy} onclick={() => picker.pick()}>{busy ? 'Reading …' : 'Bring a font'}</button>
  {#if features}
    {#each forms as f (f.tag)}
      <label class="flex min-h-6 items-center gap-1"
        ><input type="checkbox" class="accent-blue size-4" checked={isOn(f)} onchange={() => turn(f)} />{f.words}</label
      >
    {/each}
  {/if}
</p>
{#if trouble}<p class="text-stop py-1 text-[13px]" role="alert">{trouble}</p>{/if}
