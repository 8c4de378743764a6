import type * as contract from '@polychron/contract';
import { bringDueIntoForce } from '../jobs/sweeps.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();

const post = async (account: string, id: string, path: string, body: object = {}) =>
  (await server.as(account)).post(`/api/v1/documents/${id}/${path}`).send(body);
const read = async (id: string, account = 'author') =>
  (await (await server.as(account)).get(`/api/v1/documents/${id}`)).body as contract.Document;
const approve = (account: string, id: string, version: string) =>
  post(account, id, 'decision', { version, decision: 'approve' });

test('a decision that waits is counted for whoever is asked, and the submission lies on the Desk until it ends', async () => {
  const library = await server.library({ approval: { on: true, approvers: ['approver', 'approver2'] } });
  const { id } = await server.document(library, 'a');
  const asked = async (account: string) => {
    const agent = await server.as(account);
    const desk = (await agent.get('/api/v1/desk').expect(200)).body as contract.Desk;
    const waiting = (await agent.get('/api/v1/desk/waiting').expect(200)).body as contract.Waiting;
    expect(waiting).toEqual({
      unread: desk.unread,
      toDecide: desk.totals.decisions,
      toRead: desk.totals.toRead,
    });
    return {
      toDecide: waiting.toDecide,
      out: desk.outForDecision.map(({ document, label, comment, waitingFor }) => [
        document.id,
        label,
        comment,
        ...waitingFor.map(({ account: name }) => name),
      ]),
    };
  };
  const before = await asked('approver');
  await post('author', id, 'submit', { comment: 'Please look' });
  expect((await asked('author')).out).toEqual([[id, '0.1', 'Please look', 'approver']]);
  expect((await asked('approver')).toDecide).toBe(before.toDecide + 1);
  const second = (await asked('approver2')).toDecide;
  await approve('approver', id, '0.1');
  expect((await asked('author')).out).toEqual([[id, '0.1', 'Please look', 'approver2']]);
  expect(await asked('approver')).toEqual({ toDecide: before.toDecide, out: [] });
  expect((await asked('approver2')).toDecide).toBe(second + 1);
  await approve('approver2', id, '0.1');
  expect(await asked('author')).toEqual({ toDecide: 0, out: [] });
  const told = (await (await server.as('author')).get('/api/v1/notices')).body as contract.NoticeList;
  expect(told.items[0]).toMatchObject({ kind: 'approved', document: { id } });
  expect(told.items[0]?.text).toMatch(/^A\. approver2 approved \S+ 0\.1\. 1\.0 is in force\.$/);
});

test('8: two in turn; the first rejects, the second is never asked; a document beside it is approved on its own', async () => {
  const library = await server.library({
    approval: { on: true, approvers: ['approver', 'approver2'] },
    sight: { rejected: ['author', 'approver'] },
  });
  const [one, two] = [await server.document(library, 'a'), await server.document(library, 'b')];
  for (const { id } of [one, two])
    expect((await post('author', id, 'submit', { comment: 'Please look' })).body).toMatchObject({
      label: '0.1',
      state: 'inApproval',
    });
  expect((await read(one.id, 'approver')).approval).toMatchObject({
    version: '0.1',
    submittedBy: { account: 'author' },
    comment: 'Please look',
    waitingFor: [{ account: 'approver' }],
  });
  expect((await approve('approver2', one.id, '0.1')).body).toMatchObject({
    status: 409,
    code: 'not-your-turn',
  });
  expect(
    (await post('approver', one.id, 'decision', { version: '0.1', decision: 'reject' })).body,
  ).toMatchObject({ status: 422, code: 'comment-missing' });
  expect(
    (
      await post('approver', one.id, 'decision', {
        version: '0.1',
        decision: 'reject',
        comment: 'span table incomplete',
      })
    ).body,
  ).toMatchObject({ label: '0.1', state: 'rejected' });
  expect((await approve('approver2', one.id, '0.1')).body).toMatchObject({
    status: 409,
    code: 'not-in-approval',
  });
  expect(
    (
      await post('approver', two.id, 'decision', {
        version: '0.1',
        decision: 'later',
        comment: 'After lunch',
      })
    ).status,
  ).toBe(200);
  const outlook = async (who: string): Promise<unknown> =>
    (await (await server.as(who)).get(`/api/v1/documents/${two.id}`)).body.approval.ifApproved;
  expect([await outlook('approver'), await outlook('approver2'), await outlook('author')]).toMatchObject([
    { asked: [{ account: 'approver2' }], published: null, never: [] },
    null,
    null,
  ]);
  expect((await approve('approver', two.id, '0.1')).body).toMatchObject({
    label: '0.1',
    state: 'inApproval',
  });
  expect(await outlook('approver2')).toEqual({
    asked: [],
    published: { label: '1.0', inForceFrom: null },
    never: [],
  });
  expect((await approve('approver2', two.id, '0.1')).body).toMatchObject({
    label: '1.0',
    standing: 'inForce',
    origin: { kind: 'publish', from: '0.1' },
  });
  expect(await server.labels(two.id, 'reader')).toEqual(['1.0']);
  await (await server.as('reader')).get(`/api/v1/documents/${one.id}`).expect(404);
});

