import fc from 'fast-check';
import { checkIn } from '../acts/checkIn.ts';
import { checkOut } from '../acts/checkOut.ts';
import { decide } from '../acts/decide.ts';
import { limitDocument } from '../acts/limit.ts';
import type { History } from '../acts/history.ts';
import { publish } from '../acts/publish.ts';
import { shelter } from '../acts/shelter.ts';
import { type Outcome, sightFacts } from '../acts/state.ts';
import { submit } from '../acts/submit.ts';
import { isRefusal } from '../document/refusal.ts';
import { waitingFor } from '../rules/approvalRun.ts';
import { keepable } from '../rules/keeping.ts';
import { labelsToCome, type ToCome } from '../rules/levels.ts';
import { compareNumbers } from '../rules/numbering.ts';
import type { Role } from '../rules/roles.ts';
import { completeRulebook, type Rulebook, type RulebookChoices, sightRoles } from '../rules/rulebook.ts';
import { explain } from '../rules/sight.ts';
import { approver, approver2, author, begin, content, controller } from '../testing/people.ts';
import { type Rehearsal, Rehearsing, type Wanted } from './rehearse.ts';
import type { RehearsedDocument } from './rehearsed.ts';
import type { RehearsedMember } from './sightShifts.ts';
import { takeUpRules } from './takeUpRules.ts';

const person = (account: string, ...roles: Role[]): RehearsedMember => ({
  id: account,
  account,
  name: account.toUpperCase(),
  roles: new Set(roles),
});
const members = [
  person('author', 'author'),
  person('author2', 'author'),
  person('approver', 'approver'),
  person('approver2', 'approver', 'reader'),
  person('controller', 'controller'),
  person('reader', 'reader'),
  person('auditor', 'auditor'),
];

function rehearsed(history: History, id = 'doc'): RehearsedDocument {
  const { state } = history;
  return {
    id,
    number: state.number,
    title: 'Opening the line',
    ownerId: state.ownerId,
    coAuthorIds: state.coAuthorIds,
    limit: state.limit,
    approverIds: [],
    presentEra: state.presentEra,
    highest: state.highest,
    versions: history.versions.map((version) => ({
      ...keepable(version),
      era: version.era,
      major: version.major,
      minor: version.minor,
      numbering: version.numbering,
      authorId: version.authorId,
      size: version.content.size,
    })),
    custody: state.custody && {
      holderId: state.custody.holderId,
      holderName: state.custody.holderName,
      baseId: state.custody.base.id,
    },
    setAsideBaseIds: state.setAsideBaseIds,
    waitingFor: history.approval ? waitingFor(history.approval).map(({ name }) => name) : null,
  };
}
const all = { offset: 0, limit: 1000 };

const toComeOf = ({ state: { rules, highest, presentEra } }: History): ToCome =>
  labelsToCome(rules, highest, presentEra);
function rehearse(histories: readonly History[], rules: Rulebook, wanted: Wanted = all): Rehearsal {
  const first = histories[0] as History;
  const { rules: before, now } = first;
  const rehearsing = new Rehearsing({ before, after: rules, members, now, wanted });
  histories.forEach((history, index) => rehearsing.document(rehearsed(history, `doc ${index}`)));
  return rehearsing.result();
}
/** Applies new rules as a library does. */
function apply(history: History, rules: Rulebook): string[] {
  const decision = takeUpRules(history.state, rules, controller.id, history.now);
  history.rules = rules;
  const { now } = history;
  const before = history.kept.length;
  expect(before).toBeGreaterThan(0);
  // Thinning follows at once, not an hour later as acts do here.
  if (decision) history.do(decision).pass(now.getTime() - history.now.getTime());
  history.thin();
  return history.versions
    .filter((version) => version.thinned && version.thinned.at >= now)
    .map(({ id }) => id);
}

