import fc from 'fast-check';
import type * as contract from '@polychron/contract';
import { defaultRulebook, type RulebookChoices, submit } from '@polychron/core';
import { runJobs, sweep } from '../jobs/sweeps.ts';
import { perform } from '../acts/perform.ts';
import { docxOf } from '../testing/files.ts';
import { testServer } from '../testing/started.ts';
import { patienceOf } from './rulebooks.ts';

const server = testServer();

const read = async (library: string) =>
  (await server.as('controller')).get(`/api/v1/libraries/${library}/rulebook`).expect(200);
const put = async (
  library: string,
  rules: object,
  { account = 'controller', ifMatch = '*', reason = 'Storage review' } = {},
) =>
  (await server.as(account))
    .put(`/api/v1/libraries/${library}/rulebook`)
    .set('If-Match', ifMatch)
    .send({ ...rules, reason });
const consequences = async (library: string, rules: object, query = '') =>
  (await server.as('controller'))
    .post(`/api/v1/libraries/${library}/rulebook/consequences${query}`)
    .send(rules);
const announced = async (library: string, rules: object, query = ''): Promise<contract.Consequences> =>
  (await consequences(library, rules, query)).body as contract.Consequences;
const publish = async (id: string, account = 'author') =>
  (await (await server.as(account)).post(`/api/v1/documents/${id}/publish`).send({}).expect(201))
    .body as contract.Version;

describe('setting rules', () => {
  test('is a revision with who, when, why and the difference; what is left out stays; it can be looked at and brought back', async () => {
    const library = await server.library({ numbering: 'whole' });
    expect((await put(library, { keep: { published: 200 }, sight: { draft: [] } })).body).toMatchObject({
      revision: 2,
      by: 'C. controller',
      reason: 'Storage review',
      changes: [
        { rule: 'sight.draft', from: ['author', 'approver'], to: [] },
        { rule: 'keep.published', from: null, to: 200 },
      ],
      rulebook: {
        ...defaultRulebook,
        numbering: 'whole',
        sight: { ...defaultRulebook.sight, draft: [] },
        keep: { ...defaultRulebook.keep, published: 200 },
      },
    });
    const history = (
      await (
        await server.as('author')
      )
        .get(`/api/v1/libraries/${library}/rulebook/history?limit=1`)
        .expect(200)
    ).body as contract.RulebookHistory;
    expect([history.total, history.items.map(({ revision }) => revision), history.next]).toEqual([
      2,
      [2],
      '2',
    ]);
    const older = (
      await (await server.as('author')).get(`/api/v1/libraries/${library}/rulebook/history?cursor=2`)
    ).body as contract.RulebookHistory;
    expect(older.items).toMatchObject([{ revision: 1, reason: 'New library', changes: [] }]);
    expect(
      (await put(library, older.items[0]?.rulebook ?? {}, { reason: 'Back to the first' })).body,
    ).toMatchObject({ revision: 3, rulebook: older.items[0]?.rulebook });
  });
  test('by two controllers at once: the second is told what the first set (412)', async () => {
    const library = await server.library();
    const tag = String((await read(library)).headers['etag']);
    expect((await put(library, { keep: { published: 3 } }, { ifMatch: tag, reason: 'Mine' })).status).toBe(
      200,
    );
    expect((await put(library, { keep: { published: 5 } }, { ifMatch: tag })).body).toMatchObject({
      status: 412,
      code: 'stale',
      given: tag,
      revision: 2,
      by: 'C. controller',
      reason: 'Mine',
      rulebook: { keep: { published: 3 } },
    });
    expect((await read(library)).body).toMatchObject({ revision: 2, rulebook: { keep: { published: 3 } } });
  });
  test.each<[object, string]>([
    [{ keep: { published: -1 } }, 'limit-negative'],
    [{ keep: { published: 1e12 } }, 'limit-too-large'],
    [{ keep: { drafts: { newest: 0.5 } } }, 'limit-fractional'],
    [{ keep: { drafts: { stay: 'for a while' } } }, 'duration-invalid'],
    [{ keep: { spareYoungerThan: 'a while' } }, 'duration-invalid'],
    [{ sight: { inApproval: ['nobody'] } }, 'sight-role-unknown'],
    [{ sight: { draft: ['controller'] } }, 'sight-role-unknown'],
    [{ numbering: 7 }, 'rule-value-unknown'],
    [{ approval: { approvers: ['ghost'] } }, 'account-unknown'],
    [{ keep: { drafts: 1 } }, 'invalid-input'],
    [{}, 'nothing-changed'],
  ])('%j is refused', async (rules, code) => {
    const library = await server.library();
    expect((await put(library, rules)).body).toMatchObject({ status: 422, code });
    expect((await read(library)).body).toMatchObject({ revision: 1 });
    if (code !== 'nothing-changed')
      expect((await consequences(library, rules)).body).toMatchObject({ status: 422, code });
  });
  test('needs a reason, and a controller', async () => {
    const library = await server.library();
    expect((await put(library, { graceDays: 3 }, { reason: ' ' })).body).toMatchObject({
      status: 422,
      code: 'reason-missing',
    });
    for (const account of ['author', 'reader', 'auditor', 'approver']) {
      expect((await put(library, { graceDays: 3 }, { account })).body).toMatchObject({
        status: 403,
        code: 'role-missing',
      });
      expect(
        (await (await server.as(account)).post(`/api/v1/libraries/${library}/rulebook/consequences`).send({}))
          .status,
      ).toBe(403);
    }
    expect((await put(library, { graceDays: 3 }, { account: 'stranger' })).status).toBe(404);
  });
});

