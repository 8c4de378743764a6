import type { Problem, Route } from '@polychron/contract';
import * as tus from 'tus-js-client';
import { useSeenAs } from './seenAs.ts';

/** A refusal of the server, with its sentence for a person. */
export class ProblemError extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail);
    this.name = 'ProblemError';
  }
}

interface CallInput<P, Q> {
  params?: P;
  query?: Partial<Q> | undefined;
  body?: unknown;
  ifMatch?: string;
  headers?: Record<string, string>;
  signal?: AbortSignal;
  /** Not as the person one looks as. */ asMyself?: boolean;
}

/** The address of a route with its parameters filled in. */
export function addressOf<P, Q>(
  route: Route<P, Q>,
  input: Pick<CallInput<P, Q>, 'params' | 'query' | 'asMyself'> = {},
): string {
  const params = (input.params ?? {}) as Record<string, string>;
  const path = route.path.replace(/\{(\w+)\}/g, (_, name: string) => encodeURIComponent(params[name] ?? ''));
  const query = new URLSearchParams();
  for (const [name, value] of Object.entries(input.query ?? {}))
    if (value !== undefined && value !== '') query.set(name, String(value));
  const { as } = useSeenAs.getState();
  if (route.seenAs && as !== null && !input.asMyself) query.set('as', as);
  const text = query.toString();
  return `/api/v1${path}${text && '?'}${text}`;
}

/** Calls a route of the contract. @throws ProblemError when the server refuses, or cannot be reached */
export async function call<P, Q, B, A>(route: Route<P, Q, B, A>, input: CallInput<P, Q> = {}): Promise<A> {
  return (await ask(route, input)).answer;
}

/** Calls a route; answers with the entity tag and the status as well. @throws ProblemError as `call` */
export async function ask<P, Q, B, A>(
  route: Route<P, Q, B, A>,
  input: CallInput<P, Q> = {},
): Promise<{ answer: A; tag: string; status: number }> {
  const headers: Record<string, string> = { ...input.headers };
  if (input.body !== undefined) headers['Content-Type'] = 'application/json';
  if (input.ifMatch) headers['If-Match'] = input.ifMatch;
  const response = await fetch(addressOf(route, input), {
    method: route.method.toUpperCase(),
    headers,
    ...(input.signal ? { signal: input.signal } : {}),
    ...(input.body === undefined ? {} : { body: JSON.stringify(input.body) }),
  }).catch((error: unknown) => {
    throw input.signal?.aborted ? error : unreachable();
  });
  if (!response.ok) throw new ProblemError(problemOf(response.status, await response.text()));
  return {
    answer: (response.status === 204 ? undefined : await response.json()) as A,
    tag: response.headers.get('etag') ?? '',
    status: response.status,
  };
}

export interface Upload<A> {
  done: Promise<A>;
  cancel(): void;
}

/** From here on a file is sent in parts, and goes on where it was after a lost connection. In bytes. */
const inParts = 4 << 20;
/**
 * How long to wait before each further try after a lost connection, in milliseconds: about an hour in all.
 */
const patience = [500, 1_000, 2_000, 5_000, 10_000, ...Array.from({ length: 120 }, () => 30_000)];

/**
 * Sends a form with a file, telling how much is sent. A large file is sent in parts before (tus 1.0), and
 * goes on where it was after a lost connection, or when the same file is sent again.
 * @param onShare the share sent so far, 0 to 1
 */
export function upload<P, Q, B, A>(
  route: Route<P, Q, B, A>,
  params: P,
  form: { file: File | null; fields?: Record<string, string> },
  onShare?: (share: number) => void,
): Upload<A> {
  const { file, fields = {} } = form;
  if (!file || file.size < inParts) return sendForm(route, params, form, onShare);
  const parts = sendInParts(file, onShare);
  let rest: Upload<A> | null = null;
  const done = parts.done.then((id) => {
    rest = sendForm(route, params, { file: null, fields: { ...fields, upload: id } });
    return rest.done;
  });
  const cancel = (): void => (rest ?? parts).cancel();
  return { done, cancel };
}