function act(history: History, name: string, at: number): Outcome | null {
  const { state, now } = history;
  switch (name) {
    case 'minor':
    case 'major': {
      const level = history.rules.numbering === 'stepped' ? name : 'major';
      if (!state.custody && history.attempt(checkOut(state, author, { reason: null, until: null }, now)))
        return null;
      return checkIn(
        history.state,
        author,
        {
          level,
          comment: 'x',
          keepCheckedOut: false,
          confirm: ['same-bytes'],
          content: content(`text ${at}`),
          keepFileName: false,
        },
        history.now,
      );
    }
    case 'hold':
      return checkOut(state, author, { reason: null, until: null }, now);
    case 'publish':
      return publish(state, author, { version: state.latest, comment: '', inForceFrom: null }, now);
    case 'publishLater':
      return publish(
        state,
        author,
        { version: state.latest, comment: '', inForceFrom: new Date(now.getTime() + 20 * 3_600_000) },
        now,
      );
    case 'submit':
      return submit(state, author, { version: state.latest, comment: '', inForceFrom: null }, now);
    case 'approve':
      return decide(
        state,
        waitingFor(history.approval ?? { mode: 'serial', posts: [] })[0]?.personId === 'approver2'
          ? approver2
          : approver,
        { version: state.latest, decision: 'approve', comment: '' },
        now,
      );
    case 'reject':
      return decide(state, approver, { version: state.latest, decision: 'reject', comment: 'no' }, now);
    case 'shelter':
      return shelter(state, controller, {
        version: history.versions[at % history.versions.length] ?? state.latest,
        reason: 'x',
        sheltered: true,
      });
    case 'limit': {
      const ids = ['author2', 'approver', 'approver2', 'reader', 'auditor'].filter(
        (_, place) => (at >> place) & 1,
      );
      const limit = { personIds: ids, groupIds: [], memberIds: ids };
      return limitDocument(state, controller, { limit, reason: 'x' });
    }
    default:
      return null;
  }
}
const acts = [
  'minor',
  'minor',
  'major',
  'publish',
  'publish',
  'publishLater',
  'hold',
  'submit',
  'submit',
  'approve',
  'approve',
  'reject',
  'shelter',
  'limit',
];
const count = fc.option(fc.nat({ max: 4 }));
const rulesOf = fc.record({
  numbering: fc.constantFrom('stepped' as const, 'stepped' as const, 'whole' as const, 'none' as const),
  approval: fc.record({
    on: fc.boolean(),
    mode: fc.constantFrom('serial' as const, 'anyOne' as const),
    publishing: fc.constantFrom('onApproval' as const, 'byOwner' as const),
  }),
  sight: fc.record({
    draft: fc.subarray([...sightRoles]),
    inApproval: fc.subarray([...sightRoles]).map((named) => [...new Set([...named, 'approver' as const])]),
    rejected: fc.subarray([...sightRoles]),
  }),
  readersSeePast: fc.boolean(),
  keep: fc.record({
    published: count,
    drafts: fc.record({
      stay: fc.constantFrom('all', 'withTheirVersion', 'untilPublished', 'PT8H'),
      newest: fc.option(fc.integer({ min: 1, max: 3 })),
    }),
    spareYoungerThan: fc.constantFrom(null, null, 'PT5H'),
  }),
});
const lives = fc.record({
  start: rulesOf,
  steps: fc.array(fc.tuple(fc.constantFrom(...acts), fc.nat()), { maxLength: 25 }),
  then: rulesOf,
});
function live({ start, steps }: { start: RulebookChoices; steps: readonly [string, number][] }): History {
  const history = begin(start, 'start');
  for (const [name, at] of steps) {
    const outcome = act(history, name, at);
    if (outcome && !isRefusal(outcome)) history.do(outcome);
  }
  return history;
}

/** Who sees which version, by asking `explain` of everyone about every version. */
function sightBy(history: History, rules: Rulebook, ids: ReadonlySet<string>): Map<string, Set<string>> {
  return new Map(
    members.map((member) => [
      member.account,
      new Set(
        history.versions
          .filter(
            (version) =>
              ids.has(version.id) && explain(member, sightFacts(history.state, version), rules).sees,
          )
          .map(({ id }) => id),
      ),
    ]),
  );
}

