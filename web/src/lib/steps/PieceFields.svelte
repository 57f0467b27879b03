<script lang="ts">
  /** The bill of pieces, what to pick of it, what to do to those picked, and what was done. */
  import type { JobState } from '../state/job.svelte';
  import type { Edit } from '../state/pieces.svelte';
  import { session } from '../state/session.svelte';
  import { length, mmPerUnit, unitOf } from '../units';
  import Swatch from '../ui/Swatch.svelte';
  import EditFields from './EditFields.svelte';

  let { job }: { job: JobState } = $props();
  const work = $derived(job.pieces);
  const bill = $derived(work.bill);
  const chosen = $derived(work.chosen);
  const colours = $derived([...new Set(bill?.lines.map((l) => l.colour) ?? [])]);
  const film = $derived(String(job.value('layers.default_film') ?? ''));
  let size = $state(3);
  const namesOf = (pieces: number[]) => pieces.map((n) => bill!.names[n]!);
  const so = (n: number) => `${n} piece${n === 1 ? '' : 's'}`;
  let sized = $state<'longest' | 'area'>('longest');
  const upTo = () => work.upTo(size * mmPerUnit(session.style) ** (sized === 'area' ? 2 : 1), sized);
  const DONE: Record<Edit['kind'], string> = {
    leave_out: 'taken out',
    give: 'given',
    join: 'joined',
    cut_out: 'cut out of others',
    common: 'common part kept',
    divide: 'divided',
    move: 'moved',
    align: 'made even',
    spread: 'spread evenly',
    group: 'kept together',
    outline: 'outline',
    shadow: 'shadow',
    background: 'background',
    bridges: 'bridges',
  };
  /** What was done last is seen. */
  let list = $state<HTMLElement>();
  let before = $state.raw(-1);
  $effect(() => {
    const n = work.edits.length;
    if (before >= 0 && n > before) list?.lastElementChild?.scrollIntoView({ block: 'nearest' });
    before = n;
  });
  const EVEN = [
    ['left', 'at the left'],
    ['middle', 'in the middle'],
    ['right', 'at the right'],
    ['top', 'at the top'],
    ['half_way', 'half way up'],
    ['bottom', 'at the bottom'],
    ['concentric', 'about one centre'],
  ];
</script>

