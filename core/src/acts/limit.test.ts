import { code, hold } from '../testing/acts.ts';
import { author2, members, overLives } from '../testing/lives.ts';
import { approver, author, begin, controller } from '../testing/people.ts';
import { explainVersion, seesVersion } from './refusals.ts';
import { limitDocument, limitOutlook } from './limit.ts';
import { changeFields } from './changeFields.ts';
import type { Actor } from '../rules/roles.ts';
import type { History } from './history.ts';
import type { Named, Outcome } from './state.ts';
import { submit } from './submit.ts';

const named = (...ids: string[]): Named => ({ personIds: ids, groupIds: [], memberIds: ids });
const limit = (
  history: History,
  to: Named | null,
  reason = 'Names of casualties',
  who: Actor = controller,
): Outcome => limitDocument(history.state, who, { limit: to, reason });
const seers = ({ state }: History): string[] =>
  members.filter((member) => seesVersion(state, member, state.latest)).map(({ id }) => id);

test('a document is kept to people and groups, its owner and co-authors; controllers see it, nobody else', () => {
  const history = begin({}, 'first', 'major');
  expect(seers(history)).toEqual(members.map(({ id }) => id));
  history.do(
    limit(history, { ...named('reader'), groupIds: ['rescue'], memberIds: ['reader', 'approver2'] }),
  );
  expect(seers(history)).toEqual(['author', 'approver2', 'controller', 'reader']);
  const { latest } = history.state;
  expect(explainVersion(history.state, approver, latest)).toEqual({
    sees: false,
    why: 'The document is kept to named people and groups, and you are not among them.',
  });
  // Who becomes its owner is of the circle.
  const owner = { id: author2.id, name: author2.name };
  history.do(
    changeFields(
      history.state,
      controller,
      { fields: {}, comment: '', people: { owner, coAuthorIds: null, approvers: null, named: {} } },
      history.now,
    ),
  );
  expect(seers(history)).toEqual(['author2', 'approver2', 'controller', 'reader']);
  history.do(limit(history, null, 'For everybody'));
  expect(seers(history)).toHaveLength(members.length);
  expect(history.ledger.filter((act) => act === 'limit')).toHaveLength(2);
  expect(history.labels).toEqual(['1.0']);
});

test('by controllers, with a reason, and not as it is already', () => {
  const history = begin({}, 'first', 'major');
  expect(code(limit(history, named('reader'), 'x', author))).toBe('role-missing');
  expect(code(limit(history, named('reader'), ' '))).toBe('reason-missing');
  expect(code(limit(history, null))).toBe('nothing-changed');
  history.do(limit(history, named('reader', 'approver')));
  expect(code(limit(history, named('approver', 'reader')))).toBe('nothing-changed');
});

test('nobody who holds it or is asked to decide is left out', () => {
  const held = hold(begin({}, 'first', 'major'), author2);
  expect(code(limit(held, named('reader')))).toBe('left-out');
  expect(code(limit(held, named('author2')))).toBeNull();
  const asked = begin({ approval: { on: true, mode: 'serial', approvers: ['approver', 'approver2'] } });
  asked.do(
    submit(asked.state, author, { version: asked.state.latest, comment: '', inForceFrom: null }, asked.now),
  );
  expect(code(limit(asked, named('approver2')))).toBe('left-out');
  expect(code(limit(asked, named('approver')))).toBeNull();
});

test('a run that approvers outside the circle would decide is refused at submission', () => {
  const history = begin({ approval: { on: true, mode: 'anyOne', approvers: ['approver'] } });
  history.do(limit(history, named('reader')));
  const submitted = submit(
    history.state,
    author,
    { version: history.state.latest, comment: '', inForceFrom: null },
    history.now,
  );
  expect(code(submitted)).not.toBeNull();
});

test('whose sight changes is said beforehand, exactly', () => {
  let compared = 0;
  const seesAny = (history: History): Set<string> =>
    new Set(
      members
        .filter((member) => history.versions.some((version) => seesVersion(history.state, member, version)))
        .map(({ id }) => id),
    );
  const approval = { on: true, mode: 'anyOne' as const, approvers: ['approver'] };
  overLives([{ sight: { draft: [] } }, { approval }], 40, (history, { version, words }, decision) => {
    history.do(decision);
    const kept = members.filter((_, place) => ((version * 6 + words) >> place) & 1).map(({ id }) => id);
    const to = words === 0 ? null : named(...kept);
    const before = seesAny(history);
    const said = limitOutlook(history.state, to, { members, versions: history.versions });
    const outcome = limit(history, to);
    if (code(outcome) !== null) return;
    history.do(outcome);
    const after = seesAny(history);
    compared += 1;
    expect(said).toEqual({
      losing: members.map(({ id }) => id).filter((id) => before.has(id) && !after.has(id)),
      gaining: members.map(({ id }) => id).filter((id) => !before.has(id) && after.has(id)),
    });
  });
  expect(compared).toBeGreaterThan(100);
});
