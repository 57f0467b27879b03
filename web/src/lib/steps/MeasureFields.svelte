<script lang="ts">
  /** The measures of a shape or a recipe, as the core names them. */
  import type { Schemas } from '../api/client';
  import type { JobState } from '../state/job.svelte';
  import Colour from '../ui/Colour.svelte';
  import Field from '../ui/Field.svelte';
  import Pick from '../ui/Pick.svelte';
  import Switch from '../ui/Switch.svelte';
  import FontPick from './FontPick.svelte';
  import WordsField from './WordsField.svelte';

  let { job, path, measures }: { job: JobState; path: string; measures: Schemas['MeasureOut'][] } = $props();
</script>

{#each measures as m (m.path)}
  {@const at = `${path}.${m.path}`}
  {#if m.kind === 'flag'}<Switch {job} path={at} label={m.title} note={m.note} />
  {:else if m.kind === 'colour'}<Colour {job} path={at} label={m.title} />
  {:else if m.kind === 'words'}<WordsField {job} path={at} label={m.title} />
  {:else if m.kind === 'font'}<FontPick {job} path={at} />
  {:else if m.kind === 'choice'}<Pick {job} path={at} label={m.title} choices={m.choices.map((c) => [c, c])} />
  {:else if m.kind === 'length'}<Field {job} path={at} label={m.title} note={m.note} />
  {:else}<Field {job} path={at} label={m.title} note={m.note} kind="number" unit={m.kind === 'angle' ? '°' : ''} />{/if}
{/each}
