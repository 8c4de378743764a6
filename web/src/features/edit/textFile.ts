import type { Route } from '@polychron/contract';
import { decodeText, encodeText, isRefusal, type TextForm, usualForm, withEnding } from '@polychron/core';
import { addressOf, PageError, ProblemError, problemOf, unreachable } from '../../ui/api.ts';

/** A text as it is typed, with line ends of one kind, and how it stands in its file. */
export interface LoadedText {
  text: string;
  tag: string;
  form: TextForm;
}

/** Reads the text a route answers, in whatever encoding it is. */
export async function textAt<P>(route: Route<P>, params: P): Promise<LoadedText> {
  const answer = await fetch(addressOf(route as Route<P, Record<string, never>>, { params }), {
    cache: 'no-store',
  }).catch(() => {
    throw unreachable();
  });
  if (!answer.ok) throw new ProblemError(problemOf(answer.status, await answer.text()));
  const { text, form } = decodeText(new Uint8Array(await answer.arrayBuffer()));
  return { text: withEnding(text, '\n'), tag: answer.headers.get('etag') ?? '', form };
}

/** Writes a text as its file is written; refused, and nothing sent, where the encoding has not its signs. */
export async function putText<P, Q, B, A>(
  route: Route<P, Q, B, A>,
  input: { params: P; query?: Partial<Q> },
  file: { text: string; name: string; tag: string; form: TextForm | null },
): Promise<A> {
  const { encoding, mark, ending } = file.form ?? usualForm;
  const bytes = encodeText(withEnding(file.text, ending), { encoding, mark, ending });
  if (isRefusal(bytes)) throw new PageError(bytes.reason);
  const answer = await fetch(addressOf(route, input), {
    method: 'PUT',
    body: new Uint8Array(bytes),
    headers: {
      'Content-Type': 'application/octet-stream',
      'If-Match': file.tag,
      'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(file.name)}`,
    },
  }).catch(() => {
    throw unreachable();
  });
  if (!answer.ok) throw new ProblemError(problemOf(answer.status, await answer.text()));
  return (await answer.json()) as A;
}
