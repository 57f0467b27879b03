/** A date of the document, `2026-12-04`, as `Fri 4 Dec`. */
export const day = (date: string) =>
  new Date(`${date}T12:00`).toLocaleDateString('en-GB', { weekday: 'short', day: 'numeric', month: 'short' });

/** A moment as the server tells it, as `Fri 4 Dec, 14:05`. */
export const moment = (at: string) =>
  new Date(at).toLocaleString('en-GB', {
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    hour: '2-digit',
    minute: '2-digit',
  });
