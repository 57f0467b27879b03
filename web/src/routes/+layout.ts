import { askAhead } from '$lib/state/ahead';

export const ssr = false;
export const prerender = false;
askAhead(globalThis.location?.pathname ?? '');
