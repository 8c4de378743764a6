import fc from 'fast-check';
import { paceOf, presetsFor } from '../ruleChange/pace.ts';
import { before, durationWords, parseDuration } from '../rules/duration.ts';
import { isProtected, type Keepable, keepable, limitsAt, versionsToThin } from '../rules/keeping.ts';
import type { Rulebook, RulebookChoices } from '../rules/rulebook.ts';
import { change, code, publishLatest, restoreFrom } from '../testing/acts.ts';
import { author, begin, content, controller, reader } from '../testing/people.ts';
import { checkOut } from './checkOut.ts';
import type { History } from './history.ts';
import { protectionOf } from './planThinning.ts';
import { recover } from './recover.ts';
import { shelter } from './shelter.ts';
import { thin } from './thin.ts';

const day = 86_400_000;

describe('worked examples of docs/rules.md', () => {
  test('1: whole, published 2: of 1 to 6 the first three go; restoring 4 makes 7 with its content, and 4 goes, its row still there', () => {
    const history = begin({ numbering: 'whole', keep: { published: 2 } }, 'text 1');
    for (const number of [2, 3, 4, 5, 6]) change(history, `text ${number}`, 'major');
    expect(history.kept).toEqual(['4', '5', '6']);
    history.do(restoreFrom(history, '4', 'major'));
    expect(history.kept).toEqual(['5', '6', '7']);
    expect(history.version('7').content).toEqual(content('text 4'));
    expect(history.version('4')).toMatchObject({
      comment: 'about text 4',
      content: content('text 4'),
      thinned: { why: 'Over the limit of 2 published versions besides what is in force.' },
    });
    expect(history.labels).toEqual(['1', '2', '3', '4', '5', '6', '7']);
  });

  function upToFive(keep: RulebookChoices['keep']): History {
    const history = begin({ keep }, 'a', 'major');
    for (const words of ['b', 'c', 'd']) change(history, words, 'major');
    for (const words of ['e', 'f']) change(history, words, 'minor');
    return publishLatest(history);
  }

  const everyPublished = ['1.0', '2.0', '3.0', '4.0', '5.0'];

  test('7: untilPublished: publishing 5.0 thins 4.1 and 4.2; 4.0 follows its own rule', () => {
    const drafts = { stay: 'untilPublished' };
    expect(upToFive({ drafts }).kept).toEqual(everyPublished);
    expect(upToFive({ drafts, published: 0 }).kept).toEqual(['5.0']);
  });

  test('7: withTheirVersion, newest 1: publishing 5.0 thins 4.1; 4.2 stays until 5.0 goes, and goes with it', () => {
    const history = upToFive({ published: 1, drafts: { stay: 'withTheirVersion', newest: 1 } });
    expect(history.kept).toEqual(['4.0', '4.2', '5.0']);
    expect(history.version('4.1').thinned?.why).toBe('Over the limit of 1 draft for each published version.');
    change(history, 'g', 'major');
    expect(history.kept).toEqual(['4.2', '5.0', '6.0']);
    change(history, 'h', 'major');
    expect(history.kept).toEqual(['6.0', '7.0']);
    expect(history.version('4.2').thinned?.why).toBe(
      'Its published version was thinned; its drafts go with it.',
    );
  });

  test('7: P30D: 4.1 and 4.2 go 30 days after 5.0, not before', () => {
    const history = upToFive({ drafts: { stay: 'P30D' } });
    expect(history.kept).toEqual(['1.0', '2.0', '3.0', '4.0', '4.1', '4.2', '5.0']);
    history.pass(29 * day);
    expect(history.thin()).toEqual([]);
    history.pass(day);
    expect(history.thin()).toEqual(['4.1', '4.2']);
  });

  test('7: sheltering 5.0, or recovering it, keeps 4.2 where it still is', () => {
    const rules = { published: 0, drafts: { stay: 'withTheirVersion', newest: 1 } };
    const of = (history: History) => ({ version: history.version('5.0'), reason: 'Asked for' });
    const sheltered = upToFive(rules);
    sheltered.do(shelter(sheltered.state, controller, { ...of(sheltered), sheltered: true }));
    expect(change(sheltered, 'g', 'major').kept).toEqual(['4.2', '5.0', '6.0']);

    const recovered = upToFive({ ...rules, spareYoungerThan: 'P10D' });
    recovered.pass(8 * day);
    change(recovered, 'g', 'major');
    recovered.do(thin(recovered.state, controller, of(recovered), recovered.now));
    recovered.do(recover(recovered.state, controller, of(recovered), recovered.now));
    recovered.pass(20 * day);
    recovered.thin();
    expect(recovered.kept).toEqual(['4.2', '5.0', '6.0']);
  });

  const published = (count: number): Keepable[] =>
    Array.from({ length: count }, (_, index) => ({
      id: `${index}`,
      state: 'published',
      standing: index === count - 1 ? 'inForce' : 'superseded',
      madeAt: index,
      publishedAt: index,
      supersededAt: index + 1,
      sheltered: false,
      thinned: false,
    }));
  const kept = (count: number, keep: Partial<Rulebook['keep']>): number => {
    const rules = {
      numbering: 'stepped' as const,
      keep: {
        published: null,
        drafts: { stay: 'all', newest: null },
        spareYoungerThan: null,
        ...keep,
      },
    };
    return (
      count -
      versionsToThin(published(count), { latestId: `${count - 1}`, baseIds: [] }, limitsAt(rules, new Date()))
        .length
    );
  };
  test('9: 12 documents of 300 published versions: all kept 3,600 contents, published 120 keeps 1,452', () => {
    expect(12 * kept(300, {})).toBe(3600);
    expect(12 * kept(300, { published: 120 })).toBe(1452);
  });
});

