import type * as contract from '@polychron/contract';
import type { RulebookChoices } from '@polychron/core';
import type { Test } from 'supertest';
import { docxOf } from '../testing/files.ts';
import type { Agent } from '../testing/server.ts';
import { testServer } from '../testing/started.ts';

/**
 * What a document says may be done, and what would come of it, against what then happens: for every role in
 * every state.
 */
const server = testServer();

const isDeep = process.env['POLYCHRON_TEST_RUNS'] !== undefined;
/** Who tries everything in a case: one of each role, and a second where the case tells two apart. */
const membersFor = (name: string): string[] =>
  members.filter(
    (account) =>
      isDeep ||
      ['reader', 'author', 'approver', 'controller'].includes(account) ||
      (account === 'author2' && name.startsWith('held')) ||
      (account === 'approver2' && / two /.test(name)),
  );
const members = ['reader', 'auditor', 'author', 'author2', 'approver', 'approver2', 'controller'];

interface Case {
  rules: RulebookChoices;
  level: 'minor' | 'major';
  /** What happens after the first version, by the accounts that do it. */
  then: ((id: string) => Promise<unknown>)[];
  closed?: true;
}

const approval = { on: true, approvers: ['approver', 'approver2'] };
const inTurn: RulebookChoices = { approval };
const together: RulebookChoices = { approval: { ...approval, mode: 'together', publishing: 'byOwner' } };
const post =
  (account: string, path: string, body: object = {}) =>
  async (id: string): Promise<void> => {
    const answer = await (await server.as(account)).post(`/api/v1/documents/${id}/${path}`).send(body);
    expect({ path, problem: answer.ok ? null : answer.text }).toEqual({ path, problem: null });
  };
const decided = (account: string, decision: string, version: string) =>
  post(account, 'decision', { version, decision, comment: 'Said' });
const changed =
  (level: 'minor' | 'major' = 'minor') =>
  (id: string): Promise<unknown> =>
    server.change(id, `text ${(words += 1)}`, level);
let words = 0;

const cases: Record<string, Case> = {
  'a first draft': { rules: {}, level: 'minor', then: [] },
  'in force': { rules: {}, level: 'major', then: [] },
  'a draft above what is in force': { rules: {}, level: 'major', then: [changed()] },
  'a draft, approval asked for': { rules: inTurn, level: 'minor', then: [] },
  'held by its author': { rules: inTurn, level: 'minor', then: [post('author', 'checkout')] },
  'held by a controller, drafts for the team': {
    rules: { sight: { draft: [], rejected: [], inApproval: [] } },
    level: 'major',
    then: [changed(), post('controller', 'checkout')],
  },
  'the first of two is asked': { rules: inTurn, level: 'minor', then: [post('author', 'submit')] },
  'the second of two is asked': {
    rules: inTurn,
    level: 'minor',
    then: [post('author', 'submit'), decided('approver', 'approve', '0.1')],
  },
  'controllers may decide in the place of others': {
    rules: { approval: { ...approval, controllersDecide: true } },
    level: 'minor',
    then: [post('author', 'submit')],
  },
  'two are asked together': { rules: together, level: 'minor', then: [post('author', 'submit')] },
  approved: {
    rules: together,
    level: 'minor',
    then: [
      post('author', 'submit'),
      decided('approver', 'approve', '0.1'),
      decided('approver2', 'approve', '0.1'),
    ],
  },
  rejected: {
    rules: inTurn,
    level: 'minor',
    then: [post('author', 'submit'), decided('approver', 'reject', '0.1')],
  },
  scheduled: {
    rules: {},
    level: 'major',
    then: [changed(), (id) => post('author', 'publish', { inForceFrom: inDays(30) })(id)],
  },
  'whole numbers': { rules: { numbering: 'whole' }, level: 'major', then: [changed('major')] },
  'no numbers': { rules: { numbering: 'none' }, level: 'major', then: [changed('major')] },
  'custody optional': { rules: { custody: 'optional' }, level: 'major', then: [changed()] },
  voided: { rules: {}, level: 'major', then: [changed(), post('controller', 'void', { reason: 'Twice' })] },
  'a closed library': { rules: {}, level: 'major', then: [changed()], closed: true },
};
const inDays = (days: number): string => new Date(server.now.getTime() + days * 86_400_000).toISOString();

