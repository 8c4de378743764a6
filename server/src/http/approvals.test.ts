import type * as contract from '@polychron/contract';
import { maySee, type RulebookChoices, sightFacts, waitingFor } from '@polychron/core';
import { loadDocuments } from '../store/documents.ts';
import { rolesIn } from '../store/members.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();

const approval = { on: true, approvers: ['approver', 'approver2'] };
const post = async (account: string, id: string, path: string, body: object = {}) =>
  (await server.as(account)).post(`/api/v1/documents/${id}/${path}`).send(body);
const decide = (account: string, id: string, decision: string, more: object = {}) =>
  post(account, id, 'decision', { version: '0.1', decision, comment: 'Said', ...more });
async function listed(account: string, query = ''): Promise<contract.ApprovalList> {
  const answer = await (await server.as(account)).get(`/api/v1/approvals?${query}`).expect(200);
  return answer.body as contract.ApprovalList;
}
/** Numbers of a list that are of one library, in its order. */
const of = (library: string, { items }: contract.ApprovalList): string[] =>
  items.flatMap(({ document }) => (document.library.id === library ? [document.number] : []));
async function submitted(library: string, title = 'A document'): Promise<contract.Document> {
  const made = await server.document(library, title, { title });
  expect((await post('author', made.id, 'submit', { comment: `About ${title}` })).status).toBe(200);
  server.pass(1);
  return made;
}
const noticesOf = async (account: string): Promise<string[]> => {
  const answer = await (await server.as(account)).get('/api/v1/notices?limit=200').expect(200);
  return (answer.body as contract.NoticeList).items.map(({ text }) => text);
};

test('what waits is listed the longest waiting first, in parts, with its posts and who reads it then', async () => {
  const library = await server.library({ approval });
  const [one, two, three] = [
    await submitted(library, 'One'),
    await submitted(library, 'Two'),
    await submitted(library, 'Three'),
  ];
  const all = await listed('approver', 'limit=200');
  expect(of(library, all)).toEqual([one.number, two.number, three.number]);
  expect(all.items.find(({ document }) => document.id === one.id)).toMatchObject({
    document: { title: 'One', number: one.number },
    version: '0.1',
    state: 'inApproval',
    inForce: null,
    submittedBy: { account: 'author' },
    comment: 'About One',
    posts: [
      { account: 'approver', decision: null, inPlace: false },
      { account: 'approver2', decision: null, inPlace: false },
    ],
    waitingFor: [{ account: 'approver' }],
    readers: 7,
  });
  const parts: contract.ApprovalList[] = [await listed('approver', 'limit=2')];
  for (let next = parts[0]?.next; next; next = parts.at(-1)?.next) {
    parts.push(await listed('approver', `limit=2&cursor=${next}`));
  }
  expect(parts.flatMap(({ items }) => items.map(({ document }) => document.id))).toEqual(
    all.items.map(({ document }) => document.id),
  );
  expect(new Set(parts.map(({ total }) => total))).toEqual(new Set([all.total]));
  // The second is asked once the first agrees; a word that it is not yet decided leaves it where it is.
  expect(of(library, await listed('approver2'))).toEqual([]);
  expect((await decide('approver', two.id, 'later')).status).toBe(200);
  expect((await decide('approver', one.id, 'approve')).status).toBe(200);
  expect(of(library, await listed('approver', 'limit=200'))).toEqual([two.number, three.number]);
  expect(of(library, await listed('approver2', 'limit=200'))).toEqual([one.number]);
});

test('out for decision: one sees what one submitted or owns, a controller everything; then what came of it', async () => {
  const library = await server.library({
    approval: { ...approval, mode: 'anyOne', publishing: 'byOwner' },
    sight: { inApproval: ['approver', 'author'], rejected: ['author'] },
  });
  const [waits, agreed, refused] = [
    await submitted(library, 'Waits'),
    await submitted(library, 'Agreed'),
    await submitted(library, 'Refused'),
  ];
  expect((await decide('approver', agreed.id, 'approve')).status).toBe(200);
  expect((await decide('approver2', refused.id, 'reject', { comment: 'Span table' })).status).toBe(200);
  const out = async (account: string, state: string) =>
    of(library, await listed(account, `part=out&limit=200&state=${state}`));
  expect(await out('author', 'inApproval')).toEqual([waits.number]);
  expect(await out('controller', 'inApproval')).toEqual([waits.number]);
  // Another author sees the version, and it is not theirs.
  expect(await out('author2', 'inApproval')).toEqual([]);
  expect(await out('author', 'approved')).toEqual([agreed.number]);
  expect(await out('author', 'rejected')).toEqual([refused.number]);
  const [item] = (await listed('author', 'part=out&state=rejected')).items;
  expect(item).toMatchObject({ state: 'rejected', waitingFor: [] });
  expect(item?.posts.map(({ account, decision, comment }) => [account, decision, comment])).toContainEqual([
    'approver2',
    'reject',
    'Span table',
  ]);
});

