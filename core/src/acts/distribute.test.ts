import { change, code } from '../testing/acts.ts';
import { actor, approver, author, begin, controller, reader } from '../testing/people.ts';
import type { Actor } from '../rules/roles.ts';
import { confirmRead, distribute, refuseSeeingReaders, remindReaders, tellOfComing } from './distribute.ts';
import type { History } from './history.ts';
import type { Named, Outcome } from './state.ts';

const named = (...ids: string[]): Named => ({ personIds: ids, groupIds: [], memberIds: ids });
const to = (history: History, distribution: Named | null, who: Actor = author): Outcome =>
  distribute(history.state, who, { distribution }, history.now);
const read = (
  history: History,
  who: Actor,
  label = history.label(history.state.latest),
  confirmed: Date | null = null,
) => {
  const version = history.versions.find((one) => history.label(one) === label);
  if (!version) throw new Error(`no ${label}`);
  return confirmRead(history.state, who, { version, confirmed }, history.now);
};

test('who is named is asked to read what is in force; who was named before is not asked twice', () => {
  const history = begin({}, 'first', 'major');
  const outcome = to(history, named('reader'));
  expect(outcome).toMatchObject({
    ledger: { act: 'distribute', facts: { from: null, to: { people: ['reader'] } } },
    notices: [{ kind: 'toRead', personIds: ['reader'], facts: { label: '1.0' } }],
  });
  history.do(outcome);
  expect(to(history, named('reader', 'approver'))).toMatchObject({ notices: [{ personIds: ['approver'] }] });
  expect(code(to(history, named('reader')))).toBe('nothing-changed');
  expect(to(history, null)).toMatchObject({ notices: [] });
  expect(to(begin({}, 'a draft'), named('reader'))).toMatchObject({ notices: [] });
});

test('each version that comes into force asks those it is distributed to, and tells those concerned', () => {
  const history = begin({}, 'first', 'major');
  history.do(to(history, named('reader', 'approver')));
  const before = history.state.inForce;
  change(history, 'a draft');
  expect(tellOfComing(history.state, before, 'author', [])).toBeNull();
  change(history, 'second', 'major');
  const { state } = history;
  // Its owner made it and need not be told; who is named is asked, however it came.
  const asked = { kind: 'toRead', personIds: ['reader', 'approver'], facts: { label: '2.0' } };
  expect(tellOfComing(state, before, 'author', [])).toMatchObject({
    changes: [],
    ledger: null,
    notices: [asked],
  });
  const told = { kind: 'published', personIds: ['author'], facts: { label: '2.0' } };
  expect(tellOfComing(state, before, 'controller', [])?.notices).toMatchObject([asked, told]);
  expect(tellOfComing(state, before, null, [])?.notices).toMatchObject([asked, told]);
  const approved = { kind: 'approved' as const, personIds: ['author'], about: 'x', facts: {} };
  expect(tellOfComing(state, before, 'approver', [approved])?.notices).toMatchObject([asked]);
  expect(tellOfComing(state, state.inForce, 'author', [])).toBeNull();
});

test('reading is confirmed by whoever is asked, once, of what is in force', () => {
  const history = begin({}, 'first', 'major');
  expect(code(read(history, reader))).toBe('not-distributed-to-you');
  history.do(to(history, named('reader')));
  expect(read(history, reader)).toMatchObject({
    changes: [{ kind: 'confirmRead', personId: 'reader' }],
    ledger: { act: 'read', facts: { version: '1.0' } },
  });
  expect(code(read(history, approver))).toBe('not-distributed-to-you');
  expect(code(read(history, reader, '1.0', history.now))).toBe('read-already');
  change(history, 'second', 'major');
  expect(code(read(history, reader, '1.0'))).toBe('not-in-force');
  expect(code(read(history, reader, '2.0'))).toBeNull();
});

test('by owner, co-authors and controllers; auditors are told who has read it', () => {
  const history = begin({}, 'first', 'major');
  const other = actor('other', 'author');
  const auditor = actor('auditor', 'auditor');
  expect(code(to(history, named('reader'), other))).toBe('not-in-charge');
  expect(code(to(history, named('reader'), reader))).toBe('not-in-charge');
  expect(code(to(history, named('reader'), controller))).toBeNull();
  expect(
    [author, controller, auditor, other, reader].map(
      (who) => refuseSeeingReaders(history.state, who) === null,
    ),
  ).toEqual([true, true, true, false, false]);
});

test('those who have not confirmed it are reminded, where there are any', () => {
  const history = begin({}, 'first', 'major');
  history.do(to(history, named('reader', 'approver')));
  const remind = (who: Actor, ...outstanding: string[]) =>
    remindReaders(history.state, who, { outstanding }, history.now);
  expect(remind(author, 'approver')).toMatchObject({
    ledger: { act: 'remind', facts: { version: '1.0', people: ['approver'] } },
    notices: [{ kind: 'toReadStill', personIds: ['approver'], facts: { by: 'AUTHOR' } }],
  });
  expect(code(remind(author))).toBe('nobody-outstanding');
  expect(code(remind(reader, 'approver'))).toBe('not-in-charge');
});
