<script lang="ts">
  /** What the hand does at the machine, in its order: load, test, cut, lift a corner, unload. */
  import type { JobState } from '../state/job.svelte';
  import { session } from '../state/session.svelte';
  import type { Schemas } from '../api/client';
  import TypedRow from '../ui/TypedRow.svelte';
  import { lengthText } from '../units';
  import TrialCut from './TrialCut.svelte';

  type Setting = Schemas['Setting'];
  let { job }: { job: JobState } = $props();
  const on = $derived(job.on);
  const now = $derived(on.now!);
  const pass = $derived(now.passes[now.at_pass]!);
  const sheets = $derived(job.scene?.sheets);
  const load = $derived(
    [...(sheets?.loads ?? []), ...(sheets?.pages ?? []).map((p) => p.load)].find((l) => l.digest === now.load),
  );
  const mm = (v: number) => lengthText(Math.abs(v), session.style);
  type Typed = { pass: number; force?: string; scaled?: string; speed?: string };
  let typed = $state.raw<Typed>({ pass: 0 });
  /** What was typed for this pass: the next film is set anew. */
  const mine = $derived<Typed>(typed.pass === now.at_pass ? typed : { pass: now.at_pass });
  const type = (some: Partial<Typed>) => (typed = { ...mine, ...some });
  /** The blade stays in for the next film. */
  let blade = $state('');
  let weeded = $state<'' | 'clean' | 'tore'>('');
  let tore = $state('');
  let testing = $state(false);
  /** What is advised stands in the fields until something else is typed. */
  const forceNow = $derived(mine.force ?? String(pass.setting.force_gf ?? now.advice?.force_gf ?? ''));
  const scaledNow = $derived(mine.scaled ?? String(pass.setting.on_scale ?? ''));
  const speedNow = $derived(mine.speed ?? String(pass.setting.speed_mm_s ?? now.advice?.speed_mm_s ?? ''));
  const bladeNow = $derived(blade || pass.blade || now.blades.find((b) => !b.worn_out)?.id || '');
  const canSet = $derived(now.stage === 'loading' || now.stage === 'ready');
  const left = $derived.by(() => {
    const share = on.pass?.total ? on.cut / on.pass.total : 0;
    const s = pass.seconds * (1 - share);
    return s > 90 ? `${Math.round(s / 60)} min` : `${Math.ceil(s)} s`;
  });
  /** As it was typed: what is no force and no speed, the rule says. */
  const setting = $derived({
    force_gf: now.scale ? null : forceNow.trim() || null,
    on_scale: now.scale ? scaledNow.trim() || null : null,
    speed_mm_s: speedNow.trim() || null,
    blade_out_mm: null,
    passes: 1,
  } as unknown as Setting);
  const fault = (field: string) => on.faults.find((f) => f.field.endsWith(field));
  const cut = () => on.next({ do: 'cut', setting, blade: bladeNow });
  async function unload() {
    await on.next({ do: 'unload', weeded: weeded || null, tore });
    if (on.now?.stage !== 'over') return;
    await job.cuts.load();
    if (!on.now.error) on.close();
    await job.build();
  }
  async function stop() {
    await on.next({ do: 'stop' });
    if (on.now?.stage === 'over') on.close();
  }
</script>

<h2 class="text-[19px]!">
  {now.passes.length > 1 ? `Pass ${now.at_pass + 1} of ${now.passes.length}: ` : ''}{pass.name}
</h2>
<p class="fine mb-2">on {now.cutter_name}{now.simulated ? ', the stand-in' : ''}</p>

