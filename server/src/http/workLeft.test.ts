import type * as contract from '@polychron/contract';
import type { Response } from 'supertest';
import { signInByProvider } from '../acts/signInByProvider.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();
const members = async (library: string, without: string, more: object[] = []): Promise<Response> => {
  const controller = await server.as('controller');
  const address = `/api/v1/libraries/${library}/members`;
  const { body } = await controller.get(address).expect(200);
  const others = (body as contract.MemberView[])
    .filter((member) => member.account !== without)
    .map(({ account, group, roles }) => (account === undefined ? { group, roles } : { account, roles }));
  return controller.put(address).send([...others, ...more]);
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
  const sentence = `A. approver is asked to decide about ${number} and 1 more and could not any more. Put somebody in their place first, or keep the role.`;
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
    `A. author2 holds ${number} and could not check in any more. Lift the check-out first, or keep the role.`,
  ]);
  const controller = await server.as('controller');
  await controller.post(`/api/v1/documents/${id}/checkout/lift`).send({ reason: 'Leaves us' }).expect(200);
  expect((await members(library, 'author2')).status).toBe(200);
  expect(refused(await members(library, 'author'))).toEqual([
    409,
    'work-left',
    `A. author answers for ${number} and would be no member. Name another owner first, or keep a role.`,
  ]);
  await controller
    .patch(`/api/v1/documents/${id}`)
    .send({ fields: { owner: 'controller' }, comment: 'Leaves us' })
    .expect(200);
  expect((await members(library, 'author')).status).toBe(200);
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
  expect(refused(await admin.put(`/api/v1/groups/${group}`).send(change))[1]).toBe('work-left');
  expect(refused(await admin.delete(`/api/v1/groups/${group}`))[1]).toBe('work-left');
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
  await (
    await server.as('controller')
  )
    .put(`/api/v1/documents/${id}/approval/approvers`)
    .send({ from: 'chief', to: 'approver', reason: 'Away' })
    .expect(200);
  await signInByProvider(server.context, told);
  expect(await inGroup()).toEqual(['approver2']);
});