describe('what stays whatever the limits say', () => {
  const tight = { published: 0, drafts: { stay: 'untilPublished', newest: null } };
  test('the base of a check-out, until it is checked in', () => {
    const history = change(begin({}, 'a', 'major'), 'b', 'major');
    history.do(checkOut(history.state, author, { reason: null, until: null }, history.now));
    history.rules = { ...history.rules, keep: { ...history.rules.keep, ...tight } };
    expect(protectionOf(history.state).baseIds).toEqual([history.version('2.0').id]);
    expect(history.thin()).toEqual(['1.0']);
  });
  test('sheltered versions, which use up no place', () => {
    const history = change(change(begin({}, 'a', 'major'), 'b', 'major'), 'c', 'major');
    history.do(
      shelter(history.state, controller, {
        version: history.version('1.0'),
        reason: 'Accident report names it',
        sheltered: true,
      }),
    );
    history.rules = { ...history.rules, keep: { ...history.rules.keep, published: 1 } };
    change(history, 'd', 'major');
    expect(history.kept).toEqual(['1.0', '3.0', '4.0']);
  });
  test('a draft younger than the duration; a published version superseded since then, however old', () => {
    const history = begin({ keep: { ...tight, spareYoungerThan: 'P90D' } }, 'a', 'major');
    change(history, 'b', 'minor').pass(200 * day);
    publishLatest(history);
    expect(history.kept).toEqual(['1.0', '2.0']);
    history.pass(89 * day);
    expect(history.thin()).toEqual([]);
    history.pass(2 * day);
    expect(history.thin()).toEqual(['1.0']);
  });
  test('the open group of drafts', () => {
    const history = begin({ keep: { drafts: { stay: 'untilPublished', newest: 1 } } }, 'a', 'major');
    for (const words of ['b', 'c', 'd']) change(history, words, 'minor');
    expect(history.kept).toEqual(['1.0', '1.1', '1.2', '1.3']);
  });
});

test('none: what is replaced goes to the shelf; the current version stays', () => {
  const history = change(change(begin({ numbering: 'none' }, 'a'), 'b', 'major'), 'c', 'major');
  expect(history.kept).toEqual(['u3']);
  expect(history.version('u1').thinned?.until).toEqual(
    new Date(history.version('u2').at.getTime() + 30 * day),
  );
});

