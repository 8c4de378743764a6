import {
  type Actor,
  callBack,
  changeFields,
  checkIn,
  checkOut,
  comeIntoForce,
  type ContentFacts,
  decide,
  type DocumentState,
  giveBack,
  isRefusal,
  lift,
  type Outcome,
  planThinning,
  publish,
  recover,
  restore,
  type Role,
  type RulebookChoices,
  saveWorkingCopy,
  shelter,
  submit,
  thin,
  upload,
  type Version,
} from '@polychron/core';
import fc from 'fast-check';
import { testServer } from '../testing/started.ts';
import { rows, transact } from './database.ts';
import { loadDocument, type LoadedDocument, lockDocument } from './documents.ts';
import { keepDecision } from './keepDecision.ts';
import { rebuildHeads } from './rebuildHeads.ts';
import { loadVersions } from './versions.ts';

const server = testServer();
let contents: ContentFacts[];
const actors: Actor[] = [];
beforeAll(async () => {
  const library = await server.library();
  for (const words of ['one', 'two words', 'three other words']) {
    const { id } = await server.document(library, words);
    contents = [
      ...(contents ?? []),
      (await loadDocument(server.context, id))?.latest.content as ContentFacts,
    ];
  }
  for (const account of ['author', 'author2', 'approver', 'approver2', 'controller']) {
    const { id, name } = await server.caller(account);
    actors.push({ id, name, roles: new Set([account.replace(/\d/, '') as Role]) });
  }
});

/** What is decided about: the state, a version of the document, a content, and the moment. */
interface Scene {
  state: DocumentState;
  actor: Actor;
  version: Version;
  versions: readonly Version[];
  content: ContentFacts;
  later: boolean;
  now: Date;
}
const reason = 'Because';
const comment = 'A change';
const incoming = {
  confirm: ['same-bytes', 'other-name', 'other-type', 'stale-base'] as const,
  keepFileName: true,
};
const levelOf = ({ later, state }: Scene) =>
  later || state.rules.numbering !== 'stepped' ? ('major' as const) : ('minor' as const);
const inForceFrom = ({ later, now }: Scene) => (later ? new Date(now.getTime() + 36 * 3_600_000) : null);

/** Every act there is on a document, with what time and rules do by themselves. */
const acts: Record<string, (scene: Scene) => Outcome | null> = {
  checkOut: ({ state, actor, now }) => checkOut(state, actor, { reason, until: null }, now),
  save: ({ state, actor, content, later, now }) =>
    saveWorkingCopy(state, actor, { content, sitting: later ? 'a-sitting' : null }, now),
  giveBack: ({ state, actor }) => giveBack(state, actor),
  lift: ({ state, actor }) => lift(state, actor, { reason }),
  checkIn: (scene) => {
    const { state, actor, content, later, now } = scene;
    const command = { ...incoming, comment, content: later ? null : content, keepCheckedOut: later };
    return checkIn(state, actor, { ...command, level: levelOf(scene) }, now);
  },
  upload: (scene) => {
    const { state, actor, content, now } = scene;
    const command = { ...incoming, comment, content, basedOn: state.latest, level: levelOf(scene) };
    return upload(state, actor, command, now);
  },
  publish: (scene) => {
    const { state, actor, now } = scene;
    return publish(state, actor, { version: state.latest, comment, inForceFrom: inForceFrom(scene) }, now);
  },
  submit: (scene) => {
    const { state, actor, now } = scene;
    return submit(state, actor, { version: state.latest, comment, inForceFrom: inForceFrom(scene) }, now);
  },
  approve: ({ state, actor, now }) =>
    decide(state, actor, { version: state.latest, decision: 'approve', comment }, now),
  reject: ({ state, actor, now }) =>
    decide(state, actor, { version: state.latest, decision: 'reject', comment }, now),
  callBack: ({ state, actor, now }) => callBack(state, actor, { comment }, now),
  restore: (scene) => {
    const { state, actor, version, later, now } = scene;
    const command = { from: version, comment, fields: later, level: levelOf(scene) };
    return restore(state, actor, command, now);
  },
  changeFields: ({ state, actor, now }) =>
    changeFields(state, actor, { fields: { title: `Title ${now.getTime()}` }, comment }, now),
  thin: ({ state, actor, version, now }) => thin(state, actor, { version, reason }, now),
  recover: ({ state, actor, version, now }) => recover(state, actor, { version, reason }, now),
  shelter: ({ state, actor, version, later }) =>
    shelter(state, actor, { version, reason, sheltered: !later }),
  comeIntoForce: ({ state, now }) => comeIntoForce(state, now),
  planThinning: ({ state, versions, now }) => planThinning(state, versions, now),
};
const step = fc.record({
  act: fc.constantFrom(...Object.keys(acts)),
  by: fc.nat(4),
  version: fc.nat(8),
  content: fc.nat(2),
  later: fc.boolean(),
  hours: fc.integer({ min: 1, max: 40 }),
});
type Step = typeof step extends fc.Arbitrary<infer T> ? T : never;

