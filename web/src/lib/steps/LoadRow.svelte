<script lang="ts">
  /** A load in the list of loads: chosen, cut from here where its machine is connected, marked when it was. */
  import type { Snippet } from 'svelte';
  import type { JobState } from '../state/job.svelte';
  import type { Scene } from '../state/scene';
  import { session } from '../state/session.svelte';
  import CutMark from './CutMark.svelte';

  type Load = NonNullable<Scene['sheets']>['loads'][number];
  let {
    job,
    load,
    chosen,
    onpick,
    says,
    on,
    begin = 'Cut this load',
    colours = [],
    children,
  }: {
    job: JobState;
    load: Load;
    chosen: boolean;
    onpick: () => void;
    says: string;
    /** The machine that it is cut on from here; empty where none is connected. */
    on: string;
    begin?: string;
    colours?: string[];
    children?: Snippet;
  } = $props();
  /** So many films stand beside their names, more above them. */
  const BESIDE = 3;
  const cut = $derived(job.cuts.times(load.digest));
  const sheets = $derived(job.scene!.sheets!);
  const every = $derived([...sheets.loads, ...sheets.pages.map((p) => p.load)].map((l) => l.digest));
</script>

<button
  class="border-hairline flex w-full items-center gap-2 border-b px-1 py-[7px] text-left {chosen
    ? 'bg-sheet font-[600]'
    : ''} {colours.length > BESIDE ? 'flex-wrap' : ''}"
  aria-pressed={chosen}
  onclick={onpick}
>
  {#each colours as colour, i (i)}
    <span class="border-edge size-4 shrink-0 rounded-[2px] border" style:background={colour}></span>
  {/each}
  <span class={colours.length > BESIDE ? 'w-full' : 'grow'}>{load.name}</span>
  <span class="fine narrow">{says} · {cut ? `${cut} of ` : ''}{load.times} ×{load.turned ? ' · turned' : ''}</span>
</button>
{#if chosen}
  {@render children?.()}
  {#if on && load.fits && session.makes && cut < load.times}
    <p class="border-hairline border-b py-1.5">
      <button class="button button-main" disabled={job.on.busy} onclick={() => job.on.begin(load.digest)}
        >{begin}</button
      >
      <span class="fine">on {on}</span>
    </p>
  {/if}
  {#if job.on.trouble}<p class="text-stop py-1.5 text-[13px]" role="alert">{job.on.trouble}</p>{/if}
  <CutMark {load} cuts={job.cuts} others={every} />
{/if}
