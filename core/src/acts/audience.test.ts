import { isRefusal } from '../document/refusal.ts';
import type { Version } from '../document/version.ts';
import type { RulebookChoices, SightRole } from '../rules/rulebook.ts';
import { explain, type Viewer } from '../rules/sight.ts';
import { actNames, auditor, author2, members, overLives } from '../testing/lives.ts';
import { approver, approver2, author, begin, controller, reader } from '../testing/people.ts';
import { change, hold, into, publishLatest } from '../testing/acts.ts';
import { audienceOf, isHeardBy } from './audience.ts';
import { checkIn } from './checkIn.ts';
import { decide } from './decide.ts';
import type { History } from './history.ts';
import { reduce } from './reduce.ts';
import { type Decision, type Outcome, sightFacts } from './state.ts';
import { submit } from './submit.ts';
import { thin } from './thin.ts';

/** The document as its page shows it to somebody; null where they see nothing of it. */
function page(history: History, viewer: Viewer) {
  const { state, versions } = history;
  const sees = (version: Version): boolean => explain(viewer, sightFacts(state, version), state.rules).sees;
  const seen = versions.filter(sees);
  if (seen.length === 0) return null;
  const { custody } = state;
  return {
    seen,
    owner: state.ownerId,
    held: custody && { by: custody.holderName, since: custody.since },
    approval: sees(state.latest) ? state.approval : null,
    detail: custody && sees(state.latest) && sees(custody.base) ? { ...custody } : null,
  };
}
type Page = ReturnType<typeof page>;

/**
 * Whether a page would read otherwise. That details of custody are gone since a version came that they do not
 * see is no news for them: it would tell them of that version.
 */
function readsOtherwise(before: Page, after: Page): boolean {
  if (!before || !after) return before !== after;
  const known = after.held && !after.detail ? { ...before, detail: null } : before;
  return JSON.stringify(known) !== JSON.stringify(after);
}

/** Who hears of a decision, and what it made of everybody's page. */
function told(history: History, decision: Decision) {
  const before = history.state;
  const pages = members.map((member) => page(history, member));
  const world = { newId: () => `v${history.versions.length + 1}`, versions: history.versions };
  const audience = audienceOf(before, decision, reduce(before, decision.changes, world));
  history.do(decision);
  return members.map((member, index) => {
    const after = page(history, member);
    const anything = Boolean(pages[index] || after);
    const hears = isHeardBy(audience, member) || (audience.everyone && anything);
    return { id: member.id, hears, changed: readsOtherwise(pages[index] ?? null, after), anything };
  });
}
const listeners = (history: History, outcome: Outcome): string[] => {
  if (isRefusal(outcome)) throw new Error(outcome.reason);
  return told(history, outcome).flatMap(({ id, hears }) => (hears ? [id] : []));
};

const named: SightRole[][] = [['author', 'approver'], ['reader'], ['auditor'], []];
const rulebooks: RulebookChoices[] = named.flatMap((roles) => [
  { sight: { draft: roles, inApproval: roles, rejected: roles } },
  {
    sight: { draft: roles, inApproval: ['approver'], rejected: ['author'] },
    approval: { on: true, mode: 'serial', approvers: ['approver', 'approver2'] },
  },
]);

test('whose page an act changes, they hear of it; who sees nothing of the document hears nothing', () => {
  const acts = new Set<string>();
  overLives(rulebooks, 150, (history, { act }, decision) => {
    acts.add(act);
    const asked = history.approval?.posts.map(({ personId }) => personId) ?? [];
    for (const { id, hears, changed, anything } of told(history, decision)) {
      if (changed) expect([act, id, hears]).toEqual([act, id, true]);
      const run = history.approval?.posts.map(({ personId }) => personId) ?? asked;
      if (!anything && !run.includes(id)) expect([act, id, hears]).toEqual([act, id, false]);
    }
  });
  expect([...acts].sort()).toEqual(actNames);
});

test('a hidden draft checked in and kept is heard of by its readers alone', () => {
  const history = hold(publishLatest(begin()));
  const command = into('minor', 'second', { keepCheckedOut: true });
  const heard = listeners(history, checkIn(history.state, author, command, history.now));
  expect(heard.sort()).toEqual([approver, approver2, author, author2, controller].map(({ id }) => id).sort());
});

test('a thinned draft is heard of by those who saw it, a superseded version also by auditors', () => {
  const history = publishLatest(change(publishLatest(begin()), 'second'));
  const thinned = (label: string): string[] =>
    listeners(
      history,
      thin(history.state, controller, { version: history.version(label), reason: 'Old' }, history.now),
    );
  const heard = thinned('1.1');
  expect(heard).not.toContain(reader.id);
  expect(heard).not.toContain(auditor.id);
  expect(heard).toContain(author2.id);
  expect(thinned('1.0')).toContain(auditor.id);
});

test('whoever is asked to decide hears of a run, and of what the others decide', () => {
  const history = begin({ ...rulebooks[7], sight: { draft: [], inApproval: ['approver'], rejected: [] } });
  const command = { version: history.state.latest, comment: '', inForceFrom: null };
  expect(listeners(history, submit(history.state, author, command, history.now))).toEqual(
    expect.arrayContaining([approver.id, approver2.id]),
  );
  const decision = { version: history.state.latest, decision: 'approve' as const, comment: '' };
  const heard = listeners(history, decide(history.state, approver, decision, history.now));
  expect(heard).toContain(approver2.id);
  expect(heard).not.toContain(reader.id);
});
