import { completeRulebook, type RulebookChoices } from '../rules/rulebook.ts';
import { overLives } from '../testing/lives.ts';
import { author, begin } from '../testing/people.ts';
import type { History } from './history.ts';
import { openDocument, type Opening, reduce } from './reduce.ts';
import type { Change } from './state.ts';

const rulebooks: RulebookChoices[] = [
  {},
  { approval: { on: true, mode: 'serial', approvers: ['approver', 'approver2'] } },
  { keep: { published: 1, drafts: { stay: 'untilPublished', newest: null } } },
  { numbering: 'whole', keep: { published: 0 } },
  { numbering: 'none' },
];
const world = { newId: () => 'new' };

/**
 * The state holds again what the versions say: each is the copy the list of versions has;
 * `aside` are the bytes of saves that were set aside.
 */
function expectConsistent({ state, versions }: History, aside: number): void {
  expect(state.latest).toEqual(versions.at(-1));
  const inForce = versions.filter(({ standing }) => standing === 'inForce');
  expect(inForce).toEqual(state.inForce ? [state.inForce] : []);
  expect(versions.filter(({ standing }) => standing === 'scheduled')).toEqual(state.scheduled);
  const kept = versions.filter(({ thinned }) => !thinned);
  const saved = (state.custody?.bytesSaved ?? 0) + aside;
  expect(state.bytesKept).toBe(kept.reduce((sum, { content }) => sum + content.size, saved));
  if (state.custody) expect(versions).toContainEqual(state.custody.base);
  if (state.approval) expect(state.approval.versionId).toBe(state.latest.id);
  expect(state.approval !== null).toBe(state.latest.state === 'inApproval');
  expect(versions.map(({ sequence }) => sequence)).toEqual(versions.map((_, index) => index + 1));
}

test('over random lives the state agrees with the versions, and bytes kept with their contents', () => {
  const asides = new WeakMap<History, number>();
  overLives(rulebooks, 100, (history, _, decision) => {
    const isSetAside = decision.changes.some(({ kind }) => kind === 'setAside');
    const more = isSetAside ? (history.state.custody?.bytesSaved ?? 0) : 0;
    const aside = (asides.get(history) ?? 0) + more;
    asides.set(history, aside);
    expectConsistent(history.do(decision), aside);
    const { custody } = history.state;
    expect((custody?.bytesSaved ?? 0) > 0).toBe((custody?.saves ?? 0) > 0);
  });
});

test('what is reduced is not changed itself', () => {
  const { state, versions } = begin();
  const frozen = JSON.stringify(state);
  const changes: Change[] = [
    { kind: 'setState', versionId: state.latest.id, state: 'rejected' },
    { kind: 'shelter', versionId: state.latest.id, sheltered: true },
    { kind: 'setPeople', owner: { id: 'o', name: 'O' }, coAuthorIds: ['c'], approvers: null },
  ];
  const reduced = reduce(state, changes, world);
  expect(JSON.stringify(state)).toBe(frozen);
  expect(reduced.versions).toEqual([
    { before: versions[0], after: { ...versions[0], state: 'rejected', sheltered: true } },
  ]);
  expect(reduced.state).toMatchObject({ ownerId: 'o', coAuthorIds: ['c'], approvers: state.approvers });
});

test('a version nobody holds is a mistake of the caller, said so', () => {
  const { state } = begin();
  expect(() => reduce(state, [{ kind: 'recover', versionId: 'elsewhere' }], world)).toThrow(/elsewhere/);
  expect(() => reduce(state, [{ kind: 'moveBase', to: 'new' }], world)).toThrow(/new/);
  const elsewhere = { ...state.latest, id: 'elsewhere', sequence: 9 };
  const known = { ...world, versions: [elsewhere] };
  const { versions } = reduce(state, [{ kind: 'recover', versionId: 'elsewhere' }], known);
  expect(versions.map(({ after }) => after.id)).toEqual(['elsewhere']);
});

test('a document opens with its first version, and with nothing else', () => {
  const opening: Opening = {
    id: 'doc',
    number: 'OP-001',
    owner: author,
    coAuthorIds: [],
    approvers: [],
    rules: completeRulebook({}),
    bytesKept: null,
  };
  expect(() => openDocument(opening, [], world)).toThrow(/first version/);
  expect(() =>
    openDocument(opening, [{ kind: 'closeCustody', how: 'lifted', reason: null }], world),
  ).toThrow();
});

test('bytes are not counted where no allowance asks for them', () => {
  const { state } = begin();
  const {
    id: _,
    sequence: __,
    thinned: ___,
    sheltered: ____,
    supersededAt: _____,
    ...version
  } = state.latest;
  const added = reduce({ ...state, bytesKept: null }, [{ kind: 'addVersion', version }], world);
  expect(added.state.bytesKept).toBeNull();
  expect(added.added).toMatchObject({ id: 'new', sequence: 2 });
});