test('the list agrees with what core says of each document, whoever asks, under any sight', async () => {
  const sights: RulebookChoices['sight'][] = [
    {},
    { inApproval: [] },
    { inApproval: ['reader', 'auditor', 'author', 'approver'] },
  ];
  const modes = ['serial', 'together', 'anyOne'] as const;
  const members = ['reader', 'auditor', 'author', 'author2', 'approver', 'approver2', 'controller'];
  for (const [place, sight] of sights.entries()) {
    const mode = modes[place] ?? 'serial';
    const named = place === 1 ? ['controller'] : ['approver', 'approver2', 'controller'];
    const library = await server.library({
      approval: { on: true, mode, approvers: named },
      ...(sight ? { sight } : {}),
    });
    const made = [
      await submitted(library, 'a'),
      await submitted(library, 'b'),
      await server.document(library, 'c'),
    ];
    const first = named[0] ?? '';
    await decide(first, made[1]?.id ?? '', 'later');
    const loaded = await loadDocuments(
      server.context,
      made.map(({ id }) => id),
    );
    const roles = await rolesIn(server.context, library, null);
    for (const account of members) {
      const { id } = await server.caller(account);
      const viewer = { id, roles: roles.get(id) ?? new Set() };
      const open = [...loaded.values()].flatMap(({ approval: run, number }) => (run ? [number] : [])).sort();
      const expected = [...loaded.values()].filter(({ approval: run, latest, ...document }) => {
        const seen = maySee(viewer, sightFacts({ ...document }, latest), document.rules);
        return run && seen && waitingFor(run).some(({ personId }) => personId === id);
      });
      const found = of(library, await listed(account, 'limit=200'));
      expect({ account, mode, found }).toEqual({
        account,
        mode,
        found: expected.map(({ number }) => number).sort(),
      });
      // Whose turn it is has it in one list only; a controller has the others in the other one.
      const others = of(library, await listed(account, 'part=out&limit=200'));
      expect(others.filter((number) => found.includes(number))).toEqual([]);
      if (account === 'controller') expect([...found, ...others].sort()).toEqual(open);
    }
  }
});

test('a controller puts somebody in the place of who is away: both are told, and the record keeps it', async () => {
  const library = await server.library({ approval });
  const { id, number } = await submitted(library);
  const put = async (account: string, body: object) =>
    (await server.as(account)).put(`/api/v1/documents/${id}/approval/approvers`).send(body);
  const wanted = { from: 'approver', to: 'controller', reason: 'On leave until Monday' };
  expect((await put('author', wanted)).body).toMatchObject({ status: 403, code: 'role-missing' });
  expect((await put('reader', wanted)).status).toBe(404);
  expect((await put('controller', { ...wanted, to: 'nobody-here' })).body).toMatchObject({
    status: 422,
    code: 'account-unknown',
  });
  expect((await put('controller', { ...wanted, reason: '' })).body).toMatchObject({ code: 'reason-missing' });
  expect((await put('controller', { ...wanted, to: 'reader' })).body).toMatchObject({
    code: 'cannot-decide',
  });
  expect((await put('controller', { ...wanted, to: 'approver2' })).body).toMatchObject({
    code: 'asked-already',
  });
  expect(of(library, await listed('approver', 'limit=200'))).toEqual([number]);
  const answer = await put('controller', wanted);
  expect(answer.status).toBe(200);
  const { approval: run } = answer.body as contract.Document;
  expect(run?.posts.map(({ person }) => person.account)).toEqual(['controller', 'approver2']);
  expect(of(library, await listed('approver', 'limit=200'))).toEqual([]);
  expect(of(library, await listed('controller', 'limit=200'))).toEqual([number]);
  expect((await noticesOf('approver')).find((text) => text.includes(number))).toBe(
    `C. controller put C. controller in your place for ${number} 0.1: “On leave until Monday”. It no longer waits for you.`,
  );
  expect((await decide('approver', id, 'approve')).body).toMatchObject({ code: 'not-asked' });
  expect((await put('controller', wanted)).body).toMatchObject({ code: 'not-asked-there' });
  await decide('controller', id, 'approve');
  expect((await decide('approver2', id, 'approve')).body).toMatchObject({ label: '1.0' });
});

