<script lang="ts">
  /** The template laid flat: outline, free area, overlap, centre line and the lengths of its edges. */
  import type { Scene } from '../state/scene';
  import { session } from '../state/session.svelte';
  import { lengthText } from '../units';
  import Hatch from './Hatch.svelte';
  import { linesOn } from './ground';
  import { line, pathOf, turned } from './paper';
  import StrainMap from './StrainMap.svelte';

  let {
    scene,
    px,
    id,
    figures = true,
    strain = false,
  }: { scene: Scene; px: number; id: string; figures?: boolean; strain?: boolean } = $props();
  const t = $derived(scene.template!);
  /** One piece of a straight or tapered wall, whose edges have their own figures. */
  const exact = $derived(t.pieces === 1 && scene.measure.closed);
  /** It is drawn on the blank's own colour, on which each film shows as it will; what the film suffers has colours of
   * its own. */
  const ground = $derived(strain ? 'var(--color-sheet)' : (scene.document.blank.colour ?? '#ffffff'));
  const lines = $derived(strain ? '' : linesOn(ground));
  const text = (mm: number) => lengthText(mm, session.style);
  const caption = (length: number, radius: number | null) =>
    radius === null ? `${text(length)} long` : `${text(length)} long · radius ${text(radius)}`;
</script>

<defs><g style={lines}><Hatch id="hatch-{id}" {px} /></g></defs>
<g style={lines}>
  <path d={pathOf(t.outline)} fill={ground} />
  <path d={pathOf([...t.outline, ...t.free])} fill="url(#hatch-{id})" fill-rule="evenodd" opacity="0.7" />
  <path
    d={pathOf(t.free)}
    fill="none"
    stroke="var(--color-blue)"
    stroke-width={0.9 * px}
    stroke-dasharray="{5 * px} {4 * px}"
  />
</g>
{#if strain && scene.strain?.length}
  <StrainMap {scene} {px} id="strain-{id}" />
{/if}
{#if t.zones.length}
  <path
    style={lines}
    d={pathOf(t.zones)}
    fill="url(#hatch-{id})"
    fill-rule="evenodd"
    stroke="var(--color-quiet)"
    stroke-width={0.8 * px}
  />
{/if}
{#if t.overlap.length}
  <path d={pathOf(t.overlap)} fill="var(--color-hairline)" opacity="0.5" />
{/if}
<path d={pathOf(t.outline)} fill="none" stroke="var(--color-ink)" stroke-width={1.6 * px} stroke-linejoin="round" />
{#each t.slits as s, i (i)}
  <path d={line([s[0], s[1]], [s[2], s[3]])} stroke="var(--color-stop)" stroke-width={1.1 * px} />
{/each}
{#if strain && t.strain && t.strain.stretch + t.strain.shorten > 0.01}
  {@const at = turned(t.strain.worst_at)}
  <circle cx={at[0]} cy={at[1]} r={7 * px} fill="none" stroke="var(--color-stop)" stroke-width={1.6 * px} />
  <path
    d="M{at[0] - 11 * px} {at[1]}h{22 * px}M{at[0]} {at[1] - 11 * px}v{22 * px}"
    stroke="var(--color-stop)"
    stroke-width={0.8 * px}
  />
{/if}
{#if exact}
  <path
    d={line([0, t.low - 14 * px], [0, t.high + 14 * px])}
    style={lines}
    stroke="var(--color-quiet)"
    stroke-width={0.8 * px}
    stroke-dasharray="{14 * px} {4 * px} {3 * px} {4 * px}"
  />
{/if}
{#if figures && exact}
  <text
    x={0}
    y={-t.high - 26 * px}
    font-size={13.5 * px}
    text-anchor="middle"
    class="narrow"
    font-weight="500"
    fill="var(--color-ink)">{caption(t.length_upper, t.sector?.upper ?? null)}</text
  >
  <text
    x={0}
    y={-t.low + 34 * px}
    font-size={13.5 * px}
    text-anchor="middle"
    class="narrow"
    font-weight="500"
    fill="var(--color-ink)">{caption(t.length_lower, t.sector?.lower ?? null)}</text
  >
{/if}
