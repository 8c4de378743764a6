import type { Level } from '../document/version.ts';
import { type ApprovalDecision, waitingFor } from '../rules/approvalRun.ts';
import type { Actor } from '../rules/roles.ts';
import type { RulebookChoices } from '../rules/rulebook.ts';
import { change, code, hold, into } from '../testing/acts.ts';
import {
  actor,
  approver,
  approver2,
  author,
  begin,
  content,
  controller,
  fields,
  reader,
} from '../testing/people.ts';
import { callBack } from './callBack.ts';
import { changeFields } from './changeFields.ts';
import { checkIn } from './checkIn.ts';
import { checkOut } from './checkOut.ts';
import { decide } from './decide.ts';
import { giveBack } from './giveBack.ts';
import { History } from './history.ts';
import { publish } from './publish.ts';
import { explainVersion } from './refusals.ts';
import { restore } from './restore.ts';
import { saveWorkingCopy } from './save.ts';
import { asInForce, ifApproved } from './outlook.ts';
import type { Outcome } from './state.ts';
import { submit } from './submit.ts';

const on = (approval: RulebookChoices['approval'] = {}, rules: RulebookChoices = {}): RulebookChoices => ({
  ...rules,
  approval: { on: true, ...approval },
});
const ask = (history: History, who: Actor = author, inForceFrom: Date | null = null): Outcome =>
  submit(history.state, who, { version: history.state.latest, comment: '', inForceFrom }, history.now);
const say = (
  history: History,
  who: Actor,
  decision: ApprovalDecision = 'approve',
  comment = decision === 'approve' ? '' : 'span table incomplete',
): Outcome => decide(history.state, who, { version: history.state.latest, decision, comment }, history.now);
const put = (history: History, words: string, level: Level = 'minor', keepCheckedOut = false): Outcome =>
  checkIn(history.state, author, into(level, words, { keepCheckedOut }), history.now);
const waits = (history: History): string[] =>
  history.approval ? waitingFor(history.approval).map(({ personId }) => personId) : [];

describe('in turn', () => {
  test('8: the first rejects: the second is never asked, the version is rejected, and may be submitted again as it is', () => {
    const history = begin(on());
    history.do(ask(history));
    expect(history.version('0.1').state).toBe('inApproval');
    expect(waits(history)).toEqual(['approver']);
    expect(code(say(history, approver2))).toBe('not-your-turn');
    expect(code(say(history, approver, 'reject', ' '))).toBe('comment-missing');
    history.do(say(history, approver, 'reject'));
    expect(history.version('0.1').state).toBe('rejected');
    expect(history.approval).toBeNull();
    history.do(ask(history)).do(say(history, approver)).do(say(history, approver2));
    expect(history.labels).toEqual(['0.1', '1.0']);
    expect(history.inForce).toBe('1.0');
    expect(history.version('0.1').state).toBe('draft');
    expect(history.version('1.0')).toMatchObject({
      content: content('first'),
      origin: { kind: 'publish', from: 'v1' },
    });
  });
  test('later leaves the decision open, with its comment', () => {
    const history = begin(on());
    history.do(ask(history)).do(say(history, approver, 'later', 'After the inspection'));
    expect(waits(history)).toEqual(['approver']);
    expect(history.approval?.posts[0]).toMatchObject({ decision: 'later', comment: 'After the inspection' });
    history.do(say(history, approver));
    expect(waits(history)).toEqual(['approver2']);
  });
});

test('together: all must approve, in any order; anyOne: one is enough', () => {
  const together = begin(on({ mode: 'together' }));
  together.do(ask(together));
  expect(waits(together)).toEqual(['approver', 'approver2']);
  together.do(say(together, approver2));
  expect(together.inForce).toBeNull();
  expect(code(say(together, approver2))).toBe('decided-already');
  together.do(say(together, approver));
  expect(together.inForce).toBe('1.0');
  const any = begin(on({ mode: 'anyOne' }));
  any.do(ask(any)).do(say(any, approver2));
  expect(any.inForce).toBe('1.0');
});