describe('what Consequences announces is exactly what applying does', () => {
  test('which versions go and how many bytes, which approvals end, who gains and loses sight, which numbers come next', () => {
    fc.assert(
      fc.property(lives, (life) => {
        const history = live(life);
        const rules = completeRulebook(life.then);
        const announced = rehearse([history], rules);
        const before = {
          kept: new Set(history.versions.filter(({ thinned }) => !thinned).map(({ id }) => id)),
          rules: history.rules,
          toCome: toComeOf(history),
          run: history.approval,
        };
        const seenBefore = (ids: Set<string>) => sightBy(history, before.rules, ids);
        const old = history.versions;
        const seen = new Map(
          members.map(({ account }) => [account, seenBefore(before.kept).get(account) as Set<string>]),
        );

        const gone = apply(history, rules);

        expect(announced.thinned.items.map(({ versionId }) => versionId)).toEqual(gone);
        expect(announced.thinned.versions).toBe(gone.length);
        expect(announced.thinned.bytes).toBe(
          old.filter(({ id }) => gone.includes(id)).reduce((sum, { content: { size } }) => sum + size, 0),
        );
        expect(announced.approvals.total).toBe(before.run && !history.approval ? 1 : 0);
        expect(announced.numbers.items.map(({ then }) => then)).toEqual(
          JSON.stringify(toComeOf(history)) !== JSON.stringify(before.toCome) || history.presentEra > 1
            ? [toComeOf(history)]
            : [],
        );

        const staying = new Set([...before.kept].filter((id) => !gone.includes(id)));
        const after = sightBy(history, rules, staying);
        const leftNone = history.presentEra > 1;
        const shifts = (one: 'gains' | 'losses'): [string, number][] =>
          members
            .flatMap(({ account }): [string, number][] => {
              const [a, b] = [
                new Set([...(seen.get(account) as Set<string>)].filter((id) => staying.has(id))),
                after.get(account) as Set<string>,
              ];
              const [from, to] = one === 'gains' ? [a, b] : [b, a];
              const number = [...to].filter((id) => !from.has(id)).length;
              return number > 0 ? [[account, number]] : [];
            })
            .sort(([a], [b]) => a.localeCompare(b));
        // An era opened gives every current content a new version; what is seen of the old ones is then
        // another matter.
        if (!leftNone) {
          expect(announced.sight.gains.map(({ account, versions }) => [account, versions])).toEqual(
            shifts('gains'),
          );
          expect(announced.sight.losses.map(({ account, versions }) => [account, versions])).toEqual(
            shifts('losses'),
          );
        }
      }),
      { numRuns: 400 },
    );
  });

  test('applying the same rules changes nothing more', () => {
    fc.assert(
      fc.property(lives, (life) => {
        const history = live(life);
        const rules = completeRulebook(life.then);
        apply(history, rules);
        const again = rehearse([history], rules);
        expect(again).toMatchObject({
          thinned: { versions: 0, bytes: 0 },
          approvals: { total: 0 },
          numbers: { total: 0 },
          sight: { gains: [], losses: [] },
        });
      }),
    );
  });
});

test('whatever is done and whatever rules come, numbers of an era only rise, none is given twice, and at most one version is in force', () => {
  fc.assert(
    fc.property(
      lives,
      fc.array(fc.tuple(fc.constantFrom(...acts), fc.nat()), { maxLength: 15 }),
      (life, more) => {
        const history = live(life);
        apply(history, completeRulebook(life.then));
        for (const [name, at] of more) {
          const outcome = act(history, name, at);
          if (outcome && !isRefusal(outcome)) history.do(outcome);
        }
        const { versions } = history;
        for (const [index, version] of versions.entries()) {
          const previous = versions[index - 1];
          if (previous) expect(compareNumbers(previous, version)).toBeLessThan(0);
        }
        expect(new Set(history.labels).size).toBe(versions.length);
        expect(versions.filter(({ standing }) => standing === 'inForce').length).toBeLessThanOrEqual(1);
        const { inForce } = history.state;
        if (inForce) expect(inForce.state).toBe('published');
        expect(versions.filter(({ state }) => state === 'inApproval').length).toBe(history.approval ? 1 : 0);
      },
    ),
    { numRuns: 300 },
  );
});