{#snippet given(label: string, value: string)}
  <p class="border-hairline flex border-b py-[7px]">
    <span class="grow">{label}</span><span class="narrow">{value}</span>
  </p>
{/snippet}

{#if now.blades.length}
  <div class="border-hairline grid grid-cols-[1fr_150px] items-center border-b py-[7px]">
    <label for="cut-blade">Blade</label>
    <select
      id="cut-blade"
      class="input"
      disabled={!canSet}
      value={bladeNow}
      onchange={(e) => (blade = e.currentTarget.value)}
    >
      {#each now.blades as b (b.id)}<option value={b.id}>{b.name}{b.worn_out ? ', worn out' : ''}</option>{/each}
    </select>
  </div>
{/if}
{#if now.scale}
  <TypedRow
    id="cut-scale"
    label={now.scale.name}
    note="of {now.cutter_name}, {now.scale.least} to {now.scale.most}"
    disabled={!canSet}
    fault={fault('on_scale')}
    value={scaledNow}
    oninput={(scaled) => type({ scaled })}
  />
{:else}
  <TypedRow
    id="cut-force"
    label="Force"
    unit="gf"
    disabled={!canSet}
    value={forceNow}
    fault={fault('force_gf')}
    oninput={(force) => type({ force })}
  />
{/if}
<TypedRow
  id="cut-speed"
  label="Speed"
  unit="mm/s"
  disabled={!canSet}
  value={speedNow}
  fault={fault('speed_mm_s')}
  oninput={(speed) => type({ speed })}
/>
{#if now.advice}
  <p class="fine border-hairline border-b py-2 leading-snug">
    {#if now.advice.chance}Right in {Math.round(100 * now.advice.chance)} of 100 cuts, by what is known.{/if}
    {now.advice.words}
  </p>
{/if}

{#if now.stage === 'loading'}
  <h2 class="mt-3 mb-1">Load</h2>
  <ol class="mb-2">
    {#each load?.patches ?? [] as p, i (i)}
      <li class="border-hairline narrow flex gap-2 border-b py-[5px] text-[14px]">
        <span class="border-ink inline-grid size-[18px] shrink-0 place-items-center rounded-full border text-[12px]"
          >{i + 1}</span
        >
        <span class="border-edge size-4 shrink-0 rounded-[2px] border" style:background={p.colour}></span>
        <span class="grow">{p.name}, {p.size}</span><span class="fine">{p.place}</span>
      </li>
    {/each}
  </ol>
  <div class="flex gap-2">
    <button class="button button-main" disabled={on.busy} onclick={() => on.next({ do: 'loaded' })}>It is loaded</button
    >
    {#if !now.scale}<button class="button" onclick={() => (testing = !testing)}>Test cut</button>{/if}
    <button class="button" disabled={on.busy} onclick={stop}>Leave it</button>
  </div>
  {#if testing}<TrialCut
      {on}
      force={forceNow.trim() || '80'}
      speed={speedNow}
      ontake={(f) => type({ force: String(f) })}
    />{/if}
  <p class="fine mt-2 leading-snug">
    The blade is sharp: keep fingers off the carriage and change it with the power off.
  </p>
{:else if now.stage === 'ready'}
  {@render given('Contours', String(pass.strokes))}
  {@render given('The blade is under way', left)}
  {#if pass.round > 1}<p class="fine py-1">Once more in the same place.</p>{/if}
  {#if now.lie}
    {@const { right, up, turn_deg, percent } = now.lie}
    {@render given('It lies', `${mm(right)} ${right < 0 ? 'left' : 'right'}, ${mm(up)} ${up < 0 ? 'low' : 'high'}`)}
    {@render given('Turned', `${Math.abs(turn_deg).toFixed(2)}° ${turn_deg < 0 ? 'right' : 'left'}`)}
    {@render given('Printed at', `${percent.toFixed(2)} %`)}
  {:else if now.printed}
    <p class="fine py-2 leading-snug">
      Its three marks tell where the page lies, how it is turned and how large it came out of the printer.
    </p>
  {/if}
  <div class="mt-3 flex flex-wrap gap-2">
    {#if now.printed && !now.lie}
      <button class="button button-main" disabled={on.busy} onclick={() => on.next({ do: 'find' })}
        >Look for its marks</button
      >
    {:else}
      <button class="button button-main" disabled={on.busy} onclick={cut}>Cut</button>
      {#if now.printed && now.done === 0 && now.place === 0}
        <button class="button" disabled={on.busy} onclick={() => on.next({ do: 'find' })}>Look again</button>
      {/if}
    {/if}
    <button class="button" disabled={on.busy} onclick={stop}>Stop</button>
  </div>
{:else if now.stage === 'cutting'}
  {@render given('Contour', `${Math.min(now.done + 1, pass.strokes)} of ${pass.strokes}`)}
  {@render given('Left', left)}
  <div class="mt-3 flex gap-2" role="status">
    <button class="button" disabled={on.busy || !!now.wish} onclick={() => on.next({ do: 'pause' })}>Pause</button>
    <button class="button" disabled={on.busy || !!now.wish} onclick={() => on.next({ do: 'stop' })}>Stop</button>
    {#if now.wish}<span class="fine self-center">at the next place …</span>{/if}
  </div>
{:else if now.stage === 'paused' || now.stage === 'fault'}
  {@render given('Contour', `${Math.min(now.done + 1, pass.strokes)} of ${pass.strokes}`)}
  {#if now.stage === 'fault' && now.error}
    <p class="text-stop py-2 leading-snug" role="alert">{now.error.message} {now.error.hint}</p>
  {/if}
  <div class="mt-3 flex gap-2">
    <button class="button button-main" disabled={on.busy} onclick={() => on.next({ do: 'cut' })}
      >Go on with contour {Math.min(now.done + 1, pass.strokes)}</button
    >
    <button class="button" disabled={on.busy} onclick={stop}>Stop</button>
  </div>
{:else if now.stage === 'look'}
  <h2 class="mt-3 mb-1">Lift a corner before you unload</h2>
  {#each [['right', 'It came away whole', now.at_pass + 1 < now.passes.length ? 'next film' : 'unload'], ['into_liner', 'The liner is cut too', 'lighter next time'], ['not_through', 'It hangs on', 'cut once more, same place']] as const as [showed, words, then], i (showed)}
    <button
      class="border-hairline hover:bg-sheet flex w-full items-center gap-2 border-b px-1 py-[7px] text-left"
      disabled={on.busy}
      onclick={async () => {
        await on.next({ do: 'corner', corner: showed });
        if (showed === 'not_through') await on.next({ do: 'again' });
      }}
    >
      <span class="border-ink inline-grid size-[19px] place-items-center rounded-full border text-[12px]">{i + 1}</span>
      <span class="grow">{words}</span><span class="fine narrow">{then}</span>
    </button>
  {/each}
  <p class="fine mt-2 leading-snug">A second pass only lands in the same place while the sheet is still in.</p>
{:else if now.stage === 'cut'}
  <h2 class="mt-3 mb-1">Unload and weed</h2>
  <div class="border-hairline grid grid-cols-[1fr_170px] items-center border-b py-[7px]">
    <label for="cut-weeded">The waste came off</label>
    <select id="cut-weeded" class="input" bind:value={weeded}>
      <option value="">not weeded yet</option>
      <option value="clean">clean</option>
      <option value="tore">something tore</option>
    </select>
  </div>
  {#if weeded === 'tore'}
    <div class="border-hairline grid grid-cols-[1fr_170px] items-center border-b py-[7px]">
      <label for="cut-tore">What tore</label><input id="cut-tore" class="input" maxlength="200" bind:value={tore} />
    </div>
  {/if}
  <button class="button button-main mt-3" disabled={on.busy || !session.makes} onclick={unload}
    >It is unloaded: write it down</button
  >
{:else if now.stage === 'over'}
  {#if now.error}<p class="text-stop py-2 leading-snug" role="alert">{now.error.message} {now.error.hint}</p>{/if}
  <button class="button" onclick={() => on.close()}>Back to the loads</button>
{/if}
{#if on.trouble && !['force_gf', 'on_scale', 'speed_mm_s'].some(fault)}<p
    class="text-stop mt-2 text-[13px]"
    role="alert"
  >
    {on.trouble}
  </p>{/if}
