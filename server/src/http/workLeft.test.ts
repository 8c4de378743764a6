import type * as contract from '@polychron/contract';
import type { Response } from 'supertest';
import { signInByProvider } from '../acts/signInByProvider.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();
const members = async (
  library: string,
  without: string,
  more: object[] = [],
  handOverTo?: string,
): Promise<Response> => {
  const controller = await server.as('controller');
  const address = `/api/v1/libraries/${library}/members`;
  const { body } = await controller.get(address).expect(200);
  const others = (body as contract.MemberView[])
    .filter((member) => member.account !== without)
    .map(({ account, group, roles }) => (account === undefined ? { group, roles } : { account, roles }));
  return controller
    .put(address)
    .query(handOverTo === undefined ? {} : { handOverTo })
    .send([...others, ...more]);
};
const refused = ({ status, body }: Response): unknown[] => {
  const { code, detail } = body as contract.Problem;
  return [status, code, detail];
};

test('whoever is asked to decide is taken out of the members only once another is asked in their place', async () => {
  const library = await server.library({ approval: { on: true, approvers: ['approver'] } });
  const [{ id, number }, other] = [await server.document(library, 'a'), await server.document(library, 'b')];
  const author = await server.as('author');
  for (const each of [id, other.id])
    await author.post(`/api/v1/documents/${each}/submit`).send({ comment: '' }).expect(200);
  const sentence = `A. approver is asked to decide about ${number} and 1 more and could not any more. Name who takes over, or keep the role.`;
  expect(refused(await members(library, 'approver'))).toEqual([409, 'work-left', sentence]);
  // Kept as a reader they could not decide either.
  const asReader = [{ account: 'approver', roles: ['reader'] }];
  expect(refused(await members(library, 'approver', asReader))[1]).toBe('work-left');
  // Whoever has nothing to do there goes at once.
  expect((await members(library, 'auditor')).status).toBe(200);
  const controller = await server.as('controller');
  for (const each of [id, other.id])
    await controller
      .put(`/api/v1/documents/${each}/approval/approvers`)
      .send({ from: 'approver', to: 'approver2', reason: 'Leaves us' })
      .expect(200);
  expect((await members(library, 'approver')).status).toBe(200);
  await (
    await server.as('approver2')
  )
    .post(`/api/v1/documents/${id}/decision`)
    .send({ version: '0.1', decision: 'approve' })
    .expect(200);
});

test('whoever holds a document, or answers for one, is no member any more only once that is handed on', async () => {
  const library = await server.library({ custody: 'optional' });
  const { id, number } = await server.document(library, 'a', { account: 'author' });
  await (await server.as('author2')).post(`/api/v1/documents/${id}/checkout`).send({}).expect(201);
  expect(refused(await members(library, 'author2'))).toEqual([
    409,
    'work-left',
    `A. author2 holds ${number} and could not check in any more. Name who takes over, or keep the role.`,
  ]);
  const controller = await server.as('controller');
  await controller.post(`/api/v1/documents/${id}/checkout/lift`).send({ reason: 'Leaves us' }).expect(200);
  expect((await members(library, 'author2')).status).toBe(200);
  expect(refused(await members(library, 'author'))).toEqual([
    409,
    'work-left',
    `A. author answers for ${number} and would be no member. Name who takes over, or keep a role.`,
  ]);
  await controller
    .patch(`/api/v1/documents/${id}`)
    .send({ fields: { owner: 'controller' }, comment: 'Leaves us' })
    .expect(200);
  expect((await members(library, 'author')).status).toBe(200);
});

test('whoever is named takes over what would be left, in the same act, or nothing is changed', async () => {
  const library = await server.library({ approval: { on: true, approvers: ['author2'] } });
  const owned = await server.document(library, 'owned', { account: 'author2' });
  const held = await server.document(library, 'held');
  const asked = await server.document(library, 'asked');
  const controller = await server.as('controller');
  const both = [{ account: 'author2', roles: ['author', 'approver'] }];
  expect((await members(library, 'author2', both)).status).toBe(200);
  const [author, author2] = [await server.as('author'), await server.as('author2')];
  await author2.post(`/api/v1/documents/${held.id}/checkout`).send({}).expect(201);
  await author.post(`/api/v1/documents/${asked.id}/submit`).send({ comment: '' }).expect(200);
  await author2
    .post(`/api/v1/documents/${asked.id}/decision`)
    .send({ version: '0.1', decision: 'later', comment: 'Tomorrow' })
    .expect(200);
  // One that is put off is waited for, too.
  expect(refused(await members(library, 'author2'))[1]).toBe('work-left');
  const of = async (id: string): Promise<contract.Document> =>
    (await controller.get(`/api/v1/documents/${id}`).expect(200)).body as contract.Document;
  const who = async (): Promise<unknown[]> => [
    (await of(owned.id)).owner.account,
    (await of(held.id)).custody?.holder.account,
    (await of(asked.id)).approval?.waitingFor.map(({ account }) => account),
  ];
  const before = ['author2', 'author2', ['author2']];
  // Somebody who could not hold it, one who is no member, one who is nobody.
  for (const [unfit, code] of [
    ['approver', 'successor-unfit'],
    ['stranger', 'successor-unfit'],
    ['ghost', 'account-unknown'],
  ] as const) {
    await server.caller('stranger');
    expect(refused(await members(library, 'author2', [], unfit))[1]).toBe(code);
    expect(await who()).toEqual(before);
  }
  // The roles one has after the change are what counts.
  const grown = [{ account: 'approver2', roles: ['author', 'approver'] }];
  const set = await controller.get(`/api/v1/libraries/${library}/members`);
  const wanted = (set.body as contract.MemberView[])
    .filter(({ account }) => account !== 'author2' && account !== 'approver2')
    .map(({ account, roles }) => ({ account, roles }));
  await controller
    .put(`/api/v1/libraries/${library}/members`)
    .query({ handOverTo: 'approver2' })
    .send([...wanted, ...grown])
    .expect(200);
  expect(await who()).toEqual(['approver2', 'approver2', ['approver2']]);
  const { items } = (await (await server.as('approver2')).get('/api/v1/notices')).body as contract.NoticeList;
  const numbers = items.filter(({ kind }) => kind === 'handedOver').map(({ document }) => document?.number);
  expect(numbers.sort()).toEqual([owned.number, held.number, asked.number].sort());
});