describe('a library of three documents', () => {
  const library = (): History[] => {
    const documents = [1, 2, 3].map(() => begin({}, 'a', 'major'));
    for (const history of documents)
      for (const [name, at] of [
        ['minor', 1],
        ['minor', 2],
        ['publish', 0],
        ['minor', 3],
      ] as const)
        history.do(act(history, name, at) as Outcome);
    return documents;
  };
  test('lists come in parts, with the counts of the whole; each opens by itself', () => {
    const rules = completeRulebook({ keep: { drafts: { stay: 'untilPublished' } }, sight: { draft: [] } });
    const whole = rehearse(library(), rules);
    expect(whole.thinned).toMatchObject({ versions: 6, documents: 3, bytes: 36 });
    const part = rehearse(library(), rules, { offset: 4, limit: 1 });
    expect([
      part.thinned.versions,
      part.thinned.items.map(({ document, label }) => `${document.id} ${label}`),
    ]).toEqual([6, ['doc 2 1.1']]);
    const some = rehearse(library(), rules, { offset: 0, limit: 10, documents: new Set(['doc 1']) });
    expect([some.thinned.versions, some.thinned.items.length]).toEqual([6, 2]);
    expect(whole.sight.losses).toEqual(
      ['approver', 'approver2', 'author2'].map((account) => ({
        account,
        name: account.toUpperCase(),
        versions: 3,
        documents: 3,
      })),
    );
    const losing = rehearse(library(), rules, {
      offset: 1,
      limit: 5,
      sightOf: { account: 'author2', change: 'losses' },
    });
    expect(
      losing.sight.items.map(({ document, label, state }) => `${document.id} ${label} ${state}`),
    ).toEqual(['doc 1 2.1 draft', 'doc 2 2.1 draft']);
  });
  test('numbers to come and held documents are named where they change', () => {
    const documents = library();
    documents[1]?.do(act(documents[1], 'hold', 0) as Outcome);
    const { numbers, custody } = rehearse(documents, completeRulebook({ numbering: 'whole' }));
    expect(numbers.total).toBe(3);
    expect(numbers.items[0]).toMatchObject({
      now: { minor: '2.2', major: '3.0' },
      then: { minor: null, major: '3' },
      becomes: null,
    });
    expect(custody.items).toMatchObject([{ holder: 'AUTHOR', base: '2.1', then: { major: '3' } }]);
  });
  test('leaving none says what every document becomes', () => {
    const { numbers } = rehearse([begin({ numbering: 'none' }, 'a')], completeRulebook({}));
    expect(numbers.items).toMatchObject([{ becomes: '1.0', then: { minor: '1.1', major: '2.0' } }]);
  });
  test.each<[RulebookChoices, string]>([
    [{ keep: { drafts: { stay: 'withTheirVersion' } } }, 'drafts-stay-with-all'],
    [{ approval: { on: true } }, 'drafts-need-approval'],
    [{ approval: { on: true } }, 'no-approver-named'],
    [{ approval: { on: true }, sight: { inApproval: [] } }, 'approvers-blind'],
    [{ maxFileBytes: 2 }, 'larger-files-stay'],
    [{ allowanceBytes: 20 }, 'library-full'],
    [{ allowanceBytes: 80 }, 'library-nearly-full'],
    [{ graceDays: 0 }, 'no-grace'],
    [{ numbering: 'none' }, 'one-current-version'],
  ])('%j is remarked on as %s', (rules, code) => {
    expect(rehearse(library(), completeRulebook(rules)).notes.map((note) => note.code)).toContain(code);
  });
  test('nothing is remarked on where nothing changes', () =>
    expect(rehearse(library(), completeRulebook({})).notes).toEqual([]));
});
