/** Answers that come line by line: each a piece of JSON of its own. */
export const LINES = 'application/x-ndjson';

/** The pieces of a body, as they come. */
export async function* piecesOf<T>(body: ReadableStream<Uint8Array>): AsyncGenerator<T> {
  const reader = body.pipeThrough(new TextDecoderStream() as never).getReader() as ReadableStreamDefaultReader<string>;
  // What came of the line that is under way: a long one comes in many chunks, each looked through once.
  let begun: string[] = [];
  for (;;) {
    const { done, value = '' } = await reader.read();
    const [first = '', ...more] = value.split('\n');
    begun.push(first);
    for (const next of more) {
      const line = begun.join('');
      begun = [next];
      if (line) yield JSON.parse(line) as T;
    }
    if (done) break;
  }
  const line = begun.join('');
  if (line.trim()) yield JSON.parse(line) as T;
}