/** A document of a library that has come so far. */
async function make(library: string, { level, then }: Case): Promise<string> {
  const { id } = await server.document(library, `text ${(words += 1)}`, { level });
  for (const step of then) await step(id);
  return id;
}

/** A version that was before the latest, where one is seen; else the latest. */
const earlier = ({ strand, latest }: contract.Document): string =>
  strand.filter(({ id, thinned }) => id !== latest.id && !thinned).at(-1)?.label ?? latest.label;

/** The lesser of the levels there are. */
const level = ({ toCome }: contract.Document): string => (toCome?.minor === null ? 'major' : 'minor');

type Doing = (agent: Agent, document: contract.Document) => Test;
const at = (document: contract.Document, path: string): string => `/api/v1/documents/${document.id}${path}`;
const file = (form: Test): Test => form.attach('file', docxOf(`new text ${(words += 1)}`), 'op.docx');
const acts: Record<contract.Act, Doing> = {
  checkOut: (agent, of) => agent.post(at(of, '/checkout')).send({}),
  checkIn: (agent, of) => file(agent.post(at(of, '/checkin')).field({ comment: 'x', level: level(of) })),
  upload: (agent, of) =>
    file(agent.post(at(of, '/versions')).field({ comment: 'x', level: level(of), basedOn: of.latest.label })),
  giveBack: (agent, of) => agent.delete(at(of, '/checkout')),
  lift: (agent, of) => agent.post(at(of, '/checkout/lift')).send({ reason: 'x' }),
  restore: (agent, of) =>
    agent.post(at(of, '/restore')).send({ from: earlier(of), comment: 'x', level: level(of) }),
  publish: (agent, of) => agent.post(at(of, '/publish')).send({ comment: 'x' }),
  changeFields: (agent, of) =>
    agent.patch(at(of, '')).send({ fields: { title: `Another title ${(words += 1)}` }, comment: 'x' }),
  submit: (agent, of) => agent.post(at(of, '/submit')).send({ comment: 'x' }),
  decide: (agent, of) =>
    agent.post(at(of, '/decision')).send({ version: of.latest.label, decision: 'approve', comment: 'x' }),
  decideInPlace: (agent, of) =>
    agent
      .post(at(of, '/decision'))
      .send({ version: of.latest.label, decision: 'approve', comment: 'x', inPlace: true }),
  replaceApprover: (agent, of) =>
    agent
      .put(at(of, '/approval/approvers'))
      .send({ from: of.approval?.waitingFor[0]?.account ?? 'approver', to: 'controller', reason: 'x' }),
  callBack: (agent, of) => agent.post(at(of, '/call-back')).send({ comment: 'x' }),
  limit: (agent, of) =>
    agent.put(at(of, '/limits')).send({ limit: { people: [...members], groups: [] }, reason: 'x' }),
  distribute: (agent, of) => agent.post(at(of, '/distribution')).send({ people: ['reader'], groups: [] }),
  void: (agent, of) => agent.post(at(of, '/void')).send({ reason: 'x' }),
  unvoid: (agent, of) => agent.post(at(of, '/unvoid')).send({ reason: 'x' }),
  markTemplate: (agent, of) => agent.put(at(of, '/template')).send({ type: `Type ${(words += 1)}` }),
  review: (agent, of) => agent.post(at(of, '/review')).send({ outcome: 'opened', comment: 'x' }),
};

const read = async (id: string, account: string): Promise<contract.Document | null> => {
  const answer = await (await server.as(account)).get(`/api/v1/documents/${id}`);
  return answer.ok ? (answer.body as contract.Document) : null;
};
/** How many members see a version in force. */
const seenInForce = async (id: string): Promise<number> => {
  const views = await Promise.all(members.map((account) => read(id, account)));
  return views.filter((view) => view?.inForce).length;
};

