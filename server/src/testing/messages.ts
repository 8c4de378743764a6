import type * as contract from '@polychron/contract';
import type { Response } from 'supertest';
import { composeMail } from '../acts/composeMail.ts';
import type { TestServer } from './server.ts';

/** Messages of a test's server: made, read, and what they wait for. */
export function messagesOf(server: TestServer) {
  const get = async (account: string, path: string): Promise<Response> =>
    (await server.as(account)).get(`/api/v1${path}`);
  const post = async (account: string, path: string, body: object): Promise<Response> =>
    (await server.as(account)).post(`/api/v1${path}`).send(body);
  const code = ({ body }: Response): string => (body as contract.Problem).code;
  const outbox = async (account: string): Promise<contract.OutboxList['items']> =>
    ((await get(account, '/outbox?limit=200')).body as contract.OutboxList).items;
  const choose = async (account: string, mail: string): Promise<void> => {
    await (await server.as(account)).put('/api/v1/session/notices').send({ mail }).expect(200);
  };
  /** Everything that is to be mailed by now is made. */
  const compose = async (): Promise<void> => {
    while ((await composeMail(server.context)) > 0);
  };
  /** The newest message to somebody. */
  async function newest(account: string): Promise<contract.OutboxMessage> {
    await compose();
    const [item] = await outbox(account);
    return (await get(account, `/outbox/${item?.id}`)).body as contract.OutboxMessage;
  }
  const raw = async (account: string, id: string): Promise<string> =>
    (
      (await (
        await server.as(account)
      )
        .get(`/api/v1/outbox/${id}`)
        .set('Accept', 'message/rfc822')
        .responseType('blob')
        .expect(200)) as { body: Buffer }
    ).body.toString('latin1');

  const inTurn = { approval: { on: true, mode: 'serial' as const, approvers: ['approver', 'approver2'] } };
  /** A document whose first draft waits for the approver, then for the second. */
  async function waiting(title = 'Rescue from a cabin'): Promise<contract.Document> {
    const library = await server.library(inTurn);
    const document = await server.document(library, 'text', { title });
    server.pass(1);
    expect((await post('author', `/documents/${document.id}/submit`, { comment: 'Please' })).status).toBe(
      200,
    );
    return document;
  }
  const latest = async (id: string): Promise<contract.Version> =>
    ((await get('controller', `/documents/${id}`)).body as contract.Document).latest;
  return { get, post, code, outbox, choose, compose, newest, raw, inTurn, waiting, latest };
}
