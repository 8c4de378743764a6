import fc from 'fast-check';
import { isRefusal } from '../document/refusal.ts';
import type { Version } from '../document/version.ts';
import { compareNumbers, formatLabel } from '../rules/numbering.ts';
import { change, code, into, publishLatest, restoreFrom } from '../testing/acts.ts';
import { actor, author, begin, content } from '../testing/people.ts';
import { changeFields, type ChangeFields } from './changeFields.ts';
import { checkIn, type CheckIn } from './checkIn.ts';
import { checkOut } from './checkOut.ts';
import { giveBack } from './giveBack.ts';
import type { History } from './history.ts';
import { prolong } from './prolong.ts';
import { publish } from './publish.ts';
import { restore } from './restore.ts';
import { saveWorkingCopy } from './save.ts';
import type { Outcome } from './state.ts';

const controller = actor('controller', 'controller');
const reader = actor('reader', 'reader');
const hold = { reason: null, until: null };
describe('worked examples of docs/rules.md', () => {
  test('2: at 5.0, restoring 3.0 makes draft 5.1 with its content; published as 6.0, 5.0 untouched and restorable in turn', () => {
    const history = begin({}, 'first');
    for (const major of [1, 2, 3, 4, 5]) change(history, `text ${major}`, 'major');
    expect(history.inForce).toBe('5.0');
    history.do(restoreFrom(history, '3.0', 'minor'));
    expect(history.labels.at(-1)).toBe('5.1');
    expect(history.version('5.1')).toMatchObject({
      state: 'draft',
      standing: null,
      content: content('text 3'),
      origin: { kind: 'restore', from: history.version('3.0').id },
    });
    expect(history.inForce).toBe('5.0');
    const five = { ...history.version('5.0') };
    publishLatest(history);
    expect(history.inForce).toBe('6.0');
    expect(history.version('6.0').content).toEqual(content('text 3'));
    expect(history.version('5.0')).toEqual({
      ...five,
      standing: 'superseded',
      supersededAt: history.version('6.0').at,
    });
    history.do(restoreFrom(history, '5.0', 'minor'));
    expect(history.version('6.1').content).toEqual(content('text 5'));
  });

  test('4: 2.0, minor 2.1, minor 2.2, major 3.0; restoring 2.0 as major gives 4.0', () => {
    const history = begin({}, 'a');
    for (const words of ['one', 'two']) change(history, words, 'major');
    for (const [level, words] of [
      ['minor', 'b'],
      ['minor', 'c'],
      ['major', 'd'],
    ] as const)
      change(history, words, level);
    history.do(restoreFrom(history, '2.0', 'major'));
    expect(history.labels).toEqual(['0.1', '1.0', '2.0', '2.1', '2.2', '3.0', '4.0']);
    expect(history.version('4.0').content).toEqual(content('two'));
    expect(history.inForce).toBe('4.0');
  });

  test('6, without approval: 0.1, 0.2 published as 1.0; 1.1 published as 2.0; 1.0 superseded', () => {
    const history = publishLatest(change(begin({}, 'a'), 'b', 'minor'));
    expect(history.labels).toEqual(['0.1', '0.2', '1.0']);
    publishLatest(change(history, 'c', 'minor'));
    expect(history.labels).toEqual(['0.1', '0.2', '1.0', '1.1', '2.0']);
    expect(history.inForce).toBe('2.0');
    expect(history.version('1.0').standing).toBe('superseded');
    expect(history.version('1.1').state).toBe('draft');
  });

  test('13, stepped: 1.0 stays in force while 1.2 is a draft, 2.0 while 2.1 is', () => {
    const history = begin({}, 'a', 'major');
    change(change(history, 'b', 'minor'), 'c', 'minor');
    expect([history.labels.at(-1), history.inForce]).toEqual(['1.2', '1.0']);
    publishLatest(history);
    change(history, 'd', 'minor');
    expect([history.labels.at(-1), history.inForce]).toEqual(['2.1', '2.0']);
  });

  test('5, its custody: giving back uses up no number; keeping the check-out, then giving back, leaves 8.1 free', () => {
    const history = begin({}, 'a');
    history.do(checkOut(history.state, author, hold, history.now)).do(giveBack(history.state, author));
    expect(history.labels).toEqual(['0.1']);
    history.do(checkOut(history.state, author, hold, history.now));
    history.do(checkIn(history.state, author, into('minor', 'b', { keepCheckedOut: true }), history.now));
    expect(history.state.custody).toMatchObject({ base: { major: 0, minor: 2 }, saves: 0 });
    history
      .do(saveWorkingCopy(history.state, author, { content: content('c') }, history.now))
      .do(giveBack(history.state, author));
    expect(history.labels).toEqual(['0.1', '0.2']);
    expect(history.state.custody).toBeNull();
  });
});