describe('worked examples of docs/rules.md through the API', () => {
  test('1: whole, published 2: 1 to 3 go; restoring 4 makes 7, and 4 goes, its row still there', async () => {
    const library = await server.library({ numbering: 'whole', keep: { published: 2 } });
    const { id } = await server.document(library, 'text 1', { level: 'major' });
    for (const number of [2, 3, 4, 5, 6]) await server.change(id, `text ${number}`, 'major');
    expect(await server.kept(id)).toEqual(['6', '5', '4']);
    const author = await server.as('author');
    expect(
      (await author.post(`/api/v1/documents/${id}/restore`).send({ from: '3', level: 'major' })).body,
    ).toMatchObject({ status: 409, code: 'content-thinned' });
    expect(
      (await author.post(`/api/v1/documents/${id}/restore`).send({ from: '4', level: 'major' }).expect(201))
        .body,
    ).toMatchObject({ label: '7' });
    expect(await server.kept(id)).toEqual(['7', '6', '5']);
    expect((await author.get(`/api/v1/documents/${id}/versions/4`).expect(200)).body).toMatchObject({
      label: '4',
      comment: 'Now text 4',
      thinned: { why: 'Over the limit of 2 published versions besides what is in force.' },
      sha256: expect.stringMatching(/^[0-9a-f]{64}$/),
    });
    for (const path of ['/versions/4/content', '/versions/4/reading', '/compare?from=4&to=7']) {
      expect((await author.get(`/api/v1/documents/${id}${path}`)).body).toMatchObject({
        status: 409,
        code: 'content-thinned',
      });
    }
  });
  test('3, without renumbering: at 7.2, restoring 6.0 gives 7.3', async () => {
    const { id } = await server.document(await server.library(), 'a', { level: 'major' });
    for (const number of [2, 3, 4, 5, 6, 7]) await server.change(id, `text ${number}`, 'major');
    for (const words of ['b', 'c']) await server.change(id, words);
    const restored = await (
      await server.as('author')
    )
      .post(`/api/v1/documents/${id}/restore`)
      .send({ from: '6.0', level: 'minor' })
      .expect(201);
    expect(restored.body).toMatchObject({ label: '7.3', origin: { kind: 'restore', from: '6.0' } });
  });
  test.each([
    [{ stay: 'untilPublished' }, ['5.0', '4.0', '3.0', '2.0', '1.0']],
    [{ stay: 'withTheirVersion', newest: 1 }, ['5.0', '4.2', '4.0', '3.0', '2.0', '1.0']],
    [{ stay: 'P30D' }, ['5.0', '4.2', '4.1', '4.0', '3.0', '2.0', '1.0']],
  ])('7: %j, after 4.1, 4.2 and 5.0', async (drafts, kept) => {
    const library = await server.library({ keep: { drafts } });
    const { id } = await server.document(library, 'a', { level: 'major' });
    for (const words of ['b', 'c', 'd']) await server.change(id, words, 'major');
    for (const words of ['e', 'f']) await server.change(id, words);
    await publish(id);
    expect(await server.kept(id)).toEqual(kept);
    if (drafts.stay === 'P30D') {
      server.pass(31 * 24);
      await sweep(server.context);
      expect(await server.kept(id)).toEqual(['5.0', '4.0', '3.0', '2.0', '1.0']);
    }
  });
  test('9: published 120 of 300; that drafts stay with all that is published is remarked on', async () => {
    const library = await server.library();
    const { id, latest } = await server.document(library, 'a', { level: 'major' });
    const { models } = server.context;
    const first = (await models.Version.findByPk(latest.id, { rejectOnEmpty: true })).get({ plain: true });
    await models.Version.bulkCreate(
      Array.from({ length: 299 }, (_, index) => ({
        ...first,
        fields: latest.fields,
        id: `00000000-0000-7000-8000-${String(index).padStart(12, '0')}`,
        sequence: index + 2,
        major: index + 2,
        standing: index === 298 ? ('inForce' as const) : ('superseded' as const),
      })),
    );
    await models.Version.update({ standing: 'superseded' }, { where: { id: latest.id } });
    const head = '00000000-0000-7000-8000-000000000298';
    await models.Head.update(
      { latestId: head, inForceId: head, highestMajor: 300, lastSequence: 300 },
      { where: { documentId: id } },
    );
    expect((await announced(library, { keep: { published: 120 } })).thinned.versions).toBe(300 - 121);
    const staying = await announced(library, { keep: { drafts: { stay: 'withTheirVersion' } } });
    expect([staying.thinned.versions, staying.notes.map(({ code }) => code)]).toEqual([
      0,
      ['drafts-stay-with-all'],
    ]);
    await server.rules(library, { keep: { published: 120 } });
    expect((await server.kept(id)).length).toBe(121);
  });
  test('12: approval turned on in a library in use', async () => {
    const library = await server.library();
    const { id } = await server.document(library, 'a', { level: 'major' });
    await server.rules(library, { approval: { on: true, mode: 'anyOne', approvers: ['approver'] } });
    expect((await (await server.as('reader')).get(`/api/v1/documents/${id}`)).body).toMatchObject({
      inForce: { label: '1.0' },
    });
    const fresh = await server.document(library, 'new', { level: 'major' });
    expect(fresh).toMatchObject({
      inForce: null,
      latest: { label: '0.1', state: 'inApproval' },
      approval: { waitingFor: [{ account: 'approver' }] },
    });
    await server.change(id, 'b', 'major');
    expect((await (await server.as('author')).get(`/api/v1/documents/${id}`)).body).toMatchObject({
      inForce: { label: '1.0' },
      latest: { label: '1.1', state: 'inApproval' },
    });
    await (
      await server.as('approver')
    )
      .post(`/api/v1/documents/${id}/decision`)
      .send({ version: '1.1', decision: 'approve' })
      .expect(200);
    expect(await server.labels(id, 'reader')).toEqual(['2.0']);
  });
  test('13: none to stepped: every document at 1.0; a reader sees 1.0 while 1.2 is a draft, 2.0 while 2.1 is', async () => {
    const library = await server.library({ numbering: 'none' });
    const [one, two] = [
      await server.document(library, 'a', { level: 'major' }),
      await server.document(library, 'b', { level: 'major' }),
    ];
    await server.change(one.id, 'c', 'major');
    expect(await server.kept(one.id)).toEqual(['u2']);
    expect(
      (await announced(library, { numbering: 'stepped' })).numbers.map(({ becomes }) => becomes),
    ).toEqual(['1.0', '1.0']);
    await server.rules(library, { numbering: 'stepped' });
    for (const { id } of [one, two]) expect(await server.labels(id, 'reader')).toEqual(['1.0']);
    for (const words of ['d', 'e']) await server.change(one.id, words);
    expect([await server.labels(one.id, 'reader'), (await server.labels(one.id))[0]]).toEqual([
      ['1.0'],
      '1.2',
    ]);
    await publish(one.id);
    await server.change(one.id, 'f');
    expect([await server.labels(one.id, 'reader'), (await server.labels(one.id))[0]]).toEqual([
      ['2.0'],
      '2.1',
    ]);
  });
  test('14: a version whose text falls to under half of the one before is flagged in the history', async () => {
    const { id } = await server.document(await server.library(), 'one two three four five six');
    await server.change(id, 'one two three');
    await server.change(id, 'one');
    const { items } = (await (await server.as('author')).get(`/api/v1/documents/${id}/versions`))
      .body as contract.VersionList;
    expect(items.map(({ label, textFell }) => [label, textFell])).toEqual([
      ['0.3', true],
      ['0.2', false],
      ['0.1', false],
    ]);
    expect(
      (await (await server.as('author')).get(`/api/v1/documents/${id}/versions/0.3`)).body,
    ).toMatchObject({ textFell: true });
  });
});

