/** The API, typed by its own OpenAPI document, and its one shape of an error. */
import createClient from 'openapi-fetch';
import type { components, paths } from './schema';

export type Schemas = components['schemas'];
export type JobDocument = Schemas['Scene']['document'];
export type Verdict = Schemas['VerdictView'];
export type Placement = NonNullable<NonNullable<NonNullable<JobDocument['elements']>[number]>['placements']>[number];
export type Level = Verdict['level'];
export type Ticket = Schemas['TicketOut'];
export type Session = Schemas['SessionOut'];
export type LengthStyle = Schemas['WorkshopOut']['length_style'];
export type Fault = { field: string; message: string; hint: string };

export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly hint: string,
    readonly faults: Fault[],
  ) {
    super(message);
  }
}

/** No answer came: the connection or the server is gone. */
export class Offline extends Error {}

let csrf = '';
export function setCsrf(token: string) {
  csrf = token;
}

export const client = createClient<paths>({
  baseUrl: '/',
  fetch: async (request) => {
    if (request.method !== 'GET') request.headers.set('X-CSRFToken', csrf);
    try {
      return await fetch(request);
    } catch (cause) {
      if (request.signal.aborted) throw cause;
      throw new Offline('There is no connection to the workshop’s server.');
    }
  },
});

type Answer<T> = { data?: T; error?: unknown; response: Response };

/** The data of an answer, or its error thrown. */
export async function take<T>(answer: Promise<Answer<T>>): Promise<T> {
  const { data, error, response } = await answer;
  if (response.ok) return data as T;
  const body = (typeof error === 'object' && error !== null ? error : {}) as Partial<ApiError>;
  throw new ApiError(
    response.status,
    body.code ?? 'refused',
    body.message ?? `The server answered ${response.status}.`,
    body.hint ?? 'Try again in a moment.',
    body.faults ?? [],
  );
}

/** The same, for answers with pairs and boxes in them: the typed client knows those only as lists. */
export async function takeAs<T>(answer: Promise<Answer<unknown>>): Promise<T> {
  return (await take(answer)) as T;
}

/** A file as a form, for the endpoints that take one. */
export function fileForm(file: File) {
  const body = new FormData();
  body.append('file', file);
  return { body: body as never, bodySerializer: (b: unknown) => b as never };
}

/** What went wrong, in words. */
export const wordsOf = (bad: unknown) =>
  bad instanceof ApiError ? `${bad.message} ${bad.hint}` : bad instanceof Error ? bad.message : String(bad);
