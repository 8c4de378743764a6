import { isRefusal } from '../document/refusal.ts';
import { openEra } from '../ruleChange/openEra.ts';
import { formatLabel, parseLabel } from '../rules/numbering.ts';
import { textFell } from '../rules/textFall.ts';
import { change, code, hold, publishLatest, restoreFrom } from '../testing/acts.ts';
import { approver, author, begin, content, controller, reader } from '../testing/people.ts';
import { checkIn } from './checkIn.ts';
import { decide } from './decide.ts';
import type { History } from './history.ts';
import { publish } from './publish.ts';
import { explainVersion } from './refusals.ts';
import { saveWorkingCopy } from './save.ts';
import type { Outcome } from './state.ts';
import { upload } from './upload.ts';

test('3, without renumbering: at 7.2, restoring 6.0 gives 7.3, not 6.0', () => {
  const history = begin({}, 'a', 'major');
  for (const words of ['b', 'c', 'd', 'e', 'f', 'g']) change(history, words, 'major');
  for (const words of ['h', 'i']) change(history, words, 'minor');
  history.do(restoreFrom(history, '6.0', 'minor'));
  expect(history.labels.at(-1)).toBe('7.3');
  expect(history.version('7.3').content).toEqual(content('f'));
  publishLatest(history);
  expect([history.labels.at(-1), history.inForce]).toEqual(['8.0', '8.0']);
});

test('after stepped 8.2, whole goes on at 9 and the open draft can be published as 9', () => {
  const history = change(change(begin({}, 'a', 'major'), 'b', 'minor'), 'c', 'minor');
  history.rules = { ...history.rules, numbering: 'whole' };
  publishLatest(history);
  expect([history.labels, history.inForce]).toEqual([['1.0', '1.1', '1.2', '2'], '2']);
  change(history, 'd', 'major');
  expect(history.inForce).toBe('3');
});

describe('13: none to stepped', () => {
  const none = (): History => change(begin({ numbering: 'none' }, 'a'), 'b', 'major');
  const leave = (history: History, numbering: 'stepped' | 'whole' = 'stepped'): History => {
    const decision = openEra(history.state, controller.id, numbering, history.now);
    history.rules = { ...history.rules, numbering };
    return decision ? history.do(decision) : history;
  };
  const readerSees = (history: History): string[] =>
    history.versions
      .filter((version) => explainVersion(history.state, reader, version).sees)
      .map((version) => history.label(version));

  test('every document at 1.0; a reader sees 1.0 while 1.2 is a draft, 2.0 while 2.1 is', () => {
    const history = leave(none());
    expect([history.labels, history.inForce]).toEqual([['1~u1', '1~u2', '1.0'], '1.0']);
    expect(history.version('1.0')).toMatchObject({
      content: content('b'),
      origin: { kind: 'renumber', from: 'v2' },
      era: 2,
    });
    change(change(history, 'c', 'minor'), 'd', 'minor');
    expect(readerSees(history)).toEqual(['1.0']);
    change(publishLatest(history), 'e', 'minor');
    expect(history.labels.at(-1)).toBe('2.1');
    expect(readerSees(history)).toEqual(['2.0']);
  });
  test('to whole: at 1; what has a number already opens no era', () => {
    const history = leave(none(), 'whole');
    expect([history.labels.at(-1), history.inForce]).toEqual(['1', '1']);
    expect(openEra(history.state, controller.id, 'whole', history.now)).toBeNull();
  });
  test('a newer content in approval comes along as a draft, its run ended; a check-out moves to it', () => {
    const history = begin({ numbering: 'none', approval: { on: true, mode: 'anyOne' } }, 'a');
    expect(history.version('u1').state).toBe('inApproval');
    leave(history);
    expect([history.labels, history.approval, history.version('0.1').state, history.inForce]).toEqual([
      ['1~u1', '0.1'],
      null,
      'draft',
      null,
    ]);
    const held = hold(none());
    leave(held);
    expect(held.state.custody?.base.id).toBe(held.state.latest.id);
    held.do(
      checkIn(
        held.state,
        author,
        {
          level: 'minor',
          comment: 'x',
          keepCheckedOut: false,
          confirm: [],
          content: content('c'),
          keepFileName: false,
        },
        held.now,
      ),
    );
    expect(held.labels.at(-1)).toBe('1.1');
  });
  test('a scheduled content stays scheduled, and comes into force under its new number', () => {
    const history = begin(
      { numbering: 'none', approval: { on: true, mode: 'anyOne', publishing: 'byOwner' } },
      'a',
    );
    history.do(
      decide(
        history.state,
        approver,
        { version: history.state.latest, decision: 'approve', comment: '' },
        history.now,
      ),
    );
    history.do(
      publish(
        history.state,
        author,
        {
          version: history.state.latest,
          comment: '',
          inForceFrom: new Date(history.now.getTime() + 86_400_000),
        },
        history.now,
      ),
    );
    leave(history);
    expect([history.labels, history.version('1.0').standing]).toEqual([['1~u1', '1.0'], 'scheduled']);
    history.pass(2 * 86_400_000);
    expect([history.inForce, history.version('1~u1').standing]).toEqual(['1.0', 'superseded']);
  });
});