const rulebooks: RulebookChoices[] = [
  { custody: 'optional' },
  { custody: 'optional', numbering: 'whole', keep: { published: 1 } },
  { custody: 'optional', saves: 'drafts', keep: { published: 1, drafts: { stay: 'withTheirVersion' } } },
  { allowanceBytes: 10_000_000, numbering: 'none', custody: 'optional' },
  { custody: 'optional', approval: { on: true, mode: 'together', approvers: ['approver', 'approver2'] } },
];
/** Lives that go through what chance alone seldom reaches. */
const lifeOf = (...names: string[]): Step[] =>
  names.map((act) => ({ act, by: 0, version: 0, content: 1, later: false, hours: 2 }));
const custody = ['checkOut', 'save', 'checkIn', 'checkOut', 'save', 'lift', 'shelter', 'thin', 'recover'];
const examples: [number, Step[]][] = [
  [0, lifeOf('upload', 'publish', 'changeFields', 'publish', 'thin', 'recover', ...custody)],
  [4, lifeOf('submit', 'approve', 'approve', 'changeFields', 'submit', 'reject', 'submit', 'callBack')],
];
const kinds = new Set<string>();
const expected = [
  ...[
    'addVersion',
    'setState',
    'supersede',
    'thin',
    'recover',
    'shelter',
    'openRun',
    'decidePost',
    'closeRun',
  ],
  ...['openCustody', 'saveWorkingCopy', 'setAside', 'closeCustody'],
];

/**
 * Who does it: the holder what only the holder may, an approver who is asked what they decide, anybody else
 * otherwise.
 */
function actorFor(act: string, { custody, approval }: DocumentState, by: number): Actor {
  const wanted = (): string | undefined => {
    if (['save', 'giveBack', 'checkIn'].includes(act)) return custody?.holderId;
    if (['approve', 'reject'].includes(act))
      return approval?.posts.find(({ decision }) => !decision)?.personId;
    return ['lift', 'recover', 'shelter', 'thin'].includes(act) ? actors[4]?.id : undefined;
  };
  return actors.find(({ id }) => id === wanted()) ?? (actors[by] as Actor);
}

async function live(documentId: string, { act, by, version, content, later, hours }: Step): Promise<void> {
  const { context } = server;
  server.pass(hours);
  const { now } = server;
  const reduced = await transact(context.db, async (tx) => {
    const state = await lockDocument(context, documentId, tx);
    const versions = await loadVersions(context, documentId, tx);
    if (!state) throw new Error('the document is there');
    const scene: Scene = {
      state,
      versions,
      actor: actorFor(act, state, by),
      version: versions[version % versions.length] as Version,
      content: contents[content] as ContentFacts,
      later,
      now,
    };
    const outcome = acts[act]?.(scene);
    if (!outcome || isRefusal(outcome)) return null;
    for (const { kind } of outcome.changes) kinds.add(kind);
    return keepDecision(context, state, outcome, { by: { personId: scene.actor.id, at: now }, tx });
  });
  if (!reduced) return;
  // The list of copies set aside tells more than core needs; core's part of it is `setAsideBaseIds`.
  const { setAside: _, ...decided } = reduced.state;
  const { setAside: __, ...held } = (await loadDocument(context, documentId)) as LoadedDocument;
  expect(held).toEqual(decided);
  const stored = new Map((await loadVersions(context, documentId)).map((each) => [each.id, each]));
  for (const { after } of reduced.versions) expect(stored.get(after.id)).toEqual(after);
}

test('what the database holds is what reducing the decision says, for random lives of documents', async () => {
  const libraries: string[] = [];
  for (const rulebook of rulebooks) libraries.push(await server.library(rulebook));
  const lives = fc.tuple(fc.nat(rulebooks.length - 1), fc.array(step, { minLength: 20, maxLength: 40 }));
  await fc.assert(
    fc.asyncProperty(lives, async ([index, steps]) => {
      const stepped = (rulebooks[index]?.numbering ?? 'stepped') === 'stepped';
      const level = stepped ? 'minor' : 'major';
      const { id } = await server.document(libraries[index] as string, 'first', { level });
      for (const one of steps) await live(id, one);
    }),
    {
      numRuns: Number(process.env['POLYCHRON_TEST_RUNS'] ?? 8),
      endOnFailure: true,
      examples: examples.map((one) => [one]),
    },
  );
  expect([...kinds]).toEqual(expect.arrayContaining(expected));
  // What lists are read from was kept step by step; made anew from the versions it is the same.
  const kept = await listed();
  await rebuildHeads(server.context.db);
  expect(await listed()).toEqual(kept);
});

/** What lists are read from. */
async function listed(): Promise<object[][]> {
  const { db } = server.context;
  return [
    await rows(db, 'SELECT * FROM newest_versions ORDER BY document_id, person_id, kind', {}),
    await rows(db, 'SELECT * FROM newest_counts WHERE count <> 0 ORDER BY library_id, kind, later', {}),
    await rows(db, 'SELECT * FROM kind_counts WHERE count <> 0 ORDER BY document_id, kind', {}),
    await rows(db, 'SELECT * FROM document_words ORDER BY library_id, word, document_id', {}),
    await rows(db, 'SELECT id, found_by FROM versions ORDER BY id', {}),
  ];
}