test('5: whole to 8, then stepped with approval; discarding uses up no number; readers see 8 until 9.0 is approved', () => {
  const history = begin({ numbering: 'whole' });
  for (const words of ['b', 'c', 'd', 'e', 'f', 'g', 'h']) change(history, words, 'major');
  expect(history.inForce).toBe('8');
  history.rules = {
    ...history.rules,
    numbering: 'stepped',
    approval: { ...history.rules.approval, on: true },
    sight: { ...history.rules.sight, draft: ['approver'] },
  };
  hold(history).do(giveBack(history.state, author));
  expect(history.labels.at(-1)).toBe('8');
  hold(history);
  // The holder belongs to the team of their own draft.
  history.do(put(history, 'i', 'minor', true));
  expect([history.labels.at(-1), history.state.custody?.holderId]).toEqual(['8.1', 'author']);
  expect(code(ask(history))).toBe('held-by-you');
  history
    .do(saveWorkingCopy(history.state, author, { content: content('j') }, history.now))
    .do(giveBack(history.state, author));
  expect([history.labels.at(-1), history.state.custody]).toEqual(['8.1', null]);
  history.do(ask(history));
  expect(history.inForce).toBe('8');
  expect(explainVersion(history.state, reader, history.version('8')).sees).toBe(true);
  expect(explainVersion(history.state, reader, history.version('8.1')).sees).toBe(false);
  history.do(say(history, approver)).do(say(history, approver2));
  expect(history.inForce).toBe('9.0');
  expect(history.version('8')).toMatchObject({ standing: 'superseded' });
});

test('6: 0.1, 0.2 approved is 1.0; with byOwner approved waits until the owner publishes', () => {
  const history = change(begin(on({ publishing: 'byOwner', mode: 'anyOne' })), 'b');
  expect(
    code(
      publish(
        history.state,
        author,
        { version: history.state.latest, comment: '', inForceFrom: null },
        history.now,
      ),
    ),
  ).toBe('needs-approval');
  history.do(ask(history)).do(say(history, approver));
  expect(history.version('0.2').state).toBe('approved');
  expect(history.inForce).toBeNull();
  expect(code(ask(history))).toBe('approved-already');
  expect(
    code(
      publish(
        history.state,
        approver2,
        { version: history.state.latest, comment: '', inForceFrom: null },
        history.now,
      ),
    ),
  ).toBe('role-missing');
  history.do(
    publish(
      history.state,
      author,
      { version: history.state.latest, comment: '', inForceFrom: null },
      history.now,
    ),
  );
  expect(history.labels).toEqual(['0.1', '0.2', '1.0']);
  expect(history.inForce).toBe('1.0');
});

test('12: approval turned on in use: what is in force stays, a new upload is in approval, a change takes its place once approved', () => {
  const history = begin({}, 'first', 'major');
  history.rules = { ...history.rules, approval: { ...history.rules.approval, on: true, mode: 'anyOne' } };
  expect(explainVersion(history.state, reader, history.version('1.0'))).toMatchObject({ sees: true });
  const fresh = begin(on(), 'new', 'major');
  expect([fresh.version('0.1').state, fresh.inForce]).toEqual(['inApproval', null]);
  change(history, 'b', 'major');
  expect([history.version('1.1').state, history.inForce]).toEqual(['inApproval', '1.0']);
  history.do(say(history, approver));
  expect([history.inForce, history.version('1.0').standing]).toEqual(['2.0', 'superseded']);
});

test('an approval lapses when a newer version is made', () => {
  const history = begin(on({ publishing: 'byOwner', mode: 'anyOne' }));
  history.do(ask(history)).do(say(history, approver));
  change(history, 'b');
  expect([history.version('0.1').state, history.version('0.2').state]).toEqual(['draft', 'draft']);
});