{#if !bill}
  <p class="fine">Taken apart as soon as the drawing is read …</p>
{:else}
  <h2 class="mb-1">Bill of pieces</h2>
  <ul aria-label="Bill of pieces">
    {#each bill.lines as l, k (`${l.colour} ${l.words}`)}
      {@const names = namesOf(l.pieces)}
      {@const lit = names.some((n) => work.has(n))}
      <li class="border-hairline border-b">
        <button
          class="flex min-h-9 w-full items-center gap-2 px-1 text-left {lit ? 'bg-sheet' : ''}"
          aria-pressed={lit}
          onclick={(e) => work.pick(names, e.shiftKey)}
        >
          <span
            class="flex size-[22px] shrink-0 items-center justify-center rounded-full border text-[12px] {lit
              ? 'border-brass border-2'
              : 'border-ink'}">{k + 1}</span
          >
          <span class="border-edge size-4 shrink-0 border" style:background={l.colour}
            ><span class="sr-only">{l.colour}</span></span
          >
          <span class="min-w-0 flex-1 truncate">{l.words}</span>
          <span class="fine narrow shrink-0">{l.count} · {l.sizes} · {l.area}</span>
        </button>
      </li>
    {/each}
    {#if bill.gone.length}
      <li class="border-hairline flex min-h-9 items-center gap-2 border-b px-1">
        <span class="border-quiet size-[22px] shrink-0 rounded-full border border-dashed"></span>
        <span class="flex-1">taken out</span>
        <span class="fine narrow">{so(bill.gone.length)}</span>
        <button class="link text-[13px]" onclick={() => work.putBack(bill.gone.map(([n]) => n))}>put back</button>
      </li>
    {/if}
  </ul>
  <div class="mt-2 flex flex-wrap items-center gap-1 text-[13px]">
    <span class="fine mr-1" aria-live="polite">{chosen.length ? so(chosen.length) : 'None'} picked</span>
    <button class="button px-2!" onclick={() => work.all()}>all</button>
    <button class="button px-2!" disabled={!chosen.length} onclick={() => work.alike()}>shaped alike</button>
    <button class="button px-2!" disabled={!chosen.length} onclick={() => work.ofTheirColour()}>their colour</button>
    <button class="button px-2!" disabled={!chosen.length} onclick={() => work.within()}>within them</button>
    <label class="flex items-center gap-1"
      ><button class="button px-2!" onclick={upTo}>up to</button>
      <input
        type="number"
        min="0"
        step="any"
        class="input w-[64px]!"
        aria-label="Size of pieces to pick"
        bind:value={size}
        onkeydown={(e) => e.key === 'Enter' && upTo()}
      />
      <select class="input w-[104px]!" aria-label="Measured by" bind:value={sized}>
        <option value="longest">{unitOf(session.style)} long</option>
        <option value="area">{unitOf(session.style)}²</option>
      </select></label
    >
  </div>
  {#if chosen.length}
    <h2 class="mt-3 mb-1">Do to them</h2>
    <div class="flex flex-wrap items-center gap-1 text-[13px]">
      <span class="fine">Give to</span>
      {#each colours as c (c)}
        <button
          class="border-edge size-7 border"
          style:background={c}
          aria-label="Give them to {c}"
          onclick={() => work.do({ kind: 'give', colour: c })}
        ></button>
      {/each}
      <Swatch
        value="#808790"
        label="Give them to another colour"
        words="another …"
        {film}
        onpick={(colour) => work.do({ kind: 'give', colour })}
      />
    </div>
    <div class="mt-1 flex flex-wrap items-center gap-1 text-[13px]">
      <button class="button px-2!" onclick={() => work.do({ kind: 'leave_out' })}>take out</button>
      <button class="button px-2!" onclick={() => work.cutOut()}>cut out of the rest</button>
      <button class="button px-2!" onclick={() => work.divide(true)}>divide upright</button>
      <button class="button px-2!" onclick={() => work.divide(false)}>divide level</button>
      <button class="button px-2!" aria-pressed={work.parting} onclick={() => (work.parting = !work.parting)}
        >{work.parting ? 'draw the line …' : 'divide by hand'}</button
      >
      <button
        class="button px-2!"
        onclick={() => work.do({ kind: 'move', across_mm: 0, up_mm: 0, turn_deg: 0, mirrored: true })}>mirror</button
      >
      {#if chosen.length > 1}
        <button class="button px-2!" onclick={() => work.do({ kind: 'join' })}>join</button>
        <button class="button px-2!" onclick={() => work.do({ kind: 'common' })}>keep the common part</button>
        <button class="button px-2!" onclick={() => work.do({ kind: 'group' })}>keep together</button>
        <select
          class="input w-[118px]!"
          aria-label="Make them even with the first"
          onchange={(e) => {
            work.do({ kind: 'align', at: e.currentTarget.value });
            e.currentTarget.value = '';
          }}
        >
          <option value="">make even …</option>
          {#each EVEN as [id, name] (id)}<option value={id}>{name}</option>{/each}
        </select>
      {/if}
      {#if chosen.length > 2}
        <button class="button px-2!" onclick={() => work.do({ kind: 'spread', along: 'across' })}>spread across</button>
        <button class="button px-2!" onclick={() => work.do({ kind: 'spread', along: 'up' })}>spread up</button>
      {/if}
    </div>
  {/if}
  {#if work.trouble}<p class="text-stop pt-1 text-[13px]" role="alert">{work.trouble}</p>{/if}
  <h2 class="mt-3 mb-1">Round {chosen.length ? 'them' : 'all of it'}</h2>
  <div class="flex flex-wrap items-center gap-1 text-[13px]">
    {#each ['outline', 'shadow', 'background', 'bridges'] as const as kind (kind)}
      <button class="button px-2!" onclick={() => work.do({ kind })}>{kind}</button>
    {/each}
  </div>
  {#if work.edits.length}
    <h2 class="mt-3 mb-1">What was done</h2>
    <ol bind:this={list}>
      {#each work.edits as e, n (n)}
        {@const some = e.pieces?.length ?? 0}
        <li class="border-hairline border-b py-1">
          <div class="flex min-h-8 items-center gap-2">
            <span class="fine narrow w-4">{n + 1}</span>
            <span class="min-w-0 flex-1 truncate">{DONE[e.kind]}{some ? ` · ${so(some)}` : ' · all of it'}</span>
            {#if e.kind === 'move'}<span class="fine narrow"
                >{length((e.across_mm as number) * bill.scale, session.style)} · {length(
                  (e.up_mm as number) * bill.scale,
                  session.style,
                )}</span
              >{/if}
            {#if 'colour' in e}
              <Swatch
                value={String(e.colour)}
                label="Colour of {n + 1}: {DONE[e.kind]}"
                {film}
                size="h-7 w-9"
                onpick={(colour) => job.set(`${work.editsPath}.${n}.colour`, colour)}
              />
            {/if}
            <button
              class="text-quiet hover:text-stop size-7"
              aria-label="Undo {n + 1}: {DONE[e.kind]}"
              onclick={() => work.takeBack(n)}>×</button
            >
          </div>
          <EditFields {job} edit={e} path="{work.editsPath}.{n}" />
        </li>
      {/each}
    </ol>
  {/if}
{/if}
