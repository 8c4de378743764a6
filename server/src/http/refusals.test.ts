import { refusalCodes } from '@polychron/contract';
import { testServer } from '../testing/started.ts';

const server = testServer();

type Method = 'get' | 'post' | 'put' | 'delete';

/** Asks, and holds the code, its declared status, and that the sentence is one. */
async function refused(
  code: string,
  account: string,
  [method, path]: readonly [Method, string],
  body?: object,
): Promise<void> {
  const agent = await server.as(account);
  const answer = await agent[method](`/api/v1${path}`).send(body);
  expect([path, answer.status, answer.body]).toMatchObject([
    path,
    refusalCodes[code]?.status,
    { code, detail: expect.stringMatching(/\.$|\?$/) as string },
  ]);
}
const done = async (account: string, path: string, body: object, status: number): Promise<unknown> =>
  (await (await server.as(account)).post(`/api/v1${path}`).send(body).expect(status)).body;

test('what is asked to be decided, submitted or published and cannot be, says which version and why', async () => {
  const library = await server.library({ approval: { on: true, approvers: ['approver', 'approver2'] } });
  const { id } = await server.document(library, 'a');
  await server.change(id, 'b');
  await refused('needs-approval', 'author', ['post', `/documents/${id}/publish`], { version: '0.2' });
  await refused('not-the-latest', 'author', ['post', `/documents/${id}/submit`], { version: '0.1' });
  await done('author', `/documents/${id}/submit`, { comment: 'Please' }, 200);
  const decision = ['post', `/documents/${id}/decision`] as const;
  await refused('other-version', 'approver', decision, { version: '0.1', decision: 'approve' });
  await done('approver', `/documents/${id}/decision`, { version: '0.2', decision: 'approve' }, 200);
  await refused('decided-already', 'approver', decision, { version: '0.2', decision: 'approve' });
  await done('approver2', `/documents/${id}/decision`, { version: '0.2', decision: 'approve' }, 200);
  await refused('nothing-to-submit', 'author', ['post', `/documents/${id}/submit`], { comment: 'Again' });
  await refused('nothing-to-restore', 'author', ['post', `/documents/${id}/restore`], {
    from: '1.0',
    comment: 'As it is',
  });

  const byHand = await server.library({
    approval: { on: true, approvers: ['approver'], publishing: 'byOwner' },
  });
  const { id: waits } = await server.document(byHand, 'a');
  await done('author', `/documents/${waits}/submit`, { comment: 'Please' }, 200);
  await done('approver', `/documents/${waits}/decision`, { version: '0.1', decision: 'approve' }, 200);
  await refused('approved-already', 'author', ['post', `/documents/${waits}/submit`], { comment: 'Again' });
});

test('of drafts the latest is published; one does not decide about a version of one’s own', async () => {
  const library = await server.library();
  const { id } = await server.document(library, 'a');
  await server.change(id, 'b');
  await refused('not-the-latest', 'author', ['post', `/documents/${id}/publish`], { version: '0.1' });

  const own = await server.library({
    approval: { on: true, approvers: ['author2'], authorMayApprove: true },
  });
  await (
    await server.as('admin')
  )
    .put(`/api/v1/libraries/${own}/members`)
    .send([
      { account: 'author', roles: ['author'] },
      { account: 'author2', roles: ['author', 'approver'] },
      { account: 'controller', roles: ['controller'] },
    ])
    .expect(200);
  const { id: mine } = await server.document(own, 'a', { account: 'author2' });
  await done('author', `/documents/${mine}/submit`, { comment: 'Please' }, 200);
  await server.rules(own, { approval: { authorMayApprove: false } });
  await refused('own-version', 'author2', ['post', `/documents/${mine}/decision`], {
    version: '0.1',
    decision: 'approve',
  });
});

test('what is sheltered, thinned or recovered by hand is so once; a thinning goes on', async () => {
  const library = await server.library();
  const { id } = await server.document(library, 'a', { level: 'major' });
  const version = `/documents/${id}/versions/1.0`;
  const reason = { reason: 'For the inspection' };
  await refused('not-thinned', 'controller', ['post', `${version}/recover`], reason);
  await refused('not-sheltered', 'controller', ['post', `${version}/unshelter`], reason);
  await done('controller', `${version}/shelter`, reason, 200);
  await refused('sheltered-already', 'controller', ['post', `${version}/shelter`], reason);

  await server.change(id, 'b', 'major');
  await server.change(id, 'c', 'major');
  const controller = await server.as('controller');
  const set = await controller
    .put(`/api/v1/libraries/${library}/rulebook`)
    .send({ keep: { published: 1 }, reason: 'Less' })
    .expect(200);
  const { job } = set.body as { job: string };
  await refused('not-cancellable', 'controller', ['delete', `/jobs/${job}`]);
  await server.settle();
});

test('rules that cannot be kept name the rule', async () => {
  const library = await server.library();
  const rulebook = ['put', `/libraries/${library}/rulebook`] as const;
  const fifty = Array.from({ length: 51 }, (_, index) => `approver-${index}`);
  const approvers = (names: string[]) => ({ approval: { approvers: names }, reason: 'Try' });
  await refused('approver-twice', 'controller', rulebook, approvers(['approver', 'approver']));
  await refused('too-many-approvers', 'controller', rulebook, approvers(fifty));
  await refused('saves-need-steps', 'controller', rulebook, {
    numbering: 'whole',
    saves: 'drafts',
    reason: 'Try',
  });
});

test('a file that no reader knows is neither read nor merged; what was set aside stays as it is', async () => {
  const library = await server.library();
  const author = await server.as('author');
  const made = await author
    .post(`/api/v1/libraries/${library}/documents`)
    .field('fields', JSON.stringify({ title: 'Drawing' }))
    .attach('file', Buffer.from([1, 2, 3]), 'drawing.bin')
    .expect(201);
  const { id } = made.body as { id: string };
  await refused('no-reading', 'author', ['get', `/documents/${id}/versions/0.1/reading`]);
  await author.post(`/api/v1/documents/${id}/checkout`).send({}).expect(201);
  await author
    .put(`/api/v1/documents/${id}/checkout/content`)
    .set('Content-Type', 'application/octet-stream')
    .set('Content-Disposition', 'attachment; filename="drawing.bin"')
    .send(Buffer.from([1, 2, 3, 4]))
    .expect(200);
  await done('controller', `/documents/${id}/checkout/lift`, { reason: 'On leave' }, 200);
  const desk = (await author.get('/api/v1/desk').expect(200)).body as { files: { id: string }[] };
  const [aside] = desk.files;
  const save = await author
    .put(`/api/v1/desk/files/${aside?.id}/content`)
    .set('Content-Type', 'application/octet-stream')
    .set('Content-Disposition', 'attachment; filename="drawing.bin"')
    .send(Buffer.from([5]));
  expect([save.status, save.body]).toMatchObject([refusalCodes['set-aside']?.status, { code: 'set-aside' }]);
  await refused('not-mergeable', 'author', ['post', `/desk/files/${aside?.id}/bring-in`], {
    level: 'minor',
    comment: 'Put together',
    choices: {},
  });
});
