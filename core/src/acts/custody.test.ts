import { isRefusal } from '../document/refusal.ts';
import type { Actor } from '../rules/roles.ts';
import { code, hold, into } from '../testing/acts.ts';
import { actor, author, begin, content, controller, fields, reader } from '../testing/people.ts';
import { type BringIn, bringIn } from './bringIn.ts';
import { checkIn } from './checkIn.ts';
import { giveBack } from './giveBack.ts';
import { History } from './history.ts';
import { lift } from './lift.ts';
import { saveWorkingCopy } from './save.ts';
import type { Outcome } from './state.ts';
import { thin } from './thin.ts';

const colleague = actor('colleague', 'author');
const save = (history: History, words: string, sitting: string | null = null): History =>
  history.do(saveWorkingCopy(history.state, author, { content: content(words), sitting }, history.now));
const put = (history: History, who: Actor, words: string): History =>
  history.do(checkIn(history.state, who, into('minor', words), history.now));
const bring = (history: History, more: Partial<BringIn> = {}): Outcome =>
  bringIn(
    history.state,
    author,
    {
      level: 'minor',
      comment: 'Brought in',
      confirm: [],
      keepFileName: false,
      content: content('mine'),
      base: history.version('0.1'),
      merged: false,
      ...more,
    },
    history.now,
  );

test('10: a holder goes on leave: lifted with a reason, a colleague checks in, the set-aside copy is brought in merged', () => {
  const history = save(hold(begin()), 'mine');
  expect(code(lift(history.state, colleague, { reason: 'On leave' }))).toBe('role-missing');
  expect(code(lift(history.state, controller, { reason: ' ' }))).toBe('reason-missing');
  history.do(lift(history.state, controller, { reason: 'On leave until Monday' }));
  expect(history.state.custody).toBeNull();
  expect(history.state.setAsideBaseIds).toEqual([history.version('0.1').id]);
  expect(history.notices).toMatchObject([
    { kind: 'lifted', personIds: ['author'], facts: { setAside: 'yes' } },
  ]);
  put(hold(history, colleague), colleague, 'theirs');
  expect(history.labels).toEqual(['0.1', '0.2']);
  const asIs = bring(history);
  expect([code(asIs), isRefusal(asIs) && asIs.facts]).toEqual(['stale-base', { base: '0.1', latest: '0.2' }]);
  history.do(bring(history, { merged: true, content: content('theirs and mine') }));
  expect(history.version('0.3')).toMatchObject({
    state: 'draft',
    origin: { kind: 'merge', from: history.version('0.1').id },
    content: content('theirs and mine'),
  });
});

test('lifting what was not saved sets nothing aside; what is not held, or held by oneself, is not lifted', () => {
  const history = hold(begin());
  history.do(lift(history.state, controller, { reason: 'Wrong document' }));
  expect([history.state.setAsideBaseIds, history.state.custody]).toEqual([[], null]);
  expect(code(lift(history.state, controller, { reason: 'x' }))).toBe('not-checked-out');
  hold(history, controller);
  expect(code(lift(history.state, controller, { reason: 'x' }))).toBe('held-by-you');
});

test('the base of a copy that was set aside is never thinned, by rules or by hand', () => {
  const history = save(hold(begin({ keep: { drafts: { stay: 'untilPublished' } } })), 'mine');
  history.do(lift(history.state, controller, { reason: 'On leave' }));
  put(hold(history, colleague), colleague, 'b');
  history.do(
    checkIn(
      hold(history, colleague).state,
      colleague,
      {
        level: 'major',
        comment: 'c',
        keepCheckedOut: false,
        confirm: [],
        content: content('c'),
        keepFileName: false,
      },
      history.now,
    ),
  );
  expect(history.kept).toEqual(['0.1', '1.0']);
  expect(
    code(thin(history.state, controller, { version: history.version('0.1'), reason: 'x' }, history.now)),
  ).toBe('in-use');
});