describe('consequences', () => {
  let library: string;
  const documents: string[] = [];
  beforeAll(async () => {
    library = await server.library({ readersSeePast: true });
    for (const name of ['one', 'two', 'three']) {
      const { id } = await server.document(library, `${name} first`, {
        level: 'major',
        account: name === 'two' ? 'author2' : 'author',
      });
      documents.push(id);
      for (const words of ['a', 'b']) await server.change(id, `${name} ${words}`);
      await publish(id);
      await server.change(id, `${name} open`);
    }
    await (await server.as('author')).post(`/api/v1/documents/${documents[0]}/checkout`).send({}).expect(201);
  });

  test('say which versions go, who loses sight of which drafts, which check-outs are touched and which numbers come; nothing is changed', async () => {
    const before = (await read(library)).headers['etag'];
    const answer = await announced(library, {
      numbering: 'whole',
      sight: { draft: [] },
      keep: { published: 0, drafts: { stay: 'untilPublished' } },
    });
    expect(answer.changes.map(({ rule }) => rule)).toEqual([
      'numbering',
      'sight.draft',
      'keep.published',
      'keep.drafts.stay',
    ]);
    expect(answer.thinned).toMatchObject({ versions: 9, documents: 3 });
    expect(answer.thinned.items.map(({ label }) => label)).toEqual([
      '1.0',
      '1.1',
      '1.2',
      '1.0',
      '1.1',
      '1.2',
      '1.0',
      '1.1',
      '1.2',
    ]);
    expect(
      answer.sight.losses.map(({ account, versions, documents: many }) => [account, versions, many]),
    ).toEqual([
      ['approver', 3, 3],
      ['approver2', 3, 3],
      ['author2', 2, 2],
    ]);
    expect(answer.custody).toMatchObject([
      { holder: 'A. author', base: '2.1', now: { minor: '2.2' }, then: { minor: null, major: '3' } },
    ]);
    expect(answer.totals).toEqual({ custody: 1, approvals: 0, numbers: 3 });
    const losing = await announced(library, { sight: { draft: [] } }, '?list=losses:author2&limit=1');
    expect([losing.sight.items.map(({ label }) => label), losing.next]).toEqual([['1.1'], '1']);
    const part = await announced(library, { keep: { published: 0 } }, '?list=thinned&limit=2&cursor=2');
    expect([part.thinned.versions, part.thinned.items.length, part.next]).toEqual([3, 1, null]);
    expect(
      (await announced(library, { keep: { published: 0 } }, `?documents=${documents[1]}`)).thinned.items.map(
        ({ document }) => document.id,
      ),
    ).toEqual([documents[1]]);
    expect((await read(library)).headers['etag']).toBe(before);
    expect(await server.kept(documents[0] ?? '')).toHaveLength(5);
  });
  test('what they announce is what applying does', async () => {
    const rules = { keep: { published: 0, drafts: { newest: 1 } } };
    const answer = await announced(library, rules);
    expect(answer.thinned.versions).toBe(6);
    const going = new Set(answer.thinned.items.map(({ versionId }) => versionId));
    const bytes = answer.thinned.bytes;
    const { job } = (await put(library, rules)).body as contract.RulebookView;
    await server.settle();
    const gone = await server.context.models.Version.findAll({ where: { documentId: documents } });
    expect(new Set(gone.filter((row) => row.thinnedAt).map((row) => row.id))).toEqual(going);
    expect((await (await server.as('controller')).get(`/api/v1/jobs/${job}`).expect(200)).body).toMatchObject(
      { kind: 'thinning', state: 'done', done: 3, total: 3, thinned: { versions: 6, bytes } },
    );
    expect((await announced(library, rules)).thinned.versions).toBe(0);
    await (await server.as('reader')).get(`/api/v1/jobs/${job}`).expect(404);
  });
  test('a long one answers with a job that tells how far it is, and can be cancelled', async () => {
    const controller = await server.as('controller');
    // Something else holds the table, so that the computation cannot be over before it is cancelled.
    await server.context.db.transaction(async (transaction) => {
      await server.context.db.query('LOCK TABLES heads WRITE', { transaction });
      const asked = await controller
        .post(`/api/v1/libraries/${library}/rulebook/consequences`)
        .set('Prefer', 'respond-async, wait=0')
        .send({ graceDays: 1 });
      expect([asked.status, asked.headers['preference-applied']]).toEqual([202, 'respond-async']);
      const job = asked.body as contract.Job;
      expect(asked.headers['location']).toBe(`/api/v1/jobs/${job.id}`);
      expect(job).toMatchObject({ kind: 'consequences', state: 'running', result: null });
      await (await server.as('author')).get(`/api/v1/jobs/${job.id}`).expect(404);
      await controller.delete(`/api/v1/jobs/${job.id}`).expect(204);
      expect((await controller.get(`/api/v1/jobs/${job.id}`)).body).toMatchObject({
        state: 'cancelled',
        problem: { code: 'cancelled' },
      });
      await server.context.db.query('UNLOCK TABLES', { transaction });
    });
    const whole = (
      await controller
        .post(`/api/v1/libraries/${library}/rulebook/consequences`)
        .set('Prefer', 'respond-async')
        .send({ graceDays: 1 })
    ).body as contract.Job;
    await server.context.rehearsals.find(whole.id, (await server.caller('controller')).id)?.over;
    expect((await controller.get(`/api/v1/jobs/${whole.id}`)).body).toMatchObject({
      state: 'done',
      result: { documents: 3, thinned: { versions: 0 } },
    });
  });
  test.each([
    [undefined, null],
    ['return=minimal', null],
    ['respond-async', 0],
    ['respond-async, wait=10', 10],
    ['wait="2"; respond-async', 2],
    ['respond-async, wait=9999', 60],
  ])('Prefer: %s (RFC 7240)', (header, patience) => {
    expect(patienceOf(header)).toBe(patience);
  });
});

