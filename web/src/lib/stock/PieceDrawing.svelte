<script lang="ts">
  /** A piece of film lying with its length to the right, to the scale of all others; a long roll is broken. */
  import { session } from '../state/session.svelte';
  import { length, lengthText } from '../units';
  import Finishes from '../drawing/Finishes.svelte';
  import type { StockFilm } from './stock.svelte';

  let {
    film,
    shown,
    scale,
    longest,
    chosen,
    onpick,
  }: {
    film: StockFilm;
    shown: StockFilm['pieces'][number];
    /** Pixels to the mm. */
    scale: number;
    /** No more of a roll is drawn than that, mm. */
    longest: number;
    chosen: boolean;
    onpick: () => void;
  } = $props();
  const p = $derived(shown.piece);
  const broken = $derived(p.form === 'roll' && p.length_mm > longest);
  const long = $derived(Math.max(broken ? longest : p.length_mm, 4 / scale));
  const [w, h] = $derived([long * scale, p.width_mm * scale]);
  const bare = $derived((p.bare_edge_mm ?? 0) * scale);
  /** Its length runs to the right: x is along it, y across. */
  const path = $derived.by(() => {
    if (broken) {
      const zig = [0, 0.25, 0.5, 0.75, 1].map((t, i) => `${w - (i % 2 ? 0 : 7)} ${t * h}`).join('L');
      return `M0 0L${zig}L0 ${h}Z`;
    }
    if (!shown.rings.length) return `M0 0H${w}V${h}H0Z`;
    return shown.rings
      .map((r) => {
        const at = [];
        for (let i = 0; i < r.length; i += 2) at.push(`${r[i + 1]! * scale} ${h - r[i]! * scale}`);
        return `M${at.join('L')}Z`;
      })
      .join('');
  });
  const finish = $derived(film.finish === 'gloss' ? '' : `url(#finish-${film.finish})`);
  const text = (mm: number) => lengthText(mm, session.style, session.style === 'mm' ? 0 : 1);
</script>

<button class="group block text-left" aria-pressed={chosen} onclick={onpick}>
  <span class="sr-only">{film.name}: {shown.words}{shown.used_up ? ', used up' : ''}</span>
  <svg
    class="block overflow-visible"
    width={Math.max(w, 34) + 40}
    height={Math.max(h, 20) + 20}
    viewBox="-1 -1 {Math.max(w, 34) + 40} {Math.max(h, 20) + 20}"
    aria-hidden="true"
  >
    <Finishes px={1} />
    {#if p.form === 'sheet' && (p.sheets ?? 1) > 1}
      <rect x="4" y="-4" width={w} height={h} fill="none" stroke="var(--color-edge)" stroke-width="0.8" />
    {/if}
    <path
      d={path}
      fill={shown.used_up ? 'none' : film.colour}
      fill-rule="evenodd"
      stroke={chosen ? 'var(--color-brass)' : 'var(--color-ink)'}
      stroke-width={chosen ? 2.4 : 0.9}
      stroke-dasharray={shown.used_up ? '4 3' : undefined}
    />
    {#if finish && !shown.used_up}<path d={path} fill={finish} fill-rule="evenodd" />{/if}
    {#if bare > 0.5}<rect width={bare} height={h} fill="var(--color-sheet)" stroke="var(--color-edge)" />{/if}
    {#if film.turns !== 'any' && !shown.used_up}
      <path
        d="M{w / 2 - 14} {h - 7}h28m-6 -4l6 4l-6 4{film.turns === 'half' ? `M${w / 2 - 8} ${h - 11}l-6 4l6 4` : ''}"
        fill="none"
        stroke="var(--color-sheet)"
        stroke-width="3.4"
      />
      <path
        d="M{w / 2 - 14} {h - 7}h28m-6 -4l6 4l-6 4{film.turns === 'half' ? `M${w / 2 - 8} ${h - 11}l-6 4l6 4` : ''}"
        fill="none"
        stroke="var(--color-ink)"
        stroke-width="1.3"
      />
    {/if}
    <text x={w + 5} y={h / 2 + 4} font-size="12" class="narrow" fill="var(--color-ink)">{text(p.width_mm)}</text>
    <text x="0" y={Math.max(h, 20) + 14} font-size="12" class="narrow" fill="var(--color-ink)"
      >{shown.used_up ? 'used up' : text(p.length_mm)}{p.form === 'sheet' && (p.sheets ?? 1) > 1
        ? ` · ${p.sheets} ×`
        : ''}</text
    >
    <title>{shown.words}, {length(p.width_mm, session.style)} across</title>
  </svg>
</button>
