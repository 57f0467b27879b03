<script lang="ts">
  /** Words: what they say, in which font, how large, and the line they stand on. */
  import type { JobState } from '../state/job.svelte';
  import Colour from '../ui/Colour.svelte';
  import Field from '../ui/Field.svelte';
  import Fold from '../ui/Fold.svelte';
  import Pick from '../ui/Pick.svelte';
  import FontPick from './FontPick.svelte';
  import WordsField from './WordsField.svelte';

  let { job, path }: { job: JobState; path: string } = $props();
  const words = $derived(String(job.value(`${path}.text`) ?? ''));
  const line = $derived(String(job.value(`${path}.baseline.kind`) ?? 'straight'));
  const kerns = $derived(((job.value(`${path}.kerns`) ?? []) as unknown[]).length);
  const several = $derived(words.includes('\n'));
  const LINES: [string, string][] = [
    ['straight', 'straight'],
    ['over', 'a circle, from outside'],
    ['under', 'a circle, from inside'],
    ['wave', 'a wave'],
  ];
</script>

<WordsField {job} path="{path}.text" label="Words" />
<FontPick {job} path="{path}.font" features="{path}.features" />
<Pick
  {job}
  path="{path}.sized"
  label="Size is"
  choices={[
    ['capitals', 'height of capitals'],
    ['small', 'height of small letters'],
    ['width', 'width of it all'],
  ]}
/>
<Field {job} path="{path}.size_mm" label="Size" />
<Fold title="Spacing and line" note={line === 'straight' ? '' : (LINES.find(([k]) => k === line)?.[1] ?? '')}>
  <Field {job} path="{path}.tracking" label="Between letters" note="thousandths of the font’s size" kind="number" />
  <label class="border-hairline flex min-h-10 items-center gap-3 border-b py-[7px] leading-tight">
    <span class="grow">Each space by hand<span class="fine block">drag a line between two letters</span></span>
    <input type="checkbox" class="accent-blue size-6" bind:checked={job.spacing} />
  </label>
  {#if kerns}
    <button class="link min-h-8 text-[13px]" onclick={() => job.set(`${path}.kerns`, [])}
      >Let {kerns === 1 ? 'the one' : `all ${kerns}`} set by hand go</button
    >
  {/if}
  {#if several}
    <Field {job} path="{path}.line_distance" label="From line to line" kind="number" unit="% of capitals" />
    <Pick
      {job}
      path="{path}.align"
      label="Lines stand"
      choices={[
        ['left', 'even at the left'],
        ['middle', 'in the middle'],
        ['right', 'even at the right'],
      ]}
    />
    <Pick
      {job}
      path="{path}.lines"
      label="Lines are"
      choices={[
        ['free', 'as long as they are'],
        ['fitted', 'all as wide as the widest'],
      ]}
    />
  {/if}
  <Pick {job} path="{path}.baseline.kind" label="They stand on" choices={LINES} />
  {#if line === 'over' || line === 'under'}
    <Field {job} path="{path}.baseline.radius_mm" label="Radius" note="of the circle" />
  {:else if line === 'wave'}
    <Field {job} path="{path}.baseline.height_mm" label="Height of the wave" />
    <Field {job} path="{path}.baseline.length_mm" label="Length of the wave" />
  {/if}
  <Colour {job} path="{path}.colour" label="Colour" />
</Fold>