describe('bringing in', () => {
  test('a copy of the latest needs no question; a file taken from no version is an import', () => {
    const history = begin();
    history.do(bring(history));
    expect(history.version('0.2').origin).toEqual({ kind: 'checkIn', from: history.version('0.1').id });
    history.do(bring(history, { base: null, content: content('from elsewhere'), level: 'major' }));
    expect(history.version('1.0').origin).toEqual({ kind: 'import', from: history.version('0.2').id });
  });
  test('confirmed, a copy of an earlier version comes in as it is', () => {
    const history = put(hold(begin(), colleague), colleague, 'b');
    history.do(bring(history, { confirm: ['stale-base'] }));
    expect(history.version('0.3').origin).toEqual({ kind: 'checkIn', from: history.version('0.1').id });
  });
  test('refused while held, to readers, the same bytes unless confirmed, too large, without a comment', () => {
    const history = begin({ maxFileBytes: 30 });
    expect(
      code(
        bringIn(
          history.state,
          reader,
          {
            level: 'minor',
            comment: 'x',
            confirm: [],
            keepFileName: false,
            content: content('mine'),
            base: null,
            merged: false,
          },
          history.now,
        ),
      ),
    ).toBe('role-missing');
    expect(code(bring(history, { content: content('first') }))).toBe('same-bytes');
    expect(code(bring(history, { content: content('x'.repeat(31)) }))).toBe('file-too-large');
    expect(code(bring(history, { comment: '' }))).toBe('comment-missing');
    expect(code(bring(history, { level: 'minor', content: content('mine', 'other.docx') }))).toBe(
      'other-name',
    );
    hold(history, colleague);
    expect(code(bring(history))).toBe('held');
  });
});

describe('saves', () => {
  test('saves kept by themselves in one sitting are one step; a save by hand, or another sitting, is the next', () => {
    const history = hold(begin());
    for (const words of ['a', 'ab', 'abc']) save(history, words, 'morning');
    expect([history.state.custody?.saves, history.state.custody?.workingCopy]).toEqual([1, content('abc')]);
    save(history, 'abcd', 'evening');
    save(history, 'abcde');
    save(history, 'abcdef', 'evening');
    expect(history.state.custody?.saves).toBe(4);
    expect(history.ledger.filter((act) => act === 'save')).toHaveLength(4);
    history.do(giveBack(history.state, author));
    expect(history.labels).toEqual(['0.1']);
  });
  test('where saves are drafts, only those by hand are', () => {
    const history = new History({ saves: 'drafts' }, author).create(content('first'), fields);
    save(save(hold(history), 'a', 'morning'), 'ab', 'morning');
    expect(history.labels).toEqual(['0.1']);
    save(history, 'abc');
    expect(history.labels).toEqual(['0.1', '0.2']);
    expect(history.state.custody).toMatchObject({ saves: 0, base: { content: content('abc') } });
  });
});

describe('a file that says which version it was taken from', () => {
  const of = (history: History, label: string, number = 'OP-001') => ({
    number,
    label,
    versionId: history.version(label).id,
    sha256: history.version(label).content.sha256,
  });
  const given = (history: History, more: Partial<Parameters<typeof checkIn>[2]>): Outcome =>
    checkIn(
      history.state,
      author,
      {
        level: 'minor',
        comment: 'x',
        keepCheckedOut: false,
        confirm: [],
        content: content('edited'),
        keepFileName: false,
        ...more,
      },
      history.now,
    );
  test('an earlier version is asked about, naming both; the base, or the draft it was published from, is not', () => {
    const history = put(hold(begin(), colleague), colleague, 'b');
    hold(history);
    const stale = given(history, { taken: of(history, '0.1') });
    expect(stale).toMatchObject({
      kind: 'question',
      code: 'stale-base',
      facts: { base: '0.1', latest: '0.2' },
    });
    expect(code(given(history, { taken: of(history, '0.1'), confirm: ['stale-base'] }))).toBeNull();
    expect(code(given(history, { taken: of(history, '0.2') }))).toBeNull();
    history.do(given(history, { level: 'major' }));
    hold(history);
    const draft = { ...of(history, '1.0'), label: '0.3', versionId: 'the draft' };
    expect(code(given(history, { taken: draft, content: content('again') }))).toBeNull();
  });
  test('another document is asked about; the mark alone is no change', () => {
    const history = hold(begin());
    expect(given(history, { taken: of(history, '0.1', 'OP-099') })).toMatchObject({
      code: 'other-document',
      facts: { taken: 'OP-099 0.1', here: 'OP-001' },
    });
    expect(given(history, { taken: of(history, '0.1'), sameButForMark: true })).toMatchObject({
      code: 'same-bytes',
    });
  });
});
