<script lang="ts">
  /** The workshop's machines, its blades with their metres, and how every film was cut and came out. */
  import { onMount } from 'svelte';
  import { cutters, formOf, type MachineForm } from '$lib/cutting/cutters.svelte';
  import MachineDrawing from '$lib/cutting/MachineDrawing.svelte';
  import { session } from '$lib/state/session.svelte';
  import { tables } from '$lib/state/tables.svelte';
  import { day } from '$lib/ui/day';
  import TypedRow from '$lib/ui/TypedRow.svelte';
  import Places from '$lib/ui/Places.svelte';
  import { unitOf } from '$lib/units';

  let id = $state('');
  let form = $state<MachineForm | null>(null);
  let fresh = $state(false);
  onMount(async () => {
    await Promise.all([cutters.load(), tables.load()]);
    pick(cutters.now?.cutters[0]?.id ?? '');
  });
  const machine = $derived(cutters.now?.cutters.find((c) => c.id === id));
  const blades = $derived((cutters.now?.blades ?? []).filter((b) => b.cutter === id));
  const log = $derived(cutters.log.filter((e) => e.cutter === id));
  const names = $derived(new Map(tables.films.map((f) => [f.id, f.name])));
  function pick(next: string) {
    const found = cutters.now?.cutters.find((c) => c.id === next);
    [id, fresh] = [next, false];
    form = found ? formOf(found) : null;
  }
  function another() {
    const first = cutters.now?.cutters[0];
    if (!first) return;
    let n = 2;
    while (cutters.now?.cutters.some((c) => c.id === `machine-${n}`)) n++;
    [id, fresh] = [`machine-${n}`, true];
    form = { ...formOf(first), id, name: `Machine ${n}`, connection: 'files', address: '' };
  }
  async function write() {
    if (form && (await cutters.machine(id, form))) pick(id);
  }
  async function takeAway() {
    if (await cutters.machine(id, null)) pick(cutters.now?.cutters[0]?.id ?? '');
  }
  async function newBlade() {
    const all = cutters.now!.blades;
    let n = all.length + 1;
    while (all.some((b) => b.id === `b${n}`)) n++;
    const since = new Date().toISOString().slice(0, 10);
    const worn = all.map((b) => (b.cutter === id ? { ...b, worn_out: true } : b));
    await cutters.blades([
      ...worn,
      { id: `b${n}`, name: `blade ${n}`, cutter: id, since, before_m: 0, worn_out: false },
    ]);
  }
  const CORNERS = { right: 'right', not_through: 'hung on', into_liner: 'into the liner' };
  const setting = (s: (typeof log)[number]['setting']) =>
    [
      s.force_gf ? `${s.force_gf} gf` : '',
      s.on_scale !== null && s.on_scale !== undefined ? `${machine?.scale?.name ?? 'scale'} ${s.on_scale}` : '',
      s.speed_mm_s ? `${s.speed_mm_s} mm/s` : '',
      (s.passes ?? 1) > 1 ? `${s.passes} passes` : '',
    ]
      .filter(Boolean)
      .join(', ');
</script>

<svelte:head><title>Cutters · Wimple</title></svelte:head>
<header class="border-edge bg-steel flex h-[72px] items-center justify-between border-b px-5">
  <div>
    <h1>Cutters</h1>
    <p class="fine">{session.current?.workshop?.name}: machines, blades, and how films were cut</p>
  </div>
  <Places />
