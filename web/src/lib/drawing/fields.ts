/** From a dimension on the drawing to its field in the slip, and back. */
import type { JobState } from '../state/job.svelte';

/** Puts the hand into the field a dimension belongs to: the field itself, or its first reading. */
export function focusField(path: string) {
  if (!path) return;
  for (const end of ['', '.readings.0', '.0']) {
    const found = document.getElementById(`field-${path}${end}`);
    if (!found) continue;
    found.closest('details')?.setAttribute('open', '');
    found.focus();
    return;
  }
}

/** Does the focused field belong to this dimension? */
export const isLit = (job: JobState, path: string) =>
  !!path && (job.focused === path || job.focused.startsWith(`${path}.`));
