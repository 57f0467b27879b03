/** Answers that come line by line: each a piece of JSON of its own. */
import { Offline } from './client';

export const LINES = 'application/x-ndjson';
const END = 10;

/** The pieces of a body, as they come. Throws Offline where it breaks off. */
export async function* piecesOf<T>(body: ReadableStream<Uint8Array>): AsyncGenerator<T> {
  const reader = body.getReader();
  // What came of the line that is under way: a long one comes in many chunks, and is read as words once.
  let begun: Uint8Array[] = [];
  const whole = () => {
    const decoder = new TextDecoder();
    const words = begun.map((bytes) => decoder.decode(bytes, { stream: true })).join('') + decoder.decode();
    begun = [];
    return words;
  };
  for (;;) {
    const { done, value } = await reader.read().catch(() => {
      throw new Offline('The connection to the workshop’s server was lost.');
    });
    let rest = value;
    for (let at = rest?.indexOf(END) ?? -1; rest && at >= 0; at = rest.indexOf(END)) {
      begun.push(rest.subarray(0, at));
      rest = rest.subarray(at + 1);
      const line = whole();
      if (line.trim()) yield JSON.parse(line) as T;
    }
    if (rest?.length) begun.push(rest);
    if (done) break;
  }
  const line = whole();
  if (line.trim()) yield JSON.parse(line) as T;
}
