import fc from 'fast-check';
import { callBack } from '../acts/callBack.ts';
import { changeFields } from '../acts/changeFields.ts';
import { checkIn } from '../acts/checkIn.ts';
import { checkOut } from '../acts/checkOut.ts';
import { decide } from '../acts/decide.ts';
import { giveBack } from '../acts/giveBack.ts';
import { handOver } from '../acts/handOver.ts';
import type { History } from '../acts/history.ts';
import { lift } from '../acts/lift.ts';
import { prolong } from '../acts/prolong.ts';
import { publish } from '../acts/publish.ts';
import { recover } from '../acts/recover.ts';
import { reinstate } from '../acts/reinstate.ts';
import { saveWorkingCopy } from '../acts/save.ts';
import { reschedule, takeBack } from '../acts/schedule.ts';
import { shelter } from '../acts/shelter.ts';
import type { Decision, Outcome } from '../acts/state.ts';
import { submit } from '../acts/submit.ts';
import { thin } from '../acts/thin.ts';
import { withdraw } from '../acts/withdraw.ts';
import { isRefusal } from '../document/refusal.ts';
import type { Version } from '../document/version.ts';
import type { Actor } from '../rules/roles.ts';
import type { RulebookChoices } from '../rules/rulebook.ts';
import { into, restoreFrom } from './acts.ts';
import { actor, approver, approver2, author, begin, content, controller, reader } from './people.ts';

export const author2 = actor('author2', 'author');
export const auditor = actor('auditor', 'auditor');
export const members = [author, author2, approver, approver2, controller, reader, auditor];

/** One thing somebody tries on a document. */
export interface Step {
  act: string;
  by: number;
  version: number;
  words: number;
  /** A second way of doing it, where there is one. */
  other: boolean;
}

/** What a step is tried on. */
interface Scene {
  history: History;
  by: Actor;
  version: Version;
  words: string;
  other: boolean;
}

/** A moment no life lasts to: what comes into force by itself is no act. */
const farFrom = (now: Date): Date => new Date(now.getTime() + 400 * 86_400_000);

const reason = 'Because';
const comment = 'Said';
const acts: Record<string, (scene: Scene) => Outcome> = {
  checkOut: ({ history: { state, now }, by }) => checkOut(state, by, { reason, until: null }, now),
  prolong: ({ history: { state, now }, by }) =>
    prolong(state, by, { until: new Date(now.getTime() + 86_400_000) }, now),
  save: ({ history: { state, now }, by, words, other }) =>
    saveWorkingCopy(state, by, { content: content(words), sitting: other ? 'sitting' : null }, now),
  giveBack: ({ history: { state }, by }) => giveBack(state, by),
  handOver: ({ history: { state, now }, by }) => {
    const to = by.id === author.id ? author2 : author;
    const charged = { from: by, to, ownApproverIds: [], asideBases: [], by: 'The office' };
    return handOver(state, charged, now);
  },
  lift: ({ history: { state } }) => lift(state, controller, { reason }),
  checkIn: ({ history: { state, now }, by, words, other }) =>
    checkIn(
      state,
      by,
      into('minor', words, { confirm: ['same-bytes', 'stale-base'], keepCheckedOut: other }),
      now,
    ),
  publish: ({ history: { state, now }, by }) =>
    publish(state, by, { version: state.latest, comment, inForceFrom: null }, now),
  submit: ({ history: { state, now }, by }) =>
    submit(state, by, { version: state.latest, comment, inForceFrom: null }, now),
  decide: ({ history: { state, now }, other }) =>
    decide(
      state,
      state.approval?.posts.find(({ decision }) => !decision)?.personId === approver.id
        ? approver
        : approver2,
      { version: state.latest, decision: other ? 'reject' : 'approve', comment },
      now,
    ),
  callBack: ({ history: { state, now } }) => callBack(state, author, { comment }, now),
  restore: ({ history, version }) => restoreFrom(history, history.label(version), 'minor'),
  changeFields: ({ history: { state, now }, by, words }) =>
    changeFields(state, by, { fields: { title: words }, comment }, now),
  thin: ({ history: { state, now }, version }) => thin(state, controller, { version, reason }, now),
  recover: ({ history: { state, now }, version }) => recover(state, controller, { version, reason }, now),
  withdraw: ({ history: { state, versions, now }, version }) =>
    withdraw(state, controller, { version, reason, previous: publishedBefore(versions, version) }, now),
  reinstate: ({ history: { state, versions, now }, version }) =>
    reinstate(state, controller, { version, reason, later: publishedAfter(versions, version) }, now),
  schedule: ({ history: { state, now }, by }) =>
    publish(state, by, { version: state.latest, comment, inForceFrom: farFrom(now) }, now),
  reschedule: ({ history: { state, now }, version, other }) => {
    const inForceFrom = other ? null : farFrom(now);
    return reschedule(state, controller, { version, inForceFrom }, now);
  },
  takeBack: ({ history: { state, now }, version }) => takeBack(state, controller, { version, reason }, now),
  shelter: ({ history: { state }, version, other }) =>
    shelter(state, controller, { version, reason, sheltered: !other }),
};