describe('whole numbers', () => {
  const whole = on({ mode: 'anyOne' }, { numbering: 'whole' });
  test('a check-in is submitted at once and keeps its number', () => {
    const history = begin(whole);
    expect([history.labels, history.inForce, history.version('1').state]).toEqual([
      ['1'],
      null,
      'inApproval',
    ]);
    history.do(say(history, approver));
    expect([history.labels, history.inForce]).toEqual([['1'], '1']);
    change(history, 'b', 'major');
    expect([history.inForce, history.version('2').state]).toEqual(['1', 'inApproval']);
    history.do(say(history, approver));
    expect([history.inForce, history.version('1').standing]).toEqual(['2', 'superseded']);
  });
  test('it is refused up front, the working copy untouched, where the holder wants to keep it out or nobody could decide', () => {
    const history = begin(whole);
    history.do(say(history, approver));
    hold(history);
    expect(code(put(history, 'b', 'major', true))).toBe('kept-in-approval');
    const alone = new History(whole, author, { approvers: [actor('other', 'author')] });
    expect(() => alone.create(content('a'), fields)).toThrow('no-approver');
  });
  test('a rejected number stays; called back and submitted again it keeps it', () => {
    const history = begin(whole);
    history.do(say(history, approver, 'reject')).do(ask(history));
    history.do(callBack(history.state, author, { comment: '' }, history.now));
    expect([history.version('1').state, history.approval]).toEqual(['draft', null]);
    history.do(ask(history)).do(say(history, approver));
    expect([history.labels, history.inForce]).toEqual([['1'], '1']);
  });
});

describe('asking for publication', () => {
  test('level major makes the next draft and submits it in the same act', () => {
    const history = change(begin(on()), 'b', 'major');
    expect([history.labels, history.version('0.2').state, waits(history)]).toEqual([
      ['0.1', '0.2'],
      'inApproval',
      ['approver'],
    ]);
  });
  test('a document in approval is not changed: no check-out, restore, field change or second submission', () => {
    const history = begin(on());
    history.do(ask(history));
    const { state, now } = history;
    for (const outcome of [
      checkOut(state, author, { reason: null, until: null }, now),
      ask(history),
      changeFields(state, author, { fields: { title: 'x' }, comment: '' }, now),
      restore(
        state,
        author,
        { from: { ...state.latest, id: 'earlier' }, level: 'minor', comment: '', fields: false },
        now,
      ),
      publish(state, author, { version: state.latest, comment: '', inForceFrom: null }, now),
    ])
      expect(code(outcome)).toBe('in-approval');
  });
  test('called back by submitter, owner or controller only', () => {
    const history = begin(on());
    history.do(ask(history));
    const tried = (by: Actor): string | null =>
      code(callBack(history.state, by, { comment: '' }, history.now));
    expect(tried(approver2)).toBe('not-yours-to-call-back');
    // Who sees nothing of it learns at most that a change is being prepared.
    expect(tried(actor('other', 'author'))).toBe('change-being-prepared');
    expect(tried(actor('other', 'reader'))).toBe('not-in-approval');
    expect(code(callBack(history.state, controller, { comment: '' }, history.now))).toBeNull();
    history.do(callBack(history.state, author, { comment: '' }, history.now));
    expect(history.version('0.1').state).toBe('draft');
    expect(code(callBack(history.state, author, { comment: '' }, history.now))).toBe('not-in-approval');
  });
  test('decided only by those asked, about the version asked about', () => {
    const history = change(begin(on()), 'b');
    history.do(ask(history));
    expect(code(say(history, author))).toBe('not-asked');
    expect(code(say(history, controller))).toBe('not-asked');
    expect(
      code(
        decide(
          history.state,
          approver,
          { version: history.version('0.1'), decision: 'approve', comment: '' },
          history.now,
        ),
      ),
    ).toBe('other-version');
  });
  test('authors approve their own only where the Rulebook says so', () => {
    const both = actor('author', 'author', 'approver');
    const own = (authorMayApprove: boolean): History =>
      new History(on({ authorMayApprove }), both, { approvers: [both] }).create(content('a'), fields);
    expect(code(ask(own(false)))).toBe('no-approver');
    const history = own(true);
    history.do(ask(history)).do(say(history, both));
    expect(history.inForce).toBe('1.0');
  });
  test('with sight for the team only, an approver outside it cannot be asked', () => {
    expect(code(ask(begin(on({}, { sight: { inApproval: [] } }))))).toBe('no-approver');
  });
  test('refused where the library has no approval', () => expect(code(ask(begin()))).toBe('approval-off'));
});