describe('check-out', () => {
  const history = (): History => begin({}, 'a', 'major');

  test('lasts the days of the library, or until the moment named', () => {
    const one = history();
    const at = one.now;
    one.do(checkOut(one.state, author, hold, at));
    expect(one.state.custody?.until).toEqual(new Date(at.getTime() + 5 * 86_400_000));
    const end = new Date(at.getTime() + 7 * 86_400_000);
    one.do(prolong(one.state, author, { until: end }, one.now));
    expect(one.state.custody?.until).toEqual(end);
    expect(code(prolong(one.state, author, { until: at }, one.now))).toBe('until-in-the-past');
  });
  test('of a held document is refused and names the holder', () => {
    const one = history();
    one.do(checkOut(one.state, author, hold, one.now));
    const refusal = checkOut(one.state, controller, hold, one.now);
    expect(refusal).toMatchObject({ code: 'held', facts: { holder: 'AUTHOR' } });
    expect(code(checkOut(one.state, author, hold, one.now))).toBe('held-by-you');
  });
  test('is for authors and controllers', () => {
    for (const role of ['reader', 'auditor', 'approver'] as const) {
      expect(code(checkOut(history().state, actor('x', role), hold, new Date(0)))).toBe('role-missing');
    }
  });
  test('by someone who may not see the latest tells no more than whom to ask', () => {
    const one = begin({ sight: { draft: ['approver'] } }, 'a', 'major', controller);
    one.do(checkOut(one.state, controller, hold, one.now));
    one.do(checkIn(one.state, controller, into('minor', 'b'), one.now));
    expect(checkOut(one.state, author, hold, one.now)).toMatchObject({
      code: 'change-being-prepared',
      reason: 'A change to OP-001 is being prepared. Ask CONTROLLER.',
    });
  });
  test('while in approval is refused', () => {
    const one = history();
    const { state } = one;
    expect(
      code(
        checkOut({ ...state, latest: { ...state.latest, state: 'inApproval' } }, controller, hold, one.now),
      ),
    ).toBe('in-approval');
  });
});

describe('check-in', () => {
  const held = (): History => {
    const one = begin({}, 'a', 'major');
    return one.do(checkOut(one.state, author, hold, one.now));
  };

  test.each<[string, Partial<CheckIn>, string]>([
    ['without a comment', { comment: '  ' }, 'comment-missing'],
    ['with a comment of 4,001 characters', { comment: 'x'.repeat(4001) }, 'comment-too-long'],
    ['of the same bytes', { content: content('a') }, 'same-bytes'],
    ['of the base, nothing having been saved', { content: null }, 'same-bytes'],
    ['under another name', { content: content('b', 'other.docx') }, 'other-name'],
    ['of another type', { content: { ...content('b'), mediaType: 'application/pdf' } }, 'other-type'],
  ])('%s is refused or asked about', (_, more, expected) => {
    const one = held();
    expect(code(checkIn(one.state, author, into('minor', 'b', more), one.now))).toBe(expected);
  });
  test('takes the working copy where no file comes along', () => {
    const one = held();
    one.do(saveWorkingCopy(one.state, author, { content: content('saved') }, one.now));
    one.do(checkIn(one.state, author, into('minor', '', { content: null }), one.now));
    expect(one.state.latest.content).toEqual(content('saved'));
  });
  test('keeps the registered name, or takes the new one once confirmed', () => {
    const other = content('b', 'OP-001 (1).docx');
    const kept = held();
    kept.do(
      checkIn(kept.state, author, into('minor', 'b', { content: other, keepFileName: true }), kept.now),
    );
    expect(kept.state.latest.content.fileName).toBe('op-001.docx');
    const taken = held();
    taken.do(
      checkIn(
        taken.state,
        author,
        into('minor', 'b', { content: other, confirm: ['other-name'] }),
        taken.now,
      ),
    );
    expect(taken.state.latest.content.fileName).toBe('OP-001 (1).docx');
  });
  test('is for the holder, and asks nothing of anybody else', () => {
    const one = held();
    expect(code(checkIn(one.state, controller, into('minor', 'b'), one.now))).toBe('held');
    one.do(giveBack(one.state, author));
    expect(code(checkIn(one.state, author, into('minor', 'b'), one.now))).toBe('not-checked-out');
  });
  test('may go without a comment where the library says so, and over no limit of size', () => {
    const one = begin({ checkInComment: 'optional', maxFileBytes: 5 }, 'a');
    one.do(checkOut(one.state, author, hold, one.now));
    expect(
      code(checkIn(one.state, author, into('minor', 'longer than five', { comment: '' }), one.now)),
    ).toBe('file-too-large');
    one.do(checkIn(one.state, author, into('minor', 'b', { comment: '' }), one.now));
    expect(one.labels).toEqual(['0.1', '0.2']);
  });
  test('of whole numbers knows no minor level and is in force at once', () => {
    const one = begin({ numbering: 'whole' }, 'a');
    one.do(checkOut(one.state, author, hold, one.now));
    expect(code(checkIn(one.state, author, into('minor', 'b'), one.now))).toBe('no-minor-level');
    one.do(checkIn(one.state, author, into('major', 'b'), one.now));
    expect([one.labels, one.inForce]).toEqual([['1', '2'], '2']);
  });
});