const isPublished = ({ state }: Version): boolean => state === 'published';
/** The published version right before one. */
export const publishedBefore = (versions: readonly Version[], { sequence }: Version): Version | null =>
  versions.filter((one) => isPublished(one) && one.sequence < sequence).at(-1) ?? null;
/** Published versions after one. */
export const publishedAfter = (versions: readonly Version[], { sequence }: Version): Version[] =>
  versions.filter((one) => isPublished(one) && one.sequence > sequence);

export const actNames = Object.keys(acts).sort();

/** Lives that go, under the first rules and under rules with approval, through what chance seldom reaches. */
const lifeOf = (...names: string[]): Step[] =>
  names.map((act) => ({ act, by: 0, version: 0, words: 1, other: false }));
const onVersion = (version: number, ...names: string[]): Step[] =>
  lifeOf(...names).map((step) => ({ ...step, version }));
const wholeLives: readonly Step[][] = [
  lifeOf(
    'publish',
    'changeFields',
    'restore',
    'shelter',
    'thin',
    'recover',
    'checkOut',
    'save',
    'prolong',
    'lift',
  ),
  lifeOf(
    'checkOut',
    'handOver',
    'giveBack',
    'checkOut',
    'checkIn',
    'submit',
    'callBack',
    'submit',
    'decide',
    'decide',
  ),
  [
    ...lifeOf('publish', 'checkOut', 'checkIn', 'publish'),
    ...onVersion(3, 'withdraw', 'reinstate'),
    ...lifeOf('checkOut', 'checkIn', 'schedule'),
    ...onVersion(5, 'reschedule', 'takeBack'),
  ],
];

/** A step by chance; what only a holder may is tried by authors. */
const anyStep: fc.Arbitrary<Step> = fc.record({
  act: fc.constantFrom(...actNames),
  by: fc.nat(1),
  version: fc.nat(12),
  words: fc.nat(5),
  other: fc.boolean(),
});

/**
 * Tries the steps of random lives on documents under these rules, and calls back with each decision before
 * it is carried out, which the callback does.
 */
export function overLives(
  rulebooks: readonly RulebookChoices[],
  numRuns: number,
  live: (history: History, step: Step, decision: Decision) => void,
): void {
  const anyRules = fc.constantFrom(...rulebooks);
  const anyLife = fc.array(anyStep, { minLength: 20, maxLength: 40 });
  fc.assert(
    fc.property(anyRules, anyLife, (rules, steps) => {
      const history = begin(rules);
      for (const step of steps) {
        const outcome = outcomeOf(history, step);
        if (!isRefusal(outcome)) live(history, step, outcome);
      }
    }),
    {
      // More where there is time, never fewer: tests count what they have seen.
      numRuns: Math.max(numRuns, Number(process.env['POLYCHRON_TEST_RUNS'] ?? 0)),
      examples: wholeLives.map((life, index) => [rulebooks[index % 2] ?? {}, life]),
    },
  );
}

/** What core says to a step. */
export function outcomeOf(history: History, { act, by, version, words, other }: Step): Outcome {
  const { versions } = history;
  const named = versions[version % versions.length];
  const tried = acts[act];
  if (!named || !tried) throw new Error(`there is no ${act}`);
  return tried({ history, by: by === 0 ? author : author2, version: named, words: `words ${words}`, other });
}