describe('approval and the Rulebook', () => {
  test('turning it off ends open runs, drafts again, as announced', async () => {
    const library = await server.library({ approval: { on: true, approvers: ['approver'] } });
    const { id } = await server.document(library, 'a');
    await (await server.as('author')).post(`/api/v1/documents/${id}/submit`).send({}).expect(200);
    expect((await announced(library, { approval: { on: false } })).approvals).toMatchObject([
      { document: { id }, label: '0.1', waitingFor: ['A. approver'] },
    ]);
    await server.rules(library, { approval: { on: false } });
    expect((await (await server.as('author')).get(`/api/v1/documents/${id}`)).body).toMatchObject({
      latest: { label: '0.1', state: 'draft' },
      approval: null,
      acts: { publish: { allowed: true } },
    });
  });
});

describe('races', () => {
  test('a check-in while the rules change follows one or the other', async () => {
    await fc.assert(
      fc.asyncProperty(fc.nat({ max: 20 }), async (delay) => {
        const library = await server.library({ approval: { on: true, approvers: ['approver'] } });
        const { id } = await server.document(library, 'a');
        const author = await server.as('author');
        await author.post(`/api/v1/documents/${id}/checkout`).send({}).expect(201);
        const [made, set] = await Promise.all([
          author
            .post(`/api/v1/documents/${id}/checkin`)
            .field('comment', 'x')
            .field('level', 'major')
            .attach('file', docxOf('b'), 'op.docx'),
          new Promise((resolve) => {
            setTimeout(resolve, delay);
          }).then(() => put(library, { approval: { on: false } })),
        ]);
        expect([made.status, set.status]).toEqual([201, 200]);
        const { latest, approval } = (await author.get(`/api/v1/documents/${id}`)).body as contract.Document;
        // By the old rules it was submitted, and turning approval off made it a draft again; by the new ones
        // it was published.
        expect([`${latest.label} ${latest.state}`, approval]).toEqual([
          latest.label === '0.2' ? '0.2 draft' : '1.0 published',
          null,
        ]);
      }),
      { numRuns: 8 },
    );
  });
  test.each([{ approval: { on: false } }, { graceDays: 3 }])(
    'a change of rules (%j) waits for the act under way, and then takes it up',
    async (rules) => {
      const library = await server.library({ approval: { on: true, approvers: ['approver'] } });
      const { id } = await server.document(library, 'a');
      const gates = { inside: () => undefined as void, open: () => undefined as void };
      const inside = new Promise<void>((resolve) => {
        gates.inside = resolve;
      });
      const opened = new Promise<void>((resolve) => {
        gates.open = resolve;
      });
      const asker = await server.asker('author');
      const acting = perform(asker, id, async ({ document, actor }, now) => {
        gates.inside();
        await opened;
        return submit(document, actor, { version: document.latest, comment: '', inForceFrom: null }, now);
      });
      await inside;
      let over = false;
      const setting = put(library, rules).then((answer) => {
        over = true;
        return answer;
      });
      await new Promise((resolve) => {
        setTimeout(resolve, 300);
      });
      expect(over).toBe(false);
      gates.open();
      await acting;
      expect((await setting).status).toBe(200);
      expect((await (await server.as('author')).get(`/api/v1/documents/${id}`)).body).toMatchObject({
        latest: { state: rules.approval ? 'draft' : 'inApproval' },
      });
    },
  );
  test('rules changed while a thinning of the earlier ones goes on: the later rules hold', async () => {
    const library = await server.library();
    const ids: string[] = [];
    for (const name of ['a', 'b', 'c', 'd']) {
      const { id } = await server.document(library, name, { level: 'major' });
      ids.push(id);
      for (const words of ['x', 'y', 'z']) await server.change(id, `${name} ${words}`, 'major');
    }
    await put(library, { keep: { published: 2 } });
    const running = runJobs(server.context);
    await put(library, { keep: { published: 1 } });
    await running;
    await server.settle();
    for (const id of ids) expect(await server.kept(id)).toEqual(['4.0', '3.0']);
    const jobs = await server.context.models.Job.findAll({
      where: { libraryId: library },
      order: ['revision'],
    });
    expect(jobs.at(-1)?.state).toBe('done');
    expect(jobs.every(({ state }) => state === 'done' || state === 'superseded')).toBe(true);
  });
  test('a thinning that was cut short is taken up again', async () => {
    const library = await server.library();
    const { id } = await server.document(library, 'a', { level: 'major' });
    await server.change(id, 'b', 'major');
    await put(library, { keep: { published: 0 } });
    await server.context.models.Job.update(
      { state: 'running', aliveAt: server.now },
      { where: { libraryId: library } },
    );
    await server.settle();
    expect(await server.kept(id)).toEqual(['2.0', '1.0']);
    server.pass(1);
    await server.settle();
    expect(await server.kept(id)).toEqual(['2.0']);
  });
});

