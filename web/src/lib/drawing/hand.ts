/** How far the hand is ahead of the last exact scene: what the browser moves until the core has answered. */
import type { Scene } from '../api/client';
import type { JobState } from '../state/job.svelte';

export type Ahead = { da: number; ds: number; dx: number; dy: number; turn: number; scale: number };

export function handOf(job: JobState, scene: Scene, i: number): Ahead {
  const d = scene.placed[i];
  const was = scene.document.drawings?.[i]?.placement as Record<string, unknown> | undefined;
  const now = job.document?.drawings?.[i]?.placement as Record<string, unknown> | undefined;
  const diff = (name: string) =>
    typeof was?.[name] === 'number' && typeof now?.[name] === 'number'
      ? (now[name] as number) - (was[name] as number)
      : 0;
  if (!d || scene.document.drawings?.[i]?.file !== job.document?.drawings?.[i]?.file)
    return { da: 0, ds: 0, dx: 0, dy: 0, turn: 0, scale: 1 };
  const closed = scene.measure.closed;
  let degrees = diff('centre_deg');
  if (degrees > 180) degrees -= 360;
  if (degrees < -180) degrees += 360;
  const da = closed ? (degrees * Math.PI) / 180 : diff('across_mm');
  const ds = diff('up_mm');
  const width = typeof was?.width_mm === 'number' ? was.width_mm : 1;
  return {
    da,
    ds,
    dx: d.across[0] * da + d.up[0] * ds,
    dy: d.across[1] * da + d.up[1] * ds,
    turn: diff('turn_deg'),
    scale: (width + diff('width_mm')) / width,
  };
}