describe('publish, restore and fields', () => {
  test('nobody else publishes, restores or changes fields while the document is held', () => {
    const one = begin({}, 'a', 'major');
    change(one, 'b', 'minor').do(checkOut(one.state, author, hold, one.now));
    expect(
      code(
        publish(
          one.state,
          controller,
          { version: one.state.latest, comment: '', inForceFrom: null },
          one.now,
        ),
      ),
    ).toBe('held');
    expect(
      code(
        restore(
          one.state,
          controller,
          { from: one.version('1.0'), level: 'minor', comment: '', fields: false },
          one.now,
        ),
      ),
    ).toBe('held');
    expect(
      code(changeFields(one.state, controller, { fields: { title: 'New' }, comment: '' }, one.now)),
    ).toBe('held');
    expect(code(restoreFrom(one, '1.0', 'minor'))).toBe('held-by-you');
  });
  test('the holder may publish the base, which then moves along', () => {
    const one = begin({}, 'a').do({ changes: [], ledger: { act: 'x', facts: {} } });
    one.do(checkOut(one.state, author, hold, one.now));
    publishLatest(one);
    expect(formatLabel(one.state.custody?.base ?? one.state.latest, 1)).toBe('1.0');
    one.do(checkIn(one.state, author, into('minor', 'b'), one.now));
    expect(one.labels).toEqual(['0.1', '1.0', '1.1']);
  });
  test('only the open draft is published, and only once', () => {
    const one = change(change(begin({}, 'a'), 'b', 'minor'), 'c', 'minor');
    expect(
      code(
        publish(one.state, author, { version: one.version('0.2'), comment: '', inForceFrom: null }, one.now),
      ),
    ).toBe('not-the-latest');
    publishLatest(one);
    expect(
      code(
        publish(one.state, author, { version: one.state.latest, comment: '', inForceFrom: null }, one.now),
      ),
    ).toBe('nothing-to-publish');
  });
  test("a publication without a comment takes the draft's and never names the draft", () => {
    const one = publishLatest(change(begin({}, 'a'), 'b', 'minor'));
    expect(one.version('1.0').comment).toBe('about b');
    one.do(restoreFrom(one, '0.1', 'major'));
    expect(one.version('2.0').comment).not.toMatch(/0\.1/);
  });
  test('restoring the latest version is senseless', () => {
    const one = begin({}, 'a');
    expect(code(restoreFrom(one, '0.1', 'minor'))).toBe('nothing-to-restore');
  });
  test('a field change is a version with the same content; none is refused', () => {
    const one = begin({}, 'a', 'major');
    expect(
      code(
        changeFields(
          one.state,
          author,
          { fields: { title: one.state.latest.fields.title }, comment: '' },
          one.now,
        ),
      ),
    ).toBe('nothing-changed');
    one.do(changeFields(one.state, author, { fields: { title: 'Another title' }, comment: '' }, one.now));
    expect(one.version('1.1')).toMatchObject({
      fields: { title: 'Another title' },
      content: content('a'),
      comment: 'Changed title',
      state: 'draft',
    });
  });
  test('a field can be emptied; what is empty already is no change', () => {
    const one = begin({}, 'a', 'major');
    const change = (fields: ChangeFields['fields']): Outcome =>
      changeFields(one.state, author, { fields, comment: '' }, one.now);
    one.do(change({ type: 'Form', subject: ['Wind'], reviewBy: '2027-01-31' }));
    expect(one.version('1.1')).toMatchObject({
      fields: { type: 'Form', subject: ['Wind'], reviewBy: '2027-01-31' },
    });
    one.do(change({ type: null, subject: [], reviewBy: null }));
    expect(one.version('1.2')).toMatchObject({ comment: 'Changed type, subject, reviewBy' });
    expect(one.version('1.2').fields).toEqual({ title: one.version('1.1').fields.title });
    expect(code(change({ type: null, subject: [], reviewBy: null }))).toBe('nothing-changed');
  });
  test('readers do none of it', () => {
    const one = begin({}, 'a', 'major');
    expect(
      code(
        publish(one.state, reader, { version: one.state.latest, comment: '', inForceFrom: null }, one.now),
      ),
    ).toBe('role-missing');
    expect(
      code(
        restore(
          one.state,
          reader,
          { from: one.state.latest, level: 'minor', comment: '', fields: false },
          one.now,
        ),
      ),
    ).toBe('role-missing');
    expect(code(changeFields(one.state, reader, { fields: { title: 'x' }, comment: '' }, one.now))).toBe(
      'role-missing',
    );
  });
});