test('the sweep thins what time has made old enough', async () => {
  const library = await server.library({ keep: { published: 0, spareYoungerThan: 'P10D' } });
  const { id } = await server.document(library, 'a', { level: 'major' });
  await server.change(id, 'b', 'major');
  await sweep(server.context);
  expect(await server.kept(id)).toEqual(['2.0', '1.0']);
  await server.live(11);
  await sweep(server.context);
  expect(await server.kept(id)).toEqual(['2.0']);
});

test('the pace of a library, and limits made of it; not for readers', async () => {
  const library = await server.library();
  const { id } = await server.document(library, 'a', { level: 'major' });
  for (const words of ['b', 'c']) await server.change(id, words, 'major');
  await server.document(library, 'x');
  expect(
    (await (await server.as('author')).get(`/api/v1/libraries/${library}/pace`).expect(200)).body,
  ).toMatchObject({
    documents: 2,
    publications: 3,
    busiest: 3,
    median: 0,
    presets: [{ published: 3 }, { published: 6 }, { published: 9 }],
  });
  await (await server.as('reader')).get(`/api/v1/libraries/${library}/pace`).expect(403);
});

test('every rule is carried out together in one library', async () => {
  const rules: RulebookChoices = {
    custody: 'optional',
    saves: 'drafts',
    checkInComment: 'optional',
    maxFileBytes: 100_000,
    allowanceBytes: 2_000,
    graceDays: 2,
  };
  const library = await server.library(rules);
  const { id } = await server.document(library, 'a');
  const author = await server.as('author');
  const upload = (words: string, basedOn: string) =>
    author
      .post(`/api/v1/documents/${id}/versions`)
      .field('basedOn', basedOn)
      .field('level', 'minor')
      .attach('file', docxOf(words), 'op.docx');
  expect((await upload('b', '0.1')).body).toMatchObject({
    label: '0.2',
    comment: '',
    origin: { kind: 'upload', from: '0.1' },
  });
  expect((await upload('c', '0.1')).body).toMatchObject({
    status: 409,
    code: 'stale-base',
    basedOn: '0.1',
    latest: '0.2',
  });
  await author.post(`/api/v1/documents/${id}/checkout`).send({}).expect(201);
  expect((await upload('c', '0.2')).body).toMatchObject({ status: 409, code: 'held-by-you' });
  await author
    .put(`/api/v1/documents/${id}/checkout/content`)
    .attach('file', docxOf('saved'), 'op.docx')
    .expect(200);
  expect((await server.labels(id))[0]).toBe('0.3');
  await author.delete(`/api/v1/documents/${id}/checkout`).expect(204);
  expect((await upload('d', '0.3')).status).toBe(201);
  expect((await upload('e', '0.4')).body).toMatchObject({
    status: 409,
    code: 'library-full',
    allowanceBytes: 2000,
  });
  expect((await author.get(`/api/v1/libraries/${library}`)).body).toMatchObject({
    rules: { custody: 'optional', allowanceBytes: 2000 },
    bytesKept: expect.any(Number),
  });
  expect((await (await server.as('reader')).get(`/api/v1/libraries/${library}`)).body).toMatchObject({
    bytesKept: null,
  });
});
