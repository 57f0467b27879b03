/** Answers that come line by line: each a piece of JSON of its own. */
export const LINES = 'application/x-ndjson';

/** The pieces of a body, as they come. */
export async function* piecesOf<T>(body: ReadableStream<Uint8Array>): AsyncGenerator<T> {
  const reader = body.pipeThrough(new TextDecoderStream() as never).getReader() as ReadableStreamDefaultReader<string>;
  let rest = '';
  for (;;) {
    const { done, value } = await reader.read();
    rest += value ?? '';
    const lines = rest.split('\n');
    rest = lines.pop()!;
    for (const line of lines) if (line) yield JSON.parse(line) as T;
    if (done) break;
  }
  if (rest.trim()) yield JSON.parse(rest) as T;
}