test('who decided, when and with what words stays with the version: names for all who see it, words for who saw the run', async () => {
  const library = await server.library({ approval: { on: true, approvers: ['approver', 'approver2'] } });
  const { id } = await server.document(library, 'a');
  const submit = (comment: string) => post('author', id, 'submit', { comment });
  const say = (who: string, decision: string, comment: string) =>
    post(who, id, 'decision', { version: '0.1', decision, comment });
  const runOf = async (who: string, label: string): Promise<contract.Version['approval']> =>
    (await (await server.as(who)).get(`/api/v1/documents/${id}/versions/${label}`).expect(200)).body.approval;
  expect(await runOf('author', '0.1')).toBeNull();
  await submit('please');
  expect(await runOf('author', '0.1')).toBeNull();
  await say('approver', 'reject', 'span table incomplete');
  const rejected = { outcome: 'rejected', comment: 'please', submittedBy: { account: 'author' } };
  expect(await runOf('author', '0.1')).toMatchObject({
    ...rejected,
    posts: [
      { account: 'approver', decision: 'reject', at: expect.any(String), comment: 'span table incomplete' },
      { account: 'approver2', decision: null, at: null },
    ],
  });
  await submit('again');
  await post('author', id, 'call-back', { comment: 'too soon' });
  expect(await runOf('author', '0.1')).toMatchObject({ outcome: 'calledBack', comment: 'again' });
  await submit('now');
  await say('approver', 'approve', 'checked on site');
  await say('approver2', 'approve', '');
  const approved = { mode: 'serial', outcome: 'approved', comment: 'now' };
  for (const label of ['0.1', '1.0'])
    expect(await runOf('author', label)).toMatchObject({
      ...approved,
      posts: [{ account: 'approver', decision: 'approve', comment: 'checked on site' }, { comment: '' }],
    });
  const told = await runOf('reader', '1.0');
  expect(told).toMatchObject({
    outcome: 'approved',
    comment: null,
    posts: [
      { account: 'approver', decision: 'approve', at: expect.any(String), comment: null },
      { account: 'approver2', decision: 'approve', at: expect.any(String), comment: null },
    ],
  });
  expect(JSON.stringify(told)).not.toMatch(/checked on site|now/);
});

test('byOwner: approved until the owner publishes; the moment of coming into force can be later', async () => {
  const library = await server.library({
    approval: { on: true, mode: 'anyOne', approvers: ['approver', 'approver2'], publishing: 'byOwner' },
  });
  const { id } = await server.document(library, 'a');
  await post('author', id, 'submit');
  expect((await read(id, 'approver')).acts.decide).toEqual({ allowed: true, why: null });
  await approve('approver2', id, '0.1');
  expect(await read(id)).toMatchObject({
    latest: { state: 'approved' },
    inForce: null,
    approval: null,
    acts: { publish: { allowed: true } },
  });
  expect((await post('author', id, 'publish', { inForceFrom: '2020-01-01T00:00:00Z' })).body).toMatchObject({
    status: 422,
    code: 'moment-past',
  });
  const from = new Date(server.now.getTime() + 48 * 3_600_000).toISOString();
  expect((await post('author', id, 'publish', { inForceFrom: from })).body).toMatchObject({
    label: '1.0',
    standing: 'scheduled',
    inForceFrom: from,
  });
  await (await server.as('reader')).get(`/api/v1/documents/${id}`).expect(404);
  expect(await bringDueIntoForce(server.context)).toBe(0);
  server.pass(49);
  expect(await bringDueIntoForce(server.context)).toBe(1);
  expect(await server.labels(id, 'reader')).toEqual(['1.0']);
  const second = await server.change(id, 'b', 'major');
  expect(second.state).toBe('inApproval');
});

test('what is due is in force for the next act, also when no sweep has been by', async () => {
  const { id } = await server.document(await server.library(), 'a', { level: 'major' });
  await server.change(id, 'b');
  await post('author', id, 'publish', {
    inForceFrom: new Date(server.now.getTime() + 3_600_000).toISOString(),
  });
  server.pass(2);
  await server.change(id, 'c', 'major');
  const { items } = (await (await server.as('author')).get(`/api/v1/documents/${id}/versions`))
    .body as contract.VersionList;
  expect(items.map(({ label, standing }) => [label, standing])).toEqual([
    ['3.0', 'inForce'],
    ['2.0', 'superseded'],
    ['1.1', null],
    ['1.0', 'superseded'],
  ]);
  expect(items[3]?.supersededAt).toBe(items[1]?.inForceFrom);
});