describe('the moment of coming into force', () => {
  const day = 86_400_000;
  test('given at submission: scheduled until then, the one before stays in force', () => {
    const history = begin(on({ mode: 'anyOne' }), 'a', 'major');
    history.do(say(history, approver));
    change(history, 'b');
    const monday = new Date(history.now.getTime() + 3 * day);
    expect(code(ask(history, author, new Date(history.now.getTime() - day)))).toBe('moment-past');
    history.do(ask(history, author, monday)).do(say(history, approver));
    expect([history.inForce, history.version('2.0').standing]).toEqual(['1.0', 'scheduled']);
    history.pass(4 * day);
    expect(history.inForce).toBe('2.0');
    expect(history.version('2.0').inForceFrom).toEqual(monday);
    expect(history.version('1.0').supersededAt).toEqual(monday);
  });
  test('one published meanwhile takes the place of an earlier one that was still scheduled', () => {
    const history = begin({}, 'a', 'major');
    change(history, 'b');
    history.do(
      publish(
        history.state,
        author,
        {
          version: history.state.latest,
          comment: '',
          inForceFrom: new Date(history.now.getTime() + 3 * day),
        },
        history.now,
      ),
    );
    change(history, 'c', 'major');
    expect([history.inForce, history.version('2.0').standing]).toEqual(['3.0', 'superseded']);
    history.pass(5 * day);
    expect(history.inForce).toBe('3.0');
  });
  test('of two scheduled the later one governs once its moment has come, whichever was made first', () => {
    const history = begin({}, 'a', 'major');
    for (const [words, days] of [
      ['b', 5],
      ['c', 2],
    ] as const) {
      change(history, words);
      history.do(
        publish(
          history.state,
          author,
          {
            version: history.state.latest,
            comment: '',
            inForceFrom: new Date(history.now.getTime() + days * day),
          },
          history.now,
        ),
      );
    }
    history.pass(3 * day);
    expect([history.inForce, history.version('2.0').standing]).toEqual(['3.0', 'superseded']);
    history.pass(5 * day);
    expect(history.inForce).toBe('3.0');
  });
});

describe('what an approval is said to come to is what then happens', () => {
  const later = new Date('2030-01-01T06:00:00Z');
  test.each<[string, RulebookChoices['approval'], Date | null]>([
    ['in turn', { mode: 'serial' }, null],
    ['together', { mode: 'together' }, null],
    ['one is enough', { mode: 'anyOne' }, null],
    ['left to the owner', { mode: 'serial', publishing: 'byOwner' }, null],
    ['in force later', { mode: 'together' }, later],
  ])('%s', (_, approval, inForceFrom) => {
    const history = begin(on(approval));
    history.do(ask(history, author, inForceFrom));
    while (history.approval) {
      const [first] = waits(history);
      const who = first === 'approver' ? approver : approver2;
      const outlook = ifApproved(history.state, who, history.now);
      const known = new Set(history.labels);
      history.do(say(history, who));
      expect(outlook?.asked.map(({ personId }) => personId)).toEqual(waits(history));
      const published = history.labels
        .filter((label) => !known.has(label))
        .map((label) => history.version(label));
      expect(outlook?.published ?? null).toEqual(
        published[0]
          ? { label: '1.0', inForceFrom: published[0].standing === 'scheduled' ? later : null }
          : null,
      );
    }
    expect(history.version('0.1').state).toBe(approval?.publishing === 'byOwner' ? 'approved' : 'draft');
  });

  test('nobody is told what they cannot do', () => {
    const history = begin(on({ mode: 'serial' }));
    expect(ifApproved(history.state, approver, history.now)).toBeNull();
    history.do(ask(history));
    expect(ifApproved(history.state, approver2, history.now)).toBeNull();
    expect(ifApproved(history.state, reader, history.now)).toBeNull();
  });

  test('whoever would see the latest version once it is in force sees it when it is', () => {
    const history = begin();
    const sees = (who: Actor, version = history.state.latest): boolean =>
      explainVersion(history.state, who, version).sees;
    const would = [reader, approver, author, controller].map((who) =>
      sees(who, asInForce(history.state.latest)),
    );
    expect(sees(reader)).toBe(false);
    history.do(
      publish(
        history.state,
        author,
        { version: history.state.latest, comment: '', inForceFrom: null },
        history.now,
      ),
    );
    expect(would).toEqual([reader, approver, author, controller].map((who) => sees(who)));
    expect(would).toEqual([true, true, true, true]);
  });
});