test('what somebody still may do stays theirs: only the decision of who keeps writing goes on', async () => {
  const library = await server.library({ approval: { on: true, approvers: ['author2'] } });
  const both = [{ account: 'author2', roles: ['author', 'approver'] }];
  expect((await members(library, 'author2', both)).status).toBe(200);
  const { id } = await server.document(library, 'owned', { account: 'author' });
  await (
    await server.as('controller')
  )
    .patch(`/api/v1/documents/${id}`)
    .send({ fields: { owner: 'author2' }, comment: '' })
    .expect(200);
  await (await server.as('author')).post(`/api/v1/documents/${id}/submit`).send({ comment: '' }).expect(200);
  const asAuthor = [{ account: 'author2', roles: ['author'] }];
  expect((await members(library, 'author2', asAuthor, 'approver')).status).toBe(200);
  const { body } = await (await server.as('controller')).get(`/api/v1/documents/${id}`).expect(200);
  const { owner, approval } = body as contract.Document;
  expect(owner.account).toBe('author2');
  expect(approval?.waitingFor.map(({ account }) => account)).toEqual(['approver']);
});

test('groups keep the work of who is in them: changed, removed, or followed by a provider', async () => {
  const own = await server.library();
  const admin = await server.as('admin');
  await server.caller('chief');
  const name = `Chiefs ${own}`;
  const { id: group } = (
    await admin
      .post('/api/v1/groups')
      .send({ name, people: ['chief', 'approver2'] })
      .expect(201)
  ).body as contract.Group;
  expect((await members(own, '', [{ group: name, roles: ['approver'] }])).status).toBe(200);
  await server.rules(own, { approval: { on: true, approvers: ['chief'] } });
  const { id } = await server.document(own, 'a');
  await (await server.as('author')).post(`/api/v1/documents/${id}/submit`).send({ comment: '' }).expect(200);
  const change = { name, people: ['approver2'] };
  // Whoever makes groups and is in no library is told of no document.
  expect(refused(await admin.put(`/api/v1/groups/${group}`).send(change))[2]).toBe(
    'C. chief is asked to decide about a document and could not any more. Name who takes over, or keep the role.',
  );
  expect(refused(await admin.delete(`/api/v1/groups/${group}`))[1]).toBe('work-left');
  const taken = await admin.delete(`/api/v1/groups/${group}`).query({ handOverTo: 'reader' });
  expect(refused(taken)[1]).toBe('successor-unfit');
  // What a provider says of groups asks nobody: who has work stays until a hand has handed it over.
  await admin
    .put('/api/v1/provider')
    .send({ linkAccounts: true, groups: [{ value: 'chiefs', group: name }] })
    .expect(200);
  const told = {
    issuer: 'https://provider.example',
    subject: 'chief',
    claims: { preferred_username: 'chief', groups: [] },
  };
  await signInByProvider(server.context, told);
  const inGroup = async (): Promise<string[]> =>
    (
      (await admin.get(`/api/v1/groups?q=${encodeURIComponent(name)}`)).body as { items: contract.Group[] }
    ).items
      .flatMap(({ people }) => people)
      .map(({ account }) => account)
      .sort();
  expect(await inGroup()).toEqual(['approver2', 'chief']);
  await admin.put(`/api/v1/groups/${group}`).query({ handOverTo: 'approver' }).send(change).expect(200);
  const { approval } = (await (await server.as('author')).get(`/api/v1/documents/${id}`))
    .body as contract.Document;
  expect(approval?.waitingFor.map(({ account }) => account)).toEqual(['approver']);
  await signInByProvider(server.context, told);
  expect(await inGroup()).toEqual(['approver2']);
});
