import type { Document, Route, routes } from '@polychron/contract';
import type { RulebookChoices } from '@polychron/core';
import type { Response } from 'supertest';
import { docxOf } from './files.ts';
import type { Agent, TestServer } from './server.ts';

/** One thing that is asked for, over and over: of what there is, by whom, and how it stands then. */
export interface Asked {
  account: string;
  path: string;
  body?: object;
  /** How what it was about stands, without what names this one of two alike. */
  stands: () => Promise<unknown>;
  /** By another sign-in than the account's token. */
  agent?: Agent;
}
/** Makes anew what a route is asked about; two made so are alike but for the name that is given. */
export type Case = (name: string) => Promise<Asked>;

export type Cases = Partial<Record<keyof typeof routes, Case>>;

/** A name of its own for each of what is made. */
let made = 0;
export const unique = (): string => `n${(made += 1)}`;

/** The body of an answer that something came of. */
export const bodyOf = async <T>(asked: PromiseLike<Response>): Promise<T> => {
  const answer = await asked;
  if (answer.status >= 300) throw new Error(`${answer.status} ${answer.text}`);
  return answer.body as T;
};

/** How a document stands to its controller: versions with their states, who holds it, what was done. */
export async function documentStands(server: TestServer, id: string): Promise<unknown> {
  const controller = await server.as('controller');
  const { items } = await bodyOf<{
    items: { label: string; state: string; thinned: unknown; sheltered: unknown }[];
  }>(controller.get(`/api/v1/documents/${id}/versions`));
  const { custody } = await bodyOf<Document>(controller.get(`/api/v1/documents/${id}`));
  const entries = await server.context.models.Ledger.findAll({
    where: { documentId: id },
    order: ['sequence'],
  });
  return {
    versions: items.map(({ label, state, thinned, sheltered }) => [
      label,
      state,
      Boolean(thinned),
      Boolean(sheltered),
    ]),
    holder: custody?.holder.account ?? null,
    acts: entries.map(({ act }) => act),
  };
}

/** Rules under which one approver is asked. */
export const approval: RulebookChoices = { approval: { on: true, approvers: ['approver'] } };

/** Changes a document and submits it. */
export async function submit(server: TestServer, id: string): Promise<void> {
  await server.change(id, 'first\nthird');
  await bodyOf((await server.as('author')).post(`/api/v1/documents/${id}/submit`).send({}));
}

/** Asks once. */
export async function ask(
  server: TestServer,
  route: Route,
  { account, path, body, agent }: Asked,
): Promise<Response> {
  const asked = (agent ?? (await server.as(account)))[route.method](`/api/v1${path}`);
  if (route.sends === 'bytes')
    return asked
      .set('Content-Type', 'application/octet-stream')
      .send(Buffer.isBuffer(body) ? body : docxOf('same'));
  if (route.sends !== 'form') return asked.send(route.sends === 'json' ? body : undefined);
  return asked.field((body ?? {}) as Record<string, string>).attach('file', docxOf('mine'), 'op.docx');
}
