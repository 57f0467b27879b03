<script lang="ts">
  /** Along all that is cut: how far the tip strayed from the wanted line, and how deep it went into film and liner. */
  import { session } from '../state/session.svelte';
  import { length } from '../units';
  import type { OnCutterState } from './oncutter.svelte';

  let { on }: { on: OnCutterState } = $props();
  const now = $derived(on.now!);
  const limit = $derived(now.stray_limit);
  const film = $derived(now.passes[now.at_pass]?.film_um ?? 70);
  const total = $derived(Math.max((on.pass?.total ?? 1) * (now.passes[now.at_pass]?.round ?? 1), 1));
  let wide = $state(600);
  const span = $derived(Math.max(wide - 92, 60));
  const STRAY_H = 40;
  const DEPTH_H = 34;
  const most = $derived(Math.max(limit * 1.3, ...on.found.map((f) => f[1])));
  const deepest = $derived(film + now.liner_um);
  const lines = $derived.by(() => {
    let at = 0;
    let stray = '';
    let depth = 'M0 0';
    for (const [mm, off, um] of on.found) {
      const [a, b] = [(at / total) * span, Math.min(((at + mm) / total) * span, span)];
      const y = STRAY_H * (1 - off / most);
      stray += `${stray ? 'L' : 'M'}${a.toFixed(1)} ${y.toFixed(1)}L${b.toFixed(1)} ${y.toFixed(1)}`;
      const z = Math.min(um / deepest, 1) * DEPTH_H;
      depth += `L${a.toFixed(1)} ${z.toFixed(1)}L${b.toFixed(1)} ${z.toFixed(1)}`;
      at += mm;
    }
    return { stray, depth: `${depth}L${Math.min((at / total) * span, span).toFixed(1)} 0Z` };
  });
</script>

<div class="border-hairline min-w-0 overflow-hidden border-t px-4 pt-2 pb-2" bind:clientWidth={wide}>
  {#if now.simulated}
    <p class="narrow flex gap-3 text-[13px]">
      <span class="font-[600]">Off the wanted line</span>
      <span class="fine" aria-live="polite"
        >{on.found.length ? `at most ${length(Math.max(...on.found.map((f) => f[1])), session.style, 2)}` : ''}</span
      >
    </p>
    <svg
      width={span + 60}
      height={STRAY_H + 8}
      role="img"
      aria-label="How far the tip strayed, limit {length(limit, session.style, 2)}"
    >
      <path
        d="M0 {STRAY_H * (1 - limit / most)}H{span}"
        stroke="var(--color-stop)"
        stroke-dasharray="4 3"
        stroke-width="1"
      />
      <path d="M0 {STRAY_H}H{span}" stroke="var(--color-hairline)" />
      <path d={lines.stray} fill="none" stroke="var(--color-blue)" stroke-width="1.2" />
      <text
        x={span + 6}
        y={Math.min(STRAY_H * (1 - limit / most) + 4, STRAY_H - 9)}
        font-size="12"
        class="narrow"
        fill="var(--color-stop)">{length(limit, session.style, 2)}</text
      >
      <text x={span + 6} y={STRAY_H + 4} font-size="12" class="narrow" fill="var(--color-ink)">0</text>
    </svg>
    <p class="narrow text-[13px] font-[600]">Depth</p>
    <svg width={span + 80} height={DEPTH_H + 4} role="img" aria-label="How deep it cut, of a film of {film} µm">
      <rect width={span} height={DEPTH_H} fill="none" stroke="var(--color-hairline)" />
      <path d={lines.depth} fill="var(--color-ok)" fill-opacity="0.4" />
      <path d="M0 {(film / deepest) * DEPTH_H}H{span}" stroke="var(--color-ink)" stroke-width="1" />
      <text x={span + 6} y="10" font-size="12" class="narrow" fill="var(--color-ink)">film {film} µm</text>
      <text x={span + 6} y={DEPTH_H - 2} font-size="12" class="narrow" fill="var(--color-ink)">liner</text>
    </svg>
  {:else}
    <p class="fine">This machine does not tell what it really cut: lift a corner before you unload.</p>
  {/if}
</div>