test('over random histories numbers only rise, exactly one version is in force, and nothing earlier is rewritten', () => {
  const step = fc.constantFrom(
    'minor',
    'major',
    'publish',
    'restoreMinor',
    'restoreMajor',
    'giveBack',
    'fields',
  );
  fc.assert(
    fc.property(
      fc.constantFrom('stepped' as const, 'whole' as const),
      fc.array(fc.tuple(step, fc.nat()), { maxLength: 40 }),
      (numbering, steps) => {
        const history = begin({ numbering }, 'start');
        for (const [act, random] of steps) {
          const before = history.versions.map(withoutStanding);
          const source = history.versions[random % history.versions.length];
          const outcome =
            source && outcomeOf(history, act, random, history.labels[random % history.labels.length] ?? '');
          if (outcome && !isRefusal(outcome)) history.do(outcome);
          expect(history.versions.slice(0, before.length).map(withoutStanding)).toEqual(before);
        }
        for (const [index, version] of history.versions.entries()) {
          const previous = history.versions[index - 1];
          if (previous) expect(compareNumbers(previous, version)).toBeLessThan(0);
        }
        expect(history.versions.filter(({ standing }) => standing === 'inForce').length).toBe(
          history.versions.some(({ state }) => state === 'published') ? 1 : 0,
        );
      },
    ),
  );
});

/** What nothing later rewrites: all of a version but where it stands. */
const withoutStanding = (version: Version): Version => ({ ...version, standing: null, supersededAt: null });

function outcomeOf(history: History, act: string, random: number, label: string): Outcome {
  switch (act) {
    case 'publish':
      return publish(
        history.state,
        author,
        { version: history.state.latest, comment: '', inForceFrom: null },
        history.now,
      );
    case 'restoreMinor':
      return restoreFrom(history, label, 'minor');
    case 'restoreMajor':
      return restoreFrom(history, label, 'major');
    case 'fields':
      return changeFields(
        history.state,
        author,
        { fields: { title: `Title ${random}` }, comment: '' },
        history.now,
      );
    case 'giveBack':
      if (!history.state.custody) history.do(checkOut(history.state, author, hold, history.now));
      return giveBack(history.state, author);
    default:
      if (!history.state.custody) history.do(checkOut(history.state, author, hold, history.now));
      return checkIn(
        history.state,
        author,
        into(act as 'minor' | 'major', `words ${random}`, { confirm: ['same-bytes'] }),
        history.now,
      );
  }
}