describe('by hand', () => {
  const history = (): History =>
    change(change(begin({ graceDays: 10 }, 'a', 'major'), 'b', 'minor'), 'c', 'minor');
  const by = (one: History, label: string, who = controller, reason = 'Holds a wrong drawing') =>
    thin(one.state, who, { version: one.version(label), reason }, one.now);
  test('authors thin their own drafts, controllers any that is not in use, with a reason', () => {
    const one = history();
    expect(code(by(one, '1.1', author))).toBeNull();
    expect(code(by(one, '1.0'))).toBe('in-use');
    expect(code(by(one, '1.2'))).toBe('in-use');
    expect(code(by(one, '1.1', { ...author, id: 'another' }))).toBe('not-own-draft');
    expect(code(by(one, '1.1', reader))).toBe('role-missing');
    expect(code(by(one, '1.1', controller, '  '))).toBe('reason-missing');
    one.do(by(one, '1.1'));
    expect(one.version('1.1').thinned).toMatchObject({ why: 'By hand: Holds a wrong drawing' });
    expect(code(by(one, '1.1'))).toBe('content-thinned');
  });
  test('recovered within the grace days by a controller, and sheltered then', () => {
    const one = history();
    one.do(by(one, '1.1'));
    const back = (who = controller) =>
      recover(one.state, who, { version: one.version('1.1'), reason: 'Asked for by the inspector' }, one.now);
    expect(code(back(author))).toBe('role-missing');
    one.pass(9 * day).do(back());
    expect(one.version('1.1')).toMatchObject({ thinned: null, sheltered: true });
    expect(code(back())).toBe('not-thinned');
    expect(code(by(one, '1.1'))).toBe('in-use');
    one
      .do(
        shelter(one.state, controller, {
          version: one.version('1.1'),
          reason: 'No longer',
          sheltered: false,
        }),
      )
      .do(by(one, '1.1'));
    one.pass(11 * day);
    expect(code(back())).toBe('off-the-shelf');
  });
});

describe('durations (ISO 8601-1:2019, 5.5.2)', () => {
  test.each([
    ['P90D', '90 days'],
    ['P1Y6M', '1 year 6 months'],
    ['PT12H', '12 hours'],
    ['P2W', '2 weeks'],
    ['P1DT30M', '1 day 30 minutes'],
    ['P0D', 'no time'],
  ])('%s is %s', (text, words) => {
    const duration = parseDuration(text);
    expect(duration && durationWords(duration)).toBe(words);
  });
  test.each(['', 'P', 'PT', 'P1', '90D', 'P-1D', 'P1.5D', 'P1D2', 'P1DT', 'p1d', '1 year', 'P1M1Y'])(
    '%j is none',
    (text) => expect(parseDuration(text)).toBeNull(),
  );
  test('months are those of the calendar', () => {
    const month = parseDuration('P1M');
    expect(month && before(new Date('2026-03-31T10:00:00Z'), month)).toEqual(
      new Date('2026-02-28T10:00:00Z'),
    );
    expect(month && before(new Date('2028-03-30T10:00:00Z'), month)).toEqual(
      new Date('2028-02-29T10:00:00Z'),
    );
    const long = parseDuration('P1Y2M3DT4H');
    expect(long && before(new Date('2026-01-10T05:00:00Z'), long)).toEqual(new Date('2024-11-07T01:00:00Z'));
  });
});

test('the pace of a library counts the publications of a year; presets are made of the busiest', () => {
  const now = new Date('2026-06-01T00:00:00Z');
  const ago = (days: number): number => now.getTime() - days * day;
  const pace = paceOf([[ago(1), ago(40), ago(364), ago(366)], [ago(500)], [ago(3)]], now);
  expect(pace).toEqual({ documents: 3, publications: 4, busiest: 3, median: 1 });
  expect(presetsFor(pace).map(({ published }) => published)).toEqual([3, 6, 9]);
  expect(presetsFor(paceOf([], now))).toEqual([]);
});