test('whole numbers: submitted at once, kept on approval; refused up front with the working copy untouched', async () => {
  const library = await server.library({
    numbering: 'whole',
    approval: { on: true, approvers: ['approver'] },
  });
  const document = await server.document(library, 'a', { level: 'major' });
  expect(document.latest).toMatchObject({ label: '1', state: 'inApproval' });
  expect((await approve('approver', document.id, '1')).body).toMatchObject({
    label: '1',
    state: 'published',
    standing: 'inForce',
    id: document.latest.id,
  });
  const author = await server.as('author');
  await author.post(`/api/v1/documents/${document.id}/checkout`).send({}).expect(201);
  const refused = await author
    .post(`/api/v1/documents/${document.id}/checkin`)
    .field('comment', 'x')
    .field('level', 'major')
    .field('keepCheckedOut', 'true')
    .field('confirm', 'same-bytes');
  expect(refused.body).toMatchObject({ status: 409, code: 'kept-in-approval' });
  expect((await read(document.id)).custody).toMatchObject({ mine: true });
});

test('approvers come from the document, else from the library; who could not decide is not asked; naming them makes no version', async () => {
  const library = await server.library({ approval: { on: true } });
  const { id } = await server.document(library, 'a');
  expect((await post('author', id, 'submit')).body).toMatchObject({ status: 409, code: 'no-approver' });
  const author = await server.as('author');
  expect(
    (
      await author
        .patch(`/api/v1/documents/${id}`)
        .send({ fields: { approvers: ['reader'] } })
        .expect(200)
    ).body,
  ).toMatchObject({ label: '0.1' });
  expect((await post('author', id, 'submit')).body).toMatchObject({
    code: 'no-approver',
    named: ['R. reader'],
  });
  await author
    .patch(`/api/v1/documents/${id}`)
    .send({ fields: { approvers: ['author', 'approver2'] } })
    .expect(200);
  await post('author', id, 'submit');
  expect((await read(id)).approval?.posts.map(({ person }) => person.account)).toEqual(['approver2']);
  expect(await server.labels(id)).toEqual(['0.1']);
  expect(
    (await author.patch(`/api/v1/documents/${id}`).send({ fields: { approvers: ['ghost'] } })).body,
  ).toMatchObject({ status: 409, code: 'in-approval' });
});

test('call back: submitter, owner or controller; a draft again', async () => {
  const library = await server.library({
    approval: { on: true, approvers: ['approver'] },
    sight: { inApproval: ['reader', 'auditor', 'author', 'approver'] },
  });
  const { id } = await server.document(library, 'a');
  await post('author', id, 'submit');
  expect((await post('author2', id, 'call-back')).body).toMatchObject({
    status: 403,
    code: 'not-yours-to-call-back',
  });
  expect((await post('controller', id, 'call-back', { comment: 'Too early' })).body).toMatchObject({
    label: '0.1',
    state: 'draft',
  });
  expect((await post('author', id, 'call-back')).body).toMatchObject({
    status: 409,
    code: 'not-in-approval',
  });
});

test('an act that takes the version out of one’s own sight still answers with it', async () => {
  const library = await server.library({
    approval: { on: true, approvers: ['approver'] },
    sight: { draft: ['reader', 'auditor', 'author', 'approver'], inApproval: ['approver'], rejected: [] },
  });
  const { id } = await server.document(library, 'a');
  expect((await post('author2', id, 'submit')).body).toMatchObject({ label: '0.1', state: 'inApproval' });
  await (await server.as('author2')).get(`/api/v1/documents/${id}`).expect(404);
  expect(
    (await post('approver', id, 'decision', { version: '0.1', decision: 'reject', comment: 'no' })).body,
  ).toMatchObject({ state: 'rejected' });
  await (await server.as('approver')).get(`/api/v1/documents/${id}`).expect(404);
});

test('two approvers at once: both count, and the version is published once', async () => {
  const library = await server.library({
    approval: { on: true, mode: 'together', approvers: ['approver', 'approver2'] },
  });
  for (let round = 0; round < 4; round += 1) {
    const { id } = await server.document(library, `a ${round}`);
    await post('author', id, 'submit');
    const answers = await Promise.all([approve('approver', id, '0.1'), approve('approver2', id, '0.1')]);
    expect(answers.map(({ status }) => status)).toEqual([200, 200]);
    expect(await server.labels(id)).toEqual(['1.0', '0.1']);
  }
});