/** What is promised beside the yes of an act, against the document it led to. */
async function expectKept(
  act: contract.Act,
  before: contract.Document,
  after: contract.Document,
): Promise<void> {
  const { toCome, approval, seenBy } = before;
  if (act === 'checkIn' || act === 'upload' || act === 'restore' || act === 'changeFields') {
    const label = toCome?.minor ?? toCome?.major;
    if (toCome) expect(after.latest.label).toBe(label);
  }
  if (act === 'publish' && toCome) {
    expect(after.inForce?.label ?? after.latest.label).toBe(toCome.publishedAs);
    expect(await seenInForce(before.id)).toBe(seenBy?.latestInForce);
  }
  if (act === 'submit') expect(after.latest.state).toBe('inApproval');
  if (act === 'replaceApprover') {
    const asked = after.approval?.posts.map(({ person }) => person.account) ?? [];
    expect(asked).toContain('controller');
    expect(asked).toHaveLength(approval?.posts.length ?? 0);
  }
  if (act === 'decide' || act === 'decideInPlace') {
    const outlook = act === 'decide' ? approval?.ifApproved : approval?.ifApprovedInPlace;
    const { asked = [], published = null } = outlook ?? {};
    expect((after.approval?.waitingFor ?? []).map(({ account }) => account)).toEqual(
      asked.map(({ account }) => account),
    );
    expect(after.inForce?.label ?? null).toBe(published?.label ?? before.inForce?.label ?? null);
  }
  if (act === 'checkOut') expect(after.custody?.mine).toBe(true);
  if (act === 'giveBack' || act === 'lift') expect(after.custody).toBeNull();
}

test.each(Object.entries(cases))(
  '%s: what may be done happens, what may not is refused by the same sentence',
  async (name, one) => {
    const library = await server.library(one.rules);
    const id = await make(library, one);
    if (one.closed) {
      const admin = await server.as('admin');
      await admin.patch(`/api/v1/libraries/${library}`).send({ closed: true }).expect(200);
    }
    const whole = async (): Promise<unknown> => read(id, 'controller');
    const unchanged = await whole();
    const tried = new Set<string>();
    for (const account of membersFor(name)) {
      const agent = await server.as(account);
      const document = await read(id, account);
      const isAllowed = (name: contract.Act): boolean => document?.acts[name].allowed ?? false;
      const all = Object.entries(acts) as [contract.Act, Doing][];
      const refused = all.filter(([name]) => !isAllowed(name));
      // What is refused changes nothing: it is asked for all at once.
      const said = refused.map(async ([name, act]) => {
        const { body, status } = await act(agent, document ?? (unchanged as contract.Document));
        return [name, document ? (body as contract.Problem).detail : status, status < 400];
      });
      expect([account, await Promise.all(said)]).toEqual([
        account,
        refused.map(([name]) => [name, document ? document.acts[name].why : 404, false]),
      ]);
      for (const [place, [doing, act]] of all.filter(([one]) => isAllowed(one)).entries()) {
        if (!document) continue;
        // Each act is carried out in half of the cases; in all where there is time.
        if (!isDeep && (place + Object.keys(cases).indexOf(name)) % 2 > 0) continue;
        const who = `${account}, ${doing}`;
        // Which version is brought back is chosen: where there is none nothing is offered.
        if (doing === 'restore' && earlier(document) === document.latest.label) continue;
        // Of two with one role who may do the same one does it; both where there is time.
        const asRole = `${account.replace(/\d/, '')} ${doing}`;
        if (!isDeep && tried.has(asRole)) continue;
        tried.add(asRole);
        const other = await make(library, one);
        const before = await read(other, account);
        if (!before) throw new Error('made alike, and not seen');
        const answer = await act(agent, before);
        expect({ who, status: answer.status, said: answer.status < 300 ? '' : answer.text }).toMatchObject({
          who,
          said: '',
        });
        // Whoever submits what is not theirs may lose sight of it.
        const after = (await read(other, account)) ?? (await read(other, 'controller'));
        if (!after) throw new Error('a controller sees every version');
        await expectKept(doing, before, after);
      }
    }
    expect(await whole()).toEqual(unchanged);
  },
  120_000,
);
