/** The figures that stand beside the drawing, by step. */
import type { LengthStyle, Scene } from '../api/client';
import type { Step } from '../state/job.svelte';
import { lengthText, volumeText, volumeUnit } from '../units';

const NAMES: Record<string, string> = {
  width: 'Width',
  height: 'Height',
  depth: 'Depth',
  side: 'Along the side',
  seam_top: 'Seam, top',
  seam_bottom: 'Seam, bottom',
  panel_radius: 'Radius',
  arc: 'Over the dome',
  rim: 'Rim',
  insert_diameter: 'Cut across',
  bend_across: 'Bends across',
  bend_up: 'Bends up',
  rise: 'Rises in all',
  area: 'Area',
  free_area: 'Free area',
};
const area = (mm2: number, style: LengthStyle) =>
  style === 'mm'
    ? `${(mm2 / 100).toFixed(mm2 < 1000 ? 2 : 1)} cm²`
    : `${(mm2 / 645.16).toFixed(mm2 < 1000 ? 2 : 1)} in²`;

export function figuresOf(step: Step, scene: Scene, style: LengthStyle): [string, string][] {
  const m = scene.measure;
  const t = scene.template;
  const l = (mm: number, digits = 1) => lengthText(mm, style, digits);
  const sure = (mm: number) => `± ${lengthText(mm, style === 'mm' ? 'mm' : 'in_decimal', style === 'mm' ? 2 : 1)}`;
  if (m.kind !== 'cup' && (step === 'measure' || !t || (step === 'unwrap' && !m.closed && !t.strain))) {
    const rows: [string, string][] = [];
    for (const f of m.figures) {
      const name = NAMES[f.name] ?? (/^seam_\d+$/.test(f.name) ? `Seam, ring ${Number(f.name.slice(5)) + 1}` : '');
      if (!name) continue;
      if (f.name.startsWith('seam')) rows.push([name, sure(f.error)]);
      else if (f.unit === 'mm') rows.push([name, `${l(f.value)}${f.error ? ` ${sure(f.error)}` : ''}`]);
      else if (f.unit === 'mm2')
        rows.push([name, `${area(f.value, style)}${f.error ? ` ± ${area(f.error, style)}` : ''}`]);
      else rows.push([name, `${f.value.toFixed(2)} ± ${f.error.toFixed(2)} ${f.unit}`]);
    }
    const part = m.free_parts[0];
    if (part) rows.push(['Largest rectangle', `${l(part.width)} × ${l(part.height)}`]);
    if (m.free_parts.length > 1) rows.push(['Free pieces', String(m.free_parts.length)]);
    if (m.volume) rows.push(['Volume', `${volumeText(Math.round(m.volume), style)} ${volumeUnit(style)}`]);
    const drift = m.figures.filter((f) => f.name.startsWith('edge_drift'));
    if (drift.length) rows.push(['Edge drift', sure(Math.max(...drift.map((f) => f.error)))]);
    const least = m.figures.find((f) => f.name === 'panel_radius' && f.error) ?? m.figures.find((f) => f.first);
    if (least?.first) rows.push(['Again first', `${least.first_words} (${Math.round(100 * least.first_share)} %)`]);
    return rows.slice(0, 14);
  }
  const largest = m.faces[0];
  const free: [string, string] =
    m.kind === 'cup'
      ? ['Free area', `${l(m.free_width_high)} / ${l(m.free_width_low)} × ${l(m.free_high - m.free_low)}`]
      : ['Free on the face', largest ? `${l(largest.width)} × ${l(largest.height)}` : 'nothing'];
  if (step === 'measure')
    return [
      ['Seam, top', sure(m.seam_top)],
      ['Seam, bottom', sure(m.seam_bottom)],
      ['Edge drift', sure(m.edge_drift)],
      ['Taper', `${m.taper_deg.toFixed(1)}° each side`],
      ['Readable, top', l(m.readable_top)],
      ...(m.volume
        ? [['Outside volume', `${volumeText(Math.round(m.volume), style)} ${volumeUnit(style)}`] as [string, string]]
        : []),
      free,
    ];
  if (!t) return [free];
  const sector: [string, string][] =
    t.sector_angle_deg === null || t.sector_lower === null || t.sector_upper === null
      ? [['Template', 'a straight strip']]
      : [
          ['Sector angle', `${t.sector_angle_deg.toFixed(2)}°`],
          ['Sector radii', `${l(t.sector_upper)} / ${l(t.sector_lower)}`],
        ];
  if (step === 'unwrap' && t.strain) {
    const s = t.strain;
    const pc = (v: number) => `${v.toFixed(1)} %`;
    return [
      ['Stretched', pc(s.stretch)],
      ['Shortened', pc(s.shorten)],
      ['Film takes', s.limit === null ? 'not stated' : pc(s.limit)],
      ['Over that', pc(s.share_over)],
      ...(t.slits.length || t.gores ? [['In one piece', pc(s.before)] as [string, string]] : []),
      ...(t.slits.length ? [['Slits', `${t.slits.length}, ${l(t.slit_depth)} deep`] as [string, string]] : []),
      ...(t.gores ? [['Gores', `${t.gores}, ${l(t.gore_width)} wide`] as [string, string]] : []),
      ['Lengths differ', `${s.ratio.toFixed(3)} : 1`],
      ['Over all', `${l(t.bounds[2] - t.bounds[0])} × ${l(t.bounds[3] - t.bounds[1])}`],
    ];
  }
  if (step === 'unwrap' && t.pieces > 1)
    return [
      ['Pieces', String(t.pieces)],
      ...t.joints.map(([up, turn]) => [`Joint at ${l(up)}`, `${Math.abs(turn).toFixed(1)}°`] as [string, string]),
      ['Over all', `${l(t.bounds[2] - t.bounds[0])} × ${l(t.bounds[3] - t.bounds[1])}`],
      ['Seam, top / bottom', `${sure(m.seam_top)} / ${sure(m.seam_bottom).slice(2)}`],
    ];
  if (step === 'unwrap')
    return [
      ...sector,
      ['Over all', `${l(t.bounds[2] - t.bounds[0])} × ${l(t.bounds[3] - t.bounds[1])}`],
      ['Along the side', l(t.high - t.low)],
      ['Seam, top / bottom', `${sure(m.seam_top)} / ${sure(m.seam_bottom).slice(2)}`],
      ['Edge drift', sure(m.edge_drift)],
    ];
  if (step === 'artwork') return m.kind === 'cup' ? [...sector, ['Readable, top', l(m.readable_top)], free] : [free];
  if (step === 'sheets' && scene.sheets)
    return [
      ['Safe area', `${l(scene.sheets.safe_width)} × ${l(scene.sheets.safe_length)}`],
      ['Film used', scene.sheets.film_area],
      ['Film costs', scene.sheets.film_cost],
    ];
  if (step === 'layers' && scene.layers)
    return [
      ['Layers', String(scene.layers.layers.length)],
      ['Joints', scene.layers.joint.replace('_', ' ')],
      ['Pieces that stay', String(scene.layers.layers.reduce((n, x) => n + x.pieces, 0))],
      ['Pieces to weed', String(scene.layers.layers.reduce((n, x) => n + x.weeded, 0))],
    ];
  return [];
}
