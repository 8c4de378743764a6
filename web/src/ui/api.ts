import type { Route } from '@polychron/contract';
import type { Upload } from './inParts.ts';
import { cancelled, unreachable } from './problems.ts';
import { useLooking } from './looking.ts';
import { refusalOf, sessionGoesOn, useSession } from './session.ts';

export type { Upload } from './inParts.ts';
export {
  isAway,
  isSignedOut,
  isUnanswered,
  PageError,
  ProblemError,
  problemOf,
  sentenceOf,
  unreachable,
} from './problems.ts';

interface CallInput<P, Q> {
  params?: P;
  query?: Partial<Q> | undefined;
  body?: unknown;
  ifMatch?: string;
  headers?: Record<string, string>;
  signal?: AbortSignal;
  /** Not as the person one looks as. */ asMyself?: boolean;
  /** What an act begins with: a session that ended refuses it, it does not wait for the sign-in. */
  forAct?: boolean;
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
  const { as, at } = useLooking.getState();
  if (route.seenAs && as !== null && !input.asMyself) query.set('as', as);
  if (route.asOf && at !== null && !query.has('asOf')) query.set('asOf', at);
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
  if (!response.ok) {
    const refusal = refusalOf(response.status, await response.text());
    if (route.method !== 'get' || input.forAct || !useSession.getState().ended) throw refusal;
    // What is only read waits for the sign-in, and the page stays as it is.
    await sessionGoesOn();
    return ask(route, input);
  }
  return {
    answer: (response.status === 204 ? undefined : await response.json()) as A,
    tag: response.headers.get('etag') ?? '',
    status: response.status,
  };
}

/** From here on a file is sent in parts, and goes on where it was after a lost connection. In bytes. */
const inParts = 4 << 20;
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
  let under: Pick<Upload<unknown>, 'cancel'> | null = null;
  let left = false;
  const send = async (): Promise<A> => {
    const { sendInParts } = await import('./inParts.ts');
    if (left) throw cancelled();
    const parts = sendInParts(file, onShare);
    under = parts;
    const rest = sendForm(route, params, { file: null, fields: { ...fields, upload: await parts.done } });
    under = rest;
    return rest.done;
  };
  const cancel = (): void => {
    left = true;
    under?.cancel();
  };
  return { done: send(), cancel };
}

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
      else reject(refusalOf(request.status, request.responseText));
    };
    request.onerror = () => reject(unreachable());
    request.onabort = () => reject(cancelled());
    request.open(route.method.toUpperCase(), addressOf(route, { params }));
    request.send(body);
  });
  return { done, cancel: () => request.abort() };
}

/**
 * Fetches an answer in another form, and gives it to the browser as a file; it has the server's name for it,
 * unless another is given.
 * @returns why it is no issued copy, where one was asked for and the file comes as it is; else null
 * @throws ProblemError as `call`
 */
export async function downloadAs<P, Q, A>(
  route: Route<P, Q, undefined, A>,
  input: Pick<CallInput<P, Q>, 'params' | 'query'> & { asOf?: string | undefined },
  { accept, fileName }: { accept: string; fileName?: string },
): Promise<string | null> {
  const { asOf, ...rest } = input;
  const query = { ...rest.query, ...(asOf === undefined ? {} : { asOf }) };
  const response = await fetch(addressOf(route, { ...rest, query } as CallInput<P, Q>), {
    headers: { Accept: accept },
  }).catch(() => {
    throw unreachable();
  });
  if (!response.ok) throw refusalOf(response.status, await response.text());
  const address = URL.createObjectURL(await response.blob());
  download(address, fileName ?? nameGiven(response.headers.get('content-disposition')));
  URL.revokeObjectURL(address);
  const why = response.headers.get('not-issued');
  return why === null ? null : decodeURIComponent(why);
}

/** The name the server gives a file (RFC 6266, section 4.3); of the two forms, the one in all signs. */
export function nameGiven(header: string | null): string {
  const [, encoded] = /filename\*=UTF-8''([^;]+)/i.exec(header ?? '') ?? [];
  if (encoded !== undefined) return decodeURIComponent(encoded);
  const [, quoted = '', plain = ''] = /filename=(?:"((?:[^"\\]|\\.)*)"|([^;]+))/i.exec(header ?? '') ?? [];
  return quoted === '' ? plain.trim() : quoted.replace(/\\(.)/g, '$1');
}

/** Starts a download of an address; the browser names it by itself unless a name is given. */
export function download(address: string, fileName = ''): void {
  const link = document.createElement('a');
  link.href = address;
  link.download = fileName;
  document.body.append(link);
  link.click();
  link.remove();
}