test('a controller decides in the place of those asked where the rules say so, and the record says so for good', async () => {
  const library = await server.library({ approval });
  const { id, number } = await submitted(library);
  const instead = { inPlace: true, comment: 'Both are at the towers' };
  expect((await decide('controller', id, 'approve', instead)).body).toMatchObject({ code: 'not-in-place' });
  await server.rules(library, { approval: { controllersDecide: true } });
  expect((await decide('controller', id, 'approve', { ...instead, comment: ' ' })).body).toMatchObject({
    code: 'comment-missing',
  });
  expect((await decide('controller', id, 'later', instead)).body).toMatchObject({ code: 'later-in-place' });
  const before = (await (await server.as('controller')).get(`/api/v1/documents/${id}`))
    .body as contract.Document;
  expect(before.acts.decideInPlace).toEqual({ allowed: true, why: null });
  expect(before.approval?.ifApprovedInPlace).toMatchObject({
    asked: [],
    published: { label: '1.0' },
    never: [],
  });
  const made = (await decide('controller', id, 'approve', instead)).body as contract.Version;
  expect(made).toMatchObject({ label: '1.0', standing: 'inForce' });
  expect(made.approval).toMatchObject({
    outcome: 'approved',
    posts: [
      { account: 'approver', decision: null, inPlace: false },
      { account: 'approver2', decision: null, inPlace: false },
      { account: 'controller', decision: 'approve', inPlace: true, comment: 'Both are at the towers' },
    ],
  });
  expect((await noticesOf('approver')).find((text) => text.includes(number))).toContain(
    'in the place of those asked: “Both are at the towers”',
  );
  expect(of(library, await listed('approver', 'limit=200'))).toEqual([]);
});

test('a controller who is asked later in turn may decide at once, in the place of all', async () => {
  const library = await server.library({
    approval: { on: true, approvers: ['approver', 'controller'], controllersDecide: true },
  });
  const { id } = await submitted(library);
  expect((await decide('controller', id, 'approve')).body).toMatchObject({ code: 'not-your-turn' });
  const made = (await decide('controller', id, 'approve', { inPlace: true })).body as contract.Version;
  expect(made.approval?.posts.map(({ account, inPlace }) => [account, inPlace])).toEqual([
    ['approver', false],
    ['controller', true],
  ]);
});

test('many are approved together, one with a comment of its own', async () => {
  const library = await server.library({ approval: { on: true, approvers: ['approver'] } });
  const [one, two] = [await submitted(library, 'One'), await submitted(library, 'Two')];
  const agent = await server.as('approver');
  const answer = await agent.post('/api/v1/bulk').send({
    act: 'approve',
    documents: [one.id, two.id],
    comment: 'All good',
    comments: { [two.id]: 'Mind the third figure' },
  });
  expect((answer.body as contract.BulkOutcomes).outcomes.map(({ ok }) => ok)).toEqual([true, true]);
  const comments = await Promise.all(
    [one, two].map(async ({ id }) => {
      const { body } = await agent.get(`/api/v1/documents/${id}`);
      return (body as contract.Document).inForce?.approval?.posts.map(({ comment }) => comment);
    }),
  );
  expect(comments).toEqual([['All good'], ['Mind the third figure']]);
});

test('two who decide at the same moment never approve twice', async () => {
  const library = await server.library({
    approval: { on: true, mode: 'anyOne', approvers: ['approver', 'approver2'] },
  });
  for (let round = 0; round < 8; round += 1) {
    const { id } = await submitted(library, `Round ${round}`);
    const answers = await Promise.all([
      decide('approver', id, 'approve'),
      decide('approver2', id, 'approve'),
    ]);
    expect(answers.map(({ status }) => status).sort()).toEqual([200, 409]);
    const { body } = await (await server.as('controller')).get(`/api/v1/documents/${id}/versions`);
    expect((body as contract.VersionList).items.map(({ label }) => label)).toEqual(['1.0', '0.1']);
  }
});
