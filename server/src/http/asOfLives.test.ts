import fc from 'fast-check';
import type * as contract from '@polychron/contract';
import { bringDueIntoForce } from '../jobs/sweeps.ts';
import { docxOf } from '../testing/files.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();

const get = async (account: string, path: string) => (await server.as(account)).get(`/api/v1${path}`);
const at = (moment: Date): string => `asOf=${moment.toISOString()}`;

describe('at any moment of any life it is as it was told then, less what may not be seen now', () => {
  const accounts = ['reader', 'auditor', 'author', 'author2', 'approver', 'controller'] as const;
  type Act = (of: { id: string; library: string; turn: number }) => Promise<unknown>;
  const post = async (account: string, path: string, body: object = {}) =>
    (await server.as(account)).post(`/api/v1${path}`).send(body);
  const checkIn =
    (account: string, level: string, keep: string): Act =>
    async ({ id, turn }) => {
      await post(account, `/documents/${id}/checkout`, {
        until: new Date(server.now.getTime() + 86_400_000),
      });
      return (await server.as(account))
        .post(`/api/v1/documents/${id}/checkin`)
        .field('comment', `Turn ${turn}`)
        .field('level', level)
        .field('keepCheckedOut', keep)
        .attach('file', docxOf(`words of turn ${turn}`), 'op.docx');
    };
  const onDocument =
    (account: string, path: string, body: (turn: number) => object): Act =>
    ({ id, turn }) =>
      post(account, `/documents/${id}/${path}`, body(turn));
  const inHours = (hours: number): string => new Date(server.now.getTime() + hours * 3_600_000).toISOString();
  const version = (turn: number): string => `${(turn % 3) + 1}.0`;
  const rules =
    (change: object): Act =>
    async ({ library }) => {
      const agent = await server.as('controller');
      const answer = await agent
        .put(`/api/v1/libraries/${library}/rulebook`)
        .send({ ...change, reason: 'Tried' });
      // What holds already is refused.
      if (answer.status !== 200) expect(answer.body).toMatchObject({ code: 'nothing-changed' });
    };
  const members =
    (roles: Record<string, string>): Act =>
    async ({ library }) =>
      (await server.as('controller'))
        .put(`/api/v1/libraries/${library}/members`)
        .send(accounts.map((account) => ({ account, roles: [roles[account] ?? account.replace(/\d/, '')] })));
  const acts: Record<string, Act> = {
    draft: checkIn('author', 'minor', 'false'),
    kept: checkIn('author2', 'minor', 'true'),
    major: checkIn('author', 'major', 'false'),
    checkOut: onDocument('author2', 'checkout', () => ({ reason: 'Look' })),
    prolong: async ({ id }) =>
      (await server.as('author2')).patch(`/api/v1/documents/${id}/checkout`).send({ until: inHours(90) }),
    giveBack: async ({ id }) => (await server.as('author2')).delete(`/api/v1/documents/${id}/checkout`),
    lift: onDocument('controller', 'checkout/lift', () => ({ reason: 'Away' })),
    submit: onDocument('author', 'submit', () => ({ comment: 'Please' })),
    approve: async ({ id }) => decide(id, 'approve'),
    reject: async ({ id }) => decide(id, 'reject'),
    callBack: onDocument('author', 'call-back', () => ({ comment: '' })),
    publish: onDocument('author', 'publish', () => ({ comment: 'Go' })),
    schedule: onDocument('author', 'publish', () => ({ comment: 'Later', inForceFrom: inHours(3) })),
    withdraw: onDocument('controller', 'withdraw', (turn) => ({ version: version(turn), reason: 'Wrong' })),
    reinstate: onDocument('controller', 'reinstate', (turn) => ({
      version: version(turn),
      reason: 'Right after all',
    })),
    restore: onDocument('author', 'restore', (turn) => ({
      from: version(turn),
      level: 'minor',
      comment: 'Back',
    })),
    thin: ({ id, turn }) =>
      post('controller', `/documents/${id}/versions/${version(turn)}/thin`, { reason: 'Enough' }),
    recover: ({ id, turn }) =>
      post('controller', `/documents/${id}/versions/${version(turn)}/recover`, { reason: 'Wanted' }),
    owner: async ({ id, turn }) =>
      (await server.as('controller')).patch(`/api/v1/documents/${id}`).send({
        fields: { owner: turn % 2 ? 'author2' : 'author', coAuthors: turn % 3 ? [] : ['approver'] },
      }),
    // What belongs to the document itself, and makes no version.
    shelve: async ({ id, turn }) =>
      (await server.as('author')).patch(`/api/v1/documents/${id}`).send({
        fields: { Shelf: turn % 3 ? `B${turn}` : null },
      }),
    template: async ({ id, turn }) =>
      (await server.as('controller'))
        .put(`/api/v1/documents/${id}/template`)
        .send({ type: turn % 2 ? 'Plan' : null }),
    limit: async ({ id, turn }) =>
      (await server.as('controller')).put(`/api/v1/documents/${id}/limits`).send({
        limit: { people: turn % 2 ? ['reader'] : ['author2', 'approver'], groups: [] },
        reason: 'Names',
      }),
    unlimit: async ({ id }) =>
      (await server.as('controller'))
        .put(`/api/v1/documents/${id}/limits`)
        .send({ limit: null, reason: 'For all' }),
    approvalOn: rules({ approval: { on: true, mode: 'together', approvers: ['approver', 'controller'] } }),
    approvalOff: rules({ approval: { on: false } }),
    hidden: rules({ sight: { draft: [], inApproval: [], rejected: [] }, readersSeePast: false }),
    open: rules({
      sight: { draft: ['author', 'reader'], inApproval: ['author'], rejected: ['approver'] },
      readersSeePast: true,
    }),
    few: rules({ keep: { published: 1, drafts: { stay: 'untilPublished', newest: 1 } } }),
    all: rules({ keep: { published: null, drafts: { stay: 'all', newest: null } } }),
    swap: members({ author2: 'reader', reader: 'author' }),
    unswap: members({}),
  };
  async function decide(id: string, decision: string): Promise<void> {
    const { latest } = (await get('controller', `/documents/${id}`)).body as contract.Document;
    for (const account of ['approver', 'controller'])
      await post(account, `/documents/${id}/decision`, { version: latest.label, decision, comment: 'So' });
  }

  /** What one account is told of the document. */
  async function told(account: string, id: string, query = '') {
    const answer = await get(account, `/documents/${id}?${query}`);
    if (answer.status === 404) return null;
    const view = answer.body as contract.Document;
    const versions = (await get(account, `/documents/${id}/versions?limit=200&${query}`))
      .body as contract.VersionList;
    return { view, versions: versions.items };
  }
  type Told = Awaited<ReturnType<typeof told>>;
  /** What of that is held against another answer, of the versions that may be seen. */
  function held(of: Told, maySee: ReadonlySet<string>) {
    const versions = of?.versions.filter(({ id }) => maySee.has(id)) ?? [];
    if (!of || versions.length === 0) return null;
    const { view } = of;
    return {
      versions: versions.map(({ label, state, standing, thinned, inForceFrom, supersededAt, withdrawn }) => ({
        ...{ label, state, standing, inForceFrom, supersededAt },
        thinned: thinned?.at ?? null,
        withdrawn: withdrawn?.at ?? null,
      })),
      inForce: view.inForce && maySee.has(view.inForce.id) ? view.inForce.label : null,
      latest: versions[0]?.label,
      shelf: view.fields['Shelf'] ?? null,
      templateFor: view.templateFor,
      owner: view.owner.account,
      coAuthors: view.coAuthors.map(({ account }) => account),
      holder: view.custody && { ...view.custody.holder, since: view.custody.since },
    };
  }

  const shelf = {
    name: 'Shelf',
    kind: 'text' as const,
    choices: [],
    requiredFor: [],
    administrative: true,
  };
  const moments = Number(process.env['POLYCHRON_MOMENTS'] ?? 12);
  test(`${moments} moments of two lives`, async () => {
    const lives = fc.array(fc.constantFrom(...Object.keys(acts)), { minLength: 40, maxLength: 40 });
    await fc.assert(
      fc.asyncProperty(lives, fc.infiniteStream(fc.nat({ max: 0x7fffffff })), async (life, numbers) => {
        const library = await server.library({ fields: [shelf] });
        const { id } = await server.document(library, 'the first');
        const passed: { at: Date; of: Map<string, Told> }[] = [];
        const snapshot = async (): Promise<void> => {
          const of = new Map<string, Told>();
          for (const account of accounts) of.set(account, await told(account, id));
          passed.push({ at: server.now, of });
          server.pass(1);
          await bringDueIntoForce(server.context);
        };
        await snapshot();
        for (const [turn, name] of life.entries()) {
          await acts[name]?.({ id, library, turn });
          await server.settle();
          await snapshot();
        }
        const now = new Map<string, Told>();
        for (const account of accounts) now.set(account, await told(account, id));
        for (const number of [...numbers.take(moments / 2)]) {
          const moment = passed[number % passed.length];
          const account = accounts[(number >> 8) % accounts.length] ?? 'reader';
          if (!moment) continue;
          const maySee = new Set(now.get(account)?.versions.map((one) => one.id) ?? []);
          const then = await told(account, id, at(moment.at));
          expect([account, moment.at, held(then, maySee)]).toEqual([
            account,
            moment.at,
            held(moment.of.get(account) ?? null, maySee),
          ]);
          // Nothing besides.
          expect(then?.versions.every((one) => maySee.has(one.id)) ?? true).toBe(true);
        }
      }),
      { numRuns: 2, endOnFailure: true },
    );
  }, 300_000);
});
