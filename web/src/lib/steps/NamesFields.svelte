<script lang="ts">
  /** A list of names: one decal for each line, in the same frame; its lines as they fit, the one that is shown. */
  import { client, fileForm, takeAs, wordsOf, type JobDocument, type Schemas } from '../api/client';
  import type { JobState } from '../state/job.svelte';
  import Field from '../ui/Field.svelte';
  import FilePick from '../ui/FilePick.svelte';
  import Glyph from '../ui/Glyph.svelte';

  let { job }: { job: JobState } = $props();
  type Names = NonNullable<JobDocument['names']>;
  type Varies = Schemas['VariesView'];
  const names = $derived((job.document?.names ?? null) as Names | null);
  const view = $derived(job.scene?.names);
  const varies = $derived(view?.varies ?? []);
  let typed = $state('');
  let writing = $state(false);
  let read = $state.raw<Schemas['ListOut'] | null>(null);
  let chosen = $state<string[]>([]);
  let busy = $state(false);
  let trouble = $state('');
  let picker = $state<FilePick>();
  const LEFT_OUT = '';
  const keyOf = (v: { element: string; field?: string }) => `${v.element}/${v.field ?? 'text'}`;

  /** What a column is most likely to be: by its heading, else the first words that are free. */
  function likely(heading: string, taken: string[]): string {
    // What is chosen varies before all else.
    const chosen = job.scene?.placed[job.selected]?.element;
    const free = varies
      .filter((v) => !taken.includes(keyOf(v)))
      .sort((a, b) => Number(b.element === chosen) - Number(a.element === chosen));
    const word = heading.toLowerCase().replace('color', 'colour');
    const by = (test: (v: Varies) => boolean) => free.find(test);
    const found =
      (/colour|size|font|drawing|file/.test(word) && by((v) => word.includes(v.words.split(' ')[0] ?? '-'))) ||
      by((v) => v.sized) ||
      by((v) => /words/.test(v.words)) ||
      by((v) => v.field === 'file');
    return found ? keyOf(found) : LEFT_OUT;
  }
  async function take(file: File) {
    const found = await takeAs<Schemas['ListOut']>(
      client.POST('/api/jobs/{job_id}/list', { params: { path: { job_id: job.id } }, ...fileForm(file) }),
    );
    // What may vary is the core's to say.
    if (!varies.length) await job.build();
    const before = names?.columns ?? [];
    const width = found.rows[0]?.length ?? 0;
    chosen = [];
    for (let n = 0; n < width; n++) {
      const was = before.length === width ? before[n] : undefined;
      const kept = was ? keyOf(was) : null;
      chosen.push(kept ?? likely(found.headings[n] ?? '', chosen));
    }
    read = found;
    // One column has one meaning: nothing is to be asked.
    if (width === 1 && chosen[0] !== LEFT_OUT) set();
  }
  async function readTyped() {
    busy = true;
    trouble = '';
    try {
      await take(new File([typed], 'typed.csv', { type: 'text/csv' }));
    } catch (bad) {
      trouble = wordsOf(bad);
    } finally {
      busy = false;
    }
  }
  function set() {
    if (!read) return;
    const used = chosen.map((key, n) => ({ key, n })).filter((c) => c.key !== LEFT_OUT);
    const old = new Map((names?.columns ?? []).map((c) => [keyOf(c), c]));
    const columns = used.map(({ key, n }) => {
      const v = varies.find((x) => keyOf(x) === key)!;
      return { ...old.get(key), title: read!.headings[n] ?? '', element: v.element, field: v.field };
    });
    const rows = read.rows.map((row) => used.map(({ n }) => row[n] ?? ''));
    job.set('names', { columns, rows, shown: Math.min(names?.shown ?? 0, rows.length - 1) });
    writing = false;
  }
  function change() {
    const quoted = (c: string) => (/[\t\n"]/.test(c) ? `"${c.replaceAll('"', '""')}"` : c);
    typed = (names?.rows ?? []).map((row) => row.map(quoted).join('\t')).join('\n');
    read = null;
    writing = true;
  }
  const sized = $derived(
    (names?.columns ?? [])
      .map((c, n) => ({ n, title: c.title || 'Words', v: varies.find((v) => keyOf(v) === keyOf(c)) }))
      .filter((c) => c.v?.sized),
  );
  const show = (n: number) => job.set('names.shown', n);
  function keys(e: KeyboardEvent) {
    const step = { ArrowDown: 1, ArrowUp: -1 }[e.key];
    const next = (names?.shown ?? 0) + (step ?? 0);
    if (!step || !names || next < 0 || next >= names.rows.length) return;
    e.preventDefault();
    show(next);
    document.getElementById(`name-${next}`)?.focus();
  }
</script>

{#if !names || writing}
  <label class="block pt-1 leading-snug"
    >{names ? 'The list, one to a line' : 'One decal for each name, in the same frame. One to a line, or a table'}
    <textarea class="input narrow mt-1 block resize-y" rows="7" spellcheck="false" bind:value={typed}></textarea></label
  >
  <div class="flex flex-wrap gap-2 py-2">
    <button class="button button-main px-2!" disabled={busy || !typed.trim() || !varies.length} onclick={readTyped}
      >{busy ? 'Reading …' : 'Take this list'}</button
    >
    <button class="button px-2!" disabled={busy || !varies.length} onclick={() => picker?.pick()}
      >From a CSV file</button
    >
    {#if names}<button class="button px-2!" onclick={() => (writing = false)}>Leave it</button>{/if}
  </div>
  {#if !varies.length}<p class="fine">Add words or a drawing first: a list says how they vary.</p>{/if}
  <FilePick
    bind:this={picker}
    accept=".csv,.tsv,.txt,text/csv,text/plain"
    label="List to bring"
    onfile={take}
    bind:busy
    bind:trouble
  />
  {#if trouble}<p class="text-stop py-1 text-[13px]" role="alert">{trouble}</p>{/if}
  {#if read}
    {#each read.notes as note (note)}<p class="fine py-1">{note}</p>{/each}
    {#each chosen as _, n (n)}
      <label class="border-hairline grid grid-cols-[1fr_172px] items-center gap-3 border-b py-[7px]">
        <span class="min-w-0 leading-tight"
          >{read.headings[n] || `Column ${n + 1}`}<span class="fine block truncate">{read.rows[0]?.[n]}</span></span
        >
        <select class="input" bind:value={chosen[n]}>
          <option value={LEFT_OUT}>left out</option>
          {#each varies as v (keyOf(v))}<option value={keyOf(v)}>{v.words}</option>{/each}
        </select>
      </label>
    {/each}
    <button class="button button-main mt-2" disabled={!chosen.some((c) => c !== LEFT_OUT)} onclick={set}
      >Cut {read.rows.length} of them</button
    >
  {/if}
{:else}
  <div class="max-h-[330px] overflow-y-auto" role="group" aria-label="Names">
    {#each names.rows as row, n (n)}
      {@const line = view?.lines[n]}
      <button
        id="name-{n}"
        class="border-hairline grid min-h-8 w-full grid-cols-[26px_1fr_auto_16px] items-center gap-2 border-b px-1 text-left text-[14px] {n ===
        names.shown
          ? 'bg-wash font-[650]'
          : ''}"
        aria-pressed={n === names.shown}
        title={line?.said}
        onclick={() => show(n)}
        onkeydown={keys}
      >
        <span class="fine narrow text-right">{n + 1}</span>
        <span class="truncate"
          >{row
            .filter((c) => c)
            .join(' · ')
            .replaceAll('\n', ' / ') || 'nothing'}</span
        >
        <span class="fine narrow"
          >{line?.capitals}{line && line.shrunk_percent < 100 ? ` · ${line.shrunk_percent} %` : ''}</span
        >
        {#if line && line.level !== 'ok'}<Glyph level={line.level} />{/if}
      </button>
      {#if n === names.shown && line?.said}<p class="text-stop px-1 py-1 text-[13px]">{line.said}</p>{/if}
    {/each}
  </div>
  <div class="flex flex-wrap gap-2 py-2">
    <button class="button px-2!" onclick={change}>Change the list</button>
    <button class="button px-2!" onclick={() => job.set('names', null)}>No list any more</button>
  </div>
  {#each sized as c (c.n)}
    {@const at = `names.columns.${c.n}.room`}
    <h2 class="mt-2">Room for {c.title.toLowerCase()}</h2>
    <Field {job} path="{at}.wide_mm" label="Wide" />
    <Field {job} path="{at}.tall_mm" label="Tall" />
    <Field {job} path="{at}.least_mm" label="Least capitals" note="smaller, and it goes on in the next line" />
    <Field {job} path="{at}.most_lines" label="Lines at most" kind="number" />
  {/each}
{/if}