test('14: a text that falls to under half of the one before is flagged; exactly half is not', () => {
  expect([
    textFell(49, 100),
    textFell(50, 100),
    textFell(0, 1),
    textFell(0, 0),
    textFell(null, 100),
    textFell(10, null),
  ]).toEqual([true, false, true, false, false, false]);
});

describe('custody optional', () => {
  const uploaded = (
    history: History,
    words: string,
    basedOn = history.state.latest,
    more: object = {},
  ): Outcome =>
    upload(
      history.state,
      author,
      {
        level: 'minor',
        comment: words,
        confirm: [],
        content: content(words),
        keepFileName: false,
        basedOn,
        ...more,
      },
      history.now,
    );
  test('a new version without a check-out, based on the latest', () => {
    const history = begin({ custody: 'optional' });
    const stale = history.state.latest;
    history.do(uploaded(history, 'b'));
    expect(history.labels).toEqual(['0.1', '0.2']);
    const refused = uploaded(history, 'c', stale);
    expect([code(refused), isRefusal(refused) && refused.facts]).toEqual([
      'stale-base',
      { basedOn: '0.1', latest: '0.2' },
    ]);
    expect(code(uploaded(history, 'b'))).toBe('same-bytes');
    expect(code(uploaded(history, 'x', undefined, { content: content('x', 'other.docx') }))).toBe(
      'other-name',
    );
  });
  test('not while somebody holds it, nor where custody is required', () => {
    expect(code(uploaded(hold(begin({ custody: 'optional' })), 'b'))).toBe('held-by-you');
    expect(code(uploaded(begin(), 'b'))).toBe('custody-required');
    expect(
      code(
        upload(
          begin({ custody: 'optional' }).state,
          approver,
          {
            level: 'minor',
            comment: 'x',
            confirm: [],
            content: content('x'),
            keepFileName: false,
            basedOn: begin().state.latest,
          },
          new Date(),
        ),
      ),
    ).toBe('role-missing');
  });
});

test('saves as drafts: every save is the next draft, and the base moves to it', () => {
  const history = hold(begin({ saves: 'drafts' }));
  for (const words of ['b', 'c'])
    history.do(saveWorkingCopy(history.state, author, { content: content(words) }, history.now));
  expect(history.labels).toEqual(['0.1', '0.2', '0.3']);
  expect(history.state.custody).toMatchObject({
    saves: 0,
    workingCopy: null,
    base: { id: 'v3', origin: { kind: 'save', from: 'v2' } },
  });
});

test('a full library refuses new content, naming what it keeps; it still restores and publishes', () => {
  const history = change(begin({ allowanceBytes: 12 }, 'aaaa'), 'bbbb', 'minor');
  hold(history);
  const refused = checkIn(
    history.state,
    author,
    {
      level: 'minor',
      comment: 'x',
      keepCheckedOut: false,
      confirm: [],
      content: content('ccccc'),
      keepFileName: false,
    },
    history.now,
  );
  expect(isRefusal(refused) && [refused.code, refused.facts]).toEqual([
    'library-full',
    { bytesKept: 8, allowanceBytes: 12, size: 5 },
  ]);
  publishLatest(history);
  expect(history.inForce).toBe('1.0');
});

test.each([
  ['8.1', null, 8, 1],
  ['2~3.0', 2, 3, 0],
  ['8', null, 8, null],
  ['u3', null, 3, null],
  ['1~u12', 1, 12, null],
])('%s names a version', (text, era, major, minor) => {
  expect(parseLabel(text)).toEqual({ era, major, minor });
});
test.each(['u', 'u0', 'u1.2', '~u1', '1~', '1.2.3', '-1', '01', 'U1'])('%s names none', (text) =>
  expect(parseLabel(text)).toBeNull(),
);
test('versions without a number are named by their place', () => {
  expect(formatLabel({ era: 1, major: 3, minor: 0, numbering: 'none' }, 2)).toBe('1~u3');
});