describe('properties, over random histories and limits', () => {
  const keepable_ = fc.record({
    state: fc.constantFrom(
      'draft' as const,
      'rejected' as const,
      'approved' as const,
      'inApproval' as const,
      'published' as const,
      'published' as const,
      'withdrawn' as const,
    ),
    scheduled: fc.boolean(),
    sheltered: fc.boolean(),
    thinned: fc.boolean(),
    madeAt: fc.integer({ min: 0, max: 100 }),
    publishedAt: fc.option(fc.integer({ min: 0, max: 100 })),
    supersededAt: fc.option(fc.integer({ min: 0, max: 100 })),
  });
  const versions = fc.array(keepable_, { minLength: 1, maxLength: 40 }).map((list) =>
    list.map((one, index): Keepable => {
      const lastPublished = list.map(({ state }) => state).lastIndexOf('published');
      const { scheduled, ...rest } = one;
      const newest = scheduled ? 'scheduled' : 'inForce';
      const standing = index === lastPublished ? newest : 'superseded';
      return {
        ...rest,
        id: `${index}`,
        standing: one.state === 'published' ? standing : null,
      };
    }),
  );
  const count = fc.option(fc.nat({ max: 6 }));
  const limits = fc.record({
    published: count,
    draftsFollow: fc.boolean(),
    draftsGoBefore: fc.option(fc.integer({ min: 0, max: 100 })),
    newestDrafts: fc.option(fc.integer({ min: 1, max: 5 })),
    spareAfter: fc.option(fc.integer({ min: 0, max: 100 })),
  });
  const base = fc.nat({ max: 39 });
  const going = (list: readonly Keepable[], at: number, by: Parameters<typeof versionsToThin>[2]) =>
    versionsToThin(list, { latestId: `${list.length - 1}`, baseIds: [`${at}`] }, by).map(({ id }) => id);

  test('protected versions are never thinned, nor any twice', () => {
    fc.assert(
      fc.property(versions, base, limits, (list, at, by) => {
        for (const id of going(list, at, by)) {
          const version = list[Number(id)] as Keepable;
          expect(version.thinned).toBe(false);
          expect(
            isProtected(version, { latestId: `${list.length - 1}`, baseIds: [`${at}`] }, by.spareAfter),
          ).toBe(false);
          expect(
            version.sheltered ||
              version.standing === 'inForce' ||
              version.standing === 'scheduled' ||
              version.state === 'approved' ||
              version.state === 'inApproval',
          ).toBe(false);
          expect(id === `${at}` || id === `${list.length - 1}`).toBe(false);
        }
      }),
    );
  });
  test('thinning is idempotent', () => {
    fc.assert(
      fc.property(versions, base, limits, (list, at, by) => {
        const gone = new Set(going(list, at, by));
        expect(
          going(
            list.map((version) => (gone.has(version.id) ? { ...version, thinned: true } : version)),
            at,
            by,
          ),
        ).toEqual([]);
      }),
    );
  });
  test('tighter limits never keep more', () => {
    const tighter = (loose: number | null, by: number, least: number): number | null => {
      if (loose === null) return by === 0 ? null : by;
      return Math.max(least, loose - by);
    };
    const later = (moment: number | null, by: number): number | null =>
      moment === null ? null : moment + by;
    fc.assert(
      fc.property(
        versions,
        base,
        limits,
        fc.tuple(fc.nat(3), fc.nat(50), fc.nat(3), fc.nat(50), fc.boolean()),
        (list, at, by, [p, o, k, s, follow]) => {
          const tight = {
            published: tighter(by.published, p, 0),
            draftsFollow: by.draftsFollow || follow,
            draftsGoBefore: later(by.draftsGoBefore, o),
            newestDrafts: tighter(by.newestDrafts, k, 1),
            spareAfter: by.spareAfter === null ? null : by.spareAfter + s,
          };
          const goneBefore = going(list, at, by);
          // A tighter limit may let a version go by another rule, but lets go of every one that went before.
          expect(going(list, at, tight)).toEqual(expect.arrayContaining(goneBefore));
        },
      ),
    );
  });
  test('the newest N published stay, whatever else holds', () => {
    fc.assert(
      fc.property(versions, base, fc.nat({ max: 6 }), (list, at, published) => {
        const gone = new Set(
          going(list, at, {
            published,
            draftsFollow: false,
            draftsGoBefore: null,
            newestDrafts: null,
            spareAfter: null,
          }),
        );
        const others = list.filter(
          (version) =>
            (version.state === 'published' || version.state === 'withdrawn') &&
            !version.thinned &&
            version.standing !== 'inForce' &&
            version.standing !== 'scheduled' &&
            !version.sheltered &&
            version.id !== `${at}` &&
            version.id !== `${list.length - 1}`,
        );
        expect(others.slice(Math.max(0, others.length - published)).some(({ id }) => gone.has(id))).toBe(
          false,
        );
        expect(others.slice(0, Math.max(0, others.length - published)).every(({ id }) => gone.has(id))).toBe(
          true,
        );
      }),
    );
  });
});

test('a version looks to keeping as it is', () => {
  const history = begin({}, 'a', 'major');
  expect(keepable(history.version('1.0'))).toEqual({
    id: 'v1',
    state: 'published',
    standing: 'inForce',
    madeAt: history.version('1.0').at.getTime(),
    publishedAt: history.version('1.0').at.getTime(),
    supersededAt: null,
    sheltered: false,
    thinned: false,
  });
});
