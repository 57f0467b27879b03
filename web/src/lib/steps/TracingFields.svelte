<script lang="ts">
  /** How a picture is traced: into how many colours, or into which, and what is dropped as a speck. */
  import type { JobState } from '../state/job.svelte';
  import { tables } from '../state/tables.svelte';
  import Swatch from '../ui/Swatch.svelte';
  import Field from '../ui/Field.svelte';
  import Working from '../ui/Working.svelte';

  let { job, path }: { job: JobState; path: string } = $props();
  const palette = $derived((job.value(`${path}.palette`) as string[] | undefined) ?? []);
  const film = $derived(String(job.value('layers.default_film') ?? ''));
  const films = $derived(
    tables.colours
      .filter((c) => c.film === film)
      .map((c) => c.colour)
      .slice(0, tables.most('elements.source.palette')),
  );
  const set = (colours: string[]) => job.set(`${path}.palette`, colours);
</script>

{#if !palette.length}<Field {job} path="{path}.colours" label="Traced in colours" kind="number" />{/if}
<div class="border-hairline flex flex-wrap items-center gap-1 border-b py-[7px]">
  <span class="mr-auto leading-tight"
    >{palette.length ? 'Traced in these' : 'Or in the films’ own'}<span class="fine block">the nearest of them</span
    ></span
  >
  {#each palette as colour, n (n)}
    <Swatch
      value={colour}
      label="Colour {n + 1} of the tracing"
      size="h-8 w-9"
      onpick={(picked) => set(palette.map((c, k) => (k === n ? picked : c)))}
    />
  {/each}
  <button class="button px-2! text-[13px]" onclick={() => set([...palette, '#808790'])}>add</button>
  {#if !palette.length}<button class="button px-2! text-[13px]" onclick={() => set(films)}>all at hand</button>{/if}
  {#if palette.length}<button class="button px-2! text-[13px]" onclick={() => set(palette.slice(0, -1))}>less</button
    >{/if}
</div>
<Field {job} path="{path}.speckle_px" label="Specks dropped up to" note="pixels across" kind="number" />
<label class="border-hairline flex min-h-10 items-center gap-3 border-b py-[7px] leading-tight">
  <span class="grow">The picture under it<span class="fine block">with the outlines found in it</span></span>
  <input type="checkbox" class="accent-blue size-6" bind:checked={job.seenThrough} />
</label>
<Working
  task={job.tracing.task}
  what="Tracing it finely"
  stopped={job.tracing.left ? 'Stopped: it is traced roughly.' : ''}
/>
{#if job.tracing.left}
  <button class="link min-h-8 text-[13px]" onclick={() => job.tracing.begin()}>Trace it finely</button>
{/if}
