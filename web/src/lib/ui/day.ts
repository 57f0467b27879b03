/** A date of the document, `2026-12-04`, as `Fri 4 Dec`. */
export const day = (date: string) =>
  new Date(`${date}T12:00`).toLocaleDateString('en-GB', { weekday: 'short', day: 'numeric', month: 'short' });
