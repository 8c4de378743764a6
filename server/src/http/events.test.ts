import request from 'supertest';
import type * as contract from '@polychron/contract';
import { Listening } from '../testing/events.ts';
import type { Agent } from '../testing/server.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();

const act = async (account: string, path: string, body: object): Promise<void> => {
  const answer = await (await server.as(account)).post(`/api/v1/documents/${path}`).send(body);
  expect([answer.body, answer.ok]).toEqual([answer.body, true]);
};
const notices = async (account: string): Promise<contract.NoticeList['items']> =>
  ((await (await server.as(account)).get('/api/v1/notices')).body as contract.NoticeList).items;

test('the second approver hears of what the first decides, and is told that it is their turn', async () => {
  const approvers = ['approver', 'approver2'];
  const library = await server.library({ approval: { on: true, mode: 'serial', approvers } });
  const { id } = await server.document(library);
  await act('author', `${id}/submit`, {});
  const listening = await Listening.start(server, ['approver2', 'reader']);
  await act('approver', `${id}/decision`, { version: '0.1', decision: 'approve' });
  await listening.until(() => listening.count('approver2') === 1);
  await listening.until(() => listening.count('approver2', 'notices') === 1);
  expect([listening.count('reader'), listening.count('reader', 'notices')]).toEqual([0, 0]);
  await listening.stop();
  expect(await notices('approver2')).toMatchObject([{ kind: 'toDecide', document: { id } }]);
});

test('whoever sees an older version hears of its thinning, recovery and shelter; whoever does not hears nothing', async () => {
  const library = await server.library({ custody: 'optional' });
  const { id } = await server.document(library, 'a');
  await server.change(id, 'b');
  await server.change(id, 'c', 'major');
  const listening = await Listening.start(server, ['author2', 'reader']);
  const sharing = { reason: 'Wanted' };
  for (const [index, [account, what]] of [
    ['author', 'thin'],
    ['controller', 'recover'],
    ['controller', 'unshelter'],
    ['controller', 'shelter'],
  ].entries()) {
    await act(account as string, `${id}/versions/0.1/${what}`, sharing);
    await listening.until(() => listening.count('author2') === index + 1);
  }
  expect(listening.count('reader')).toBe(0);
  await listening.stop();
});

test('a changed owner, co-author or approver is heard of by those who see the document', async () => {
  const library = await server.library();
  const { id } = await server.document(library, 'a');
  const listening = await Listening.start(server, ['author2', 'reader']);
  const agent: Agent = await server.as('author');
  await agent
    .patch(`/api/v1/documents/${id}`)
    .send({ fields: { coAuthors: ['author2'] }, comment: 'Together from now on' })
    .expect(200);
  await listening.until(() => listening.count('author2') > 0);
  // A reader sees no draft; what happens next is heard by both, so that nothing was still under way to them.
  await act('author', `${id}/publish`, {});
  await listening.until(() => listening.count('reader') > 0 && listening.count('author2') > 1);
  expect(listening.count('reader')).toBe(1);
  await listening.stop();
});

test('a stream ends with the token it came by, and nothing that happens after is told', async () => {
  const library = await server.library();
  const { id } = await server.document(library, 'a', { level: 'major' });
  const listening = await Listening.start(server, ['author2']);
  const agent = await server.as('author2');
  const { items } = (await agent.get('/api/v1/tokens')).body as { items: { id: string; name: string }[] };
  for (const { id: token, name } of items)
    if (name === 'events') await agent.delete(`/api/v1/tokens/${token}`).expect(204);
  await listening.until(() => listening.ended('author2'));
  await act('author', `${id}/checkout`, {});
  expect(listening.count('author2')).toBe(0);
  await listening.stop();
});

test('a stream ends with the session it came by', async () => {
  await server.password('author');
  const credentials = { account: 'author', password: 'correct horse' };
  const answer = await request(server.listener).post('/api/v1/session').send(credentials).expect(200);
  const cookie = String(answer.headers['set-cookie']).split(';')[0] as string;
  const listening = await Listening.start(server, []);
  await listening.listenWith('author', { Cookie: cookie });
  await request(server.listener).delete('/api/v1/session').set('Cookie', cookie).expect(204);
  await listening.until(() => listening.ended('author'));
  await listening.stop();
});