/** Sends a file in parts; answers with the id it is named by in a form. */
function sendInParts(file: File, onShare?: (share: number) => void): Upload<string> {
  let cancel = (): void => undefined;
  const done = new Promise<string>((resolve, reject) => {
    const sending = new tus.Upload(file, {
      endpoint: '/api/v1/uploads',
      retryDelays: patience,
      metadata: { filename: file.name },
      removeFingerprintOnSuccess: true,
      // Only what nobody answered, or who cannot for a moment, is tried again.
      onShouldRetry: (error) => [0, 423, 502, 503, 504].includes(error.originalResponse?.getStatus() ?? 0),
      onProgress: (sent, total) => onShare?.(sent / total),
      onSuccess: () => resolve(sending.url?.split('/').at(-1) ?? ''),
      onError: (error) => {
        const answer = error instanceof tus.DetailedError ? error.originalResponse : null;
        reject(answer ? new ProblemError(problemOf(answer.getStatus(), answer.getBody())) : unreachable());
      },
    });
    cancel = () => {
      reject(cancelled());
      // What is on the server already goes too; it would go by itself a day later.
      sending.abort(true).catch(() => undefined);
    };
    sending.findPreviousUploads().then(([before]) => {
      if (before) sending.resumeFromPreviousUpload(before);
      sending.start();
    }, reject);
  });
  return { done, cancel: () => cancel() };
}

const cancelled = (): ProblemError =>
  new ProblemError(problem(0, 'cancelled', 'The upload was cancelled. Nothing was changed.'));

function sendForm<P, Q, B, A>(
  route: Route<P, Q, B, A>,
  params: P,
  form: { file: File | null; fields?: Record<string, string> },
  onShare?: (share: number) => void,
): Upload<A> {
  const request = new XMLHttpRequest();
  const body = new FormData();
  for (const [name, value] of Object.entries(form.fields ?? {})) body.append(name, value);
  if (form.file) body.append('file', form.file, form.file.name);
  const done = new Promise<A>((resolve, reject) => {
    request.upload.onprogress = (event) => {
      if (event.lengthComputable) onShare?.(event.loaded / event.total);
    };
    request.onload = () => {
      if (request.status >= 200 && request.status < 300) resolve(JSON.parse(request.responseText) as A);
      else reject(new ProblemError(problemOf(request.status, request.responseText)));
    };
    request.onerror = () => reject(unreachable());
    request.onabort = () => reject(cancelled());
    request.open(route.method.toUpperCase(), addressOf(route, { params }));
    request.send(body);
  });
  return { done, cancel: () => request.abort() };
}

const problem = (status: number, code: string, detail: string): Problem => ({
  type: 'about:blank',
  title: '',
  status,
  code,
  detail,
});
/** Nobody answered. */
export const unreachable = (): ProblemError =>
  new ProblemError(
    problem(
      0,
      'unreachable',
      'The server cannot be reached. Check the connection and try again; nothing you typed is lost.',
    ),
  );

/** Whether nobody answered, or the server says that it cannot for a moment (RFC 9110, 15.6.4). */
export const isAway = (error: unknown): boolean =>
  error instanceof ProblemError && (error.problem.status === 0 || error.problem.status === 503);

/** What a server that refuses says. */
export function problemOf(status: number, text: string): Problem {
  try {
    return JSON.parse(text) as Problem;
  } catch (error) {
    if (!(error instanceof SyntaxError)) throw error;
    return problem(status, 'unexpected', `The server answered ${status}. Try again.`);
  }
}

/** Starts a download of an address the browser names by itself. */
export function download(address: string): void {
  const link = document.createElement('a');
  link.href = address;
  link.download = '';
  document.body.append(link);
  link.click();
  link.remove();
}

/** What the page itself says to a person, shown as it is. */
export class PageError extends Error {}

const faults = new WeakMap<object, string>();

/**
 * The number under which a fault of ours is reported; the browser's console has its cause under the same
 * number.
 */
function faultNumber(error: unknown): string {
  const key = error instanceof Object ? error : new Error(String(error));
  const known = faults.get(key);
  if (known) return known;
  const [number = 0] = crypto.getRandomValues(new Uint32Array(1));
  const made = number.toString(36).toUpperCase();
  faults.set(key, made);
  console.error(`Fault ${made}`, error);
  return made;
}

/** A refusal's sentence; anything else is a fault of ours: what to do, and a number to report. */
export function sentenceOf(error: unknown): string {
  if (error instanceof ProblemError) return error.problem.detail;
  if (error instanceof PageError) return error.message;
  return `The page made a mistake; nothing that was stored is lost. Load it again, and if it happens again, report fault ${faultNumber(error)}.`;
}