</header>
{#snippet row(key: string, label: string, note: string, unit: string)}
  <TypedRow id="machine-{key}" {label} {note} {unit} fault={cutters.fault(key)} bind:value={form![key]!} />
{/snippet}
{#snippet choice(key: string, label: string, choices: [string, string][])}
  <div class="border-hairline grid grid-cols-[1fr_170px] items-center gap-x-3 border-b py-[5px]">
    <label for="machine-{key}">{label}</label>
    <select id="machine-{key}" class="input" bind:value={form![key]}>
      {#each choices as [value, words] (value)}<option {value}>{words}</option>{/each}
    </select>
  </div>
{/snippet}
<div class="grid h-[calc(100%-72px)] grid-cols-[352px_1fr]">
  <aside class="border-edge overflow-y-auto border-r px-5 py-4">
    <div class="mb-2 flex items-center gap-2">
      <select class="input" aria-label="Machine" value={id} onchange={(e) => pick(e.currentTarget.value)}>
        {#each cutters.now?.cutters ?? [] as c (c.id)}<option value={c.id}>{c.name}</option>{/each}
        {#if fresh}<option value={id}>{form?.name}</option>{/if}
      </select>
      {#if session.owns}<button class="button shrink-0" onclick={another}>Another</button>{/if}
    </div>
    {#if form}
      {@const u = unitOf(session.style)}
      <fieldset disabled={!session.owns || cutters.busy}>
        <TypedRow id="machine-name" label="Name" wide fault={cutters.fault('name')} bind:value={form.name!} />
        {@render choice('medium', 'Cuts on', [
          ['mat', 'a mat'],
          ['roll', 'the roll itself'],
        ])}
        {@render row('width_mm', 'Takes, across', '', u)}
        {@render row('length_mm', 'Takes, along', '', u)}
        {@render row('safe_width_mm', 'Cuts safely, across', '', u)}
        {@render row('safe_length_mm', 'Cuts safely, along', '', u)}
        {@render choice('origin', 'Counts from', [
          ['lower_left', 'lower left'],
          ['lower_right', 'lower right'],
          ['upper_left', 'upper left'],
          ['upper_right', 'upper right'],
        ])}
        {@render choice('x_along_feed', 'First axis runs', [
          ['across', 'across the feed'],
          ['along', 'along the feed'],
        ])}
        {@render row('steps_per_mm', 'Units to the mm', 'of its language; HP-GL has 40', '')}
        {@render row('blade_offset_mm', 'Blade’s offset', '0 where it makes up for it', u)}
        {@render row('speed_mm_s', 'Speed', '', 'mm/s')}
        {@render row('acceleration_mm_s2', 'Acceleration', '', 'mm/s²')}
        {@render row('most_force_gf', 'Presses at most', 'empty: not known', 'gf')}
        {@render row('scale_name', 'A scale of its own', 'where it has no force in gf: its name', '')}
        {#if form.scale_name}
          {@render row('scale_least', 'Its least', '', '')}
          {@render row('scale_most', 'Its most', '', '')}
        {/if}
        {@render choice('connection', 'Is given', [
          ['files', 'files, by hand'],
          ['network', 'HP-GL, by network'],
          ['simulated', 'HP-GL: the stand-in'],
        ])}
        {#if form.connection === 'network'}{@render row('address', 'Address', 'host:port', '')}{/if}
        {#if cutters.trouble && !cutters.faults.some((f) => /^cutters\.\d+\./.test(f.field))}<p
            class="text-stop mt-2 text-[13px]"
            role="alert"
          >
            {cutters.trouble}
          </p>{/if}
        <div class="mt-3 flex gap-2">
          <button class="button button-main" onclick={write}>Write it down</button>
          {#if !fresh && (cutters.now?.cutters.length ?? 0) > 1}
            <button class="button" onclick={takeAway}>It is gone</button>
          {/if}
        </div>
        {#if !session.owns}<p class="fine mt-2">Only an owner changes machines.</p>{/if}
      </fieldset>
    {/if}
  </aside>
  <main class="bg-sheet overflow-y-auto px-6 py-4">
    {#if machine}
      <div class="flex gap-6">
        <MachineDrawing {machine} />
        <section class="min-w-[250px] grow pt-2" aria-label="Blades">
          <div class="mb-1 flex items-center gap-2">
            <h2 class="grow">Blades</h2>
            {#if session.owns}<button class="button text-[13px]" disabled={cutters.busy} onclick={newBlade}
                >A new blade is in</button
              >{/if}
          </div>
          {#each blades as b (b.id)}
            <p class="border-hairline flex border-b py-[6px]">
              <span class="grow">{b.name} <span class="fine ml-1">since {b.since ? day(b.since) : '…'}</span></span>
              <span class="narrow"
                >{Math.round(cutters.now?.metres[b.id] ?? 0)} m{b.worn_out ? ', worn out' : ', in it'}</span
              >
            </p>
          {:else}
            <p class="fine">No blade is written down: its metres are not counted.</p>
          {/each}
          <p class="fine mt-2 leading-snug">
            Blades cut skin as film: change them with the power off, and keep the old ones in a closed box.
          </p>
        </section>
      </div>
      <h2 class="mt-4 mb-1">Cuts</h2>
      {#if log.length}
        <table class="w-full text-[14px]" aria-label="Log of cuts">
          <thead class="text-quiet text-left text-[13px]">
            <tr>
              {#each ['when', 'film', 'setting', 'blade', 'corner', 'weeding'] as h (h)}<th class="pr-3 font-[500]"
                  >{h}</th
                >{/each}
            </tr>
          </thead>
          <tbody class="narrow">
            {#each log.slice(0, 60) as e, n (n)}
              <tr class="border-hairline border-t">
                <td class="py-[5px] pr-3">{day(e.at.slice(0, 10))}</td>
                <td class="pr-3">{e.colour}, {(names.get(e.film) ?? e.film).toLowerCase()}</td>
                <td class="pr-3">{setting(e.setting)}</td>
                <td class="pr-3"
                  >{blades.find((b) => b.id === e.blade)?.name ?? ''}
                  {e.blade ? `${Math.round(e.blade_m ?? 0)} m` : ''}</td
                >
                <td class="pr-3">{e.corner ? CORNERS[e.corner] : ''}</td>
                <td>{e.weeded === 'tore' ? `tore${e.tore ? `: ${e.tore}` : ''}` : (e.weeded ?? '')}</td>
              </tr>
            {/each}
          </tbody>
        </table>
      {:else}
        <p class="fine">Nothing was cut on it from here yet. Each load that is cut and unloaded is written down.</p>
      {/if}
    {/if}
  </main>
</div>
