import {
  draftsSentence,
  isProtected,
  type Keepable,
  type Limits,
  limitsAnything,
  limitsAt,
  publicationOf,
  ruleSentence,
  versionsToThin,
} from './keeping.ts';
import { completeRulebook } from './rulebook.ts';

const version = (id: string, more: Partial<Keepable> = {}): Keepable => ({
  id,
  state: 'draft',
  standing: null,
  madeAt: 0,
  publishedAt: null,
  supersededAt: null,
  sheltered: false,
  thinned: false,
  ...more,
});
const published = (id: string, more: Partial<Keepable> = {}): Keepable =>
  version(id, { state: 'published', standing: 'superseded', publishedAt: 0, ...more });
const none: Limits = {
  published: null,
  draftsFollow: false,
  draftsGoBefore: null,
  newestDrafts: null,
  spareAfter: null,
};
const nobody = { latestId: '', baseIds: [] };

/** What goes, by the rule that lets it: `1 published`. */
const goes = (versions: Keepable[], limits: Partial<Limits>, protection = nobody): string[] =>
  versionsToThin(versions, protection, { ...none, ...limits }).map(({ id, rule }) => `${id} ${rule}`);

describe('nothing thins', () => {
  test.each<[string, Partial<Keepable>]>([
    ['what is sheltered', { sheltered: true }],
    ['what is approved', { state: 'approved' }],
    ['what is in approval', { state: 'inApproval' }],
    ['what is in force', { standing: 'inForce' }],
    ['what is scheduled', { standing: 'scheduled' }],
    ['the latest', { id: 'latest' }],
    ['the base of a check-out', { id: 'base' }],
    ['what was made since', { madeAt: 11 }],
    ['a publication superseded since', { state: 'published', standing: 'superseded', supersededAt: 11 }],
    ['a publication made since, never superseded', { state: 'withdrawn', madeAt: 11 }],
  ])('%s', (_, more) => {
    const protection = { latestId: 'latest', baseIds: ['base'] };
    expect(isProtected(version('1', more), protection, 10)).toBe(true);
    expect(isProtected(version('1'), protection, 10)).toBe(false);
  });
  test('what is as old as the age, or any where there is none, is not spared', () => {
    expect(isProtected(version('1', { madeAt: 10 }), nobody, 10)).toBe(false);
    expect(isProtected(version('1', { madeAt: 1e12 }), nobody, null)).toBe(false);
    const old = published('1', { madeAt: 20, supersededAt: 9 });
    expect(isProtected(old, nobody, 10)).toBe(false);
    expect(isProtected(version('1', { madeAt: 9, supersededAt: 20 }), nobody, 10)).toBe(false);
  });
});

test('the newest publication uses up no place of the limit, a withdrawn one above it does', () => {
  const three = [published('1'), published('2'), published('3')];
  expect(goes(three, { published: 0 })).toEqual(['1 published', '2 published']);
  expect(goes(three, { published: 1 })).toEqual(['1 published']);
  expect(goes(three, {})).toEqual([]);
  const withdrawn = [...three, version('4', { state: 'withdrawn', publishedAt: 0 })];
  expect(goes(withdrawn, { published: 1 })).toEqual(['1 published', '2 published']);
  // What is gone already, or protected, uses up none either.
  expect(goes([published('1'), published('2', { thinned: true }), published('3')], { published: 1 })).toEqual(
    [],
  );
  expect(
    goes([published('1'), published('2', { sheltered: true }), published('3')], { published: 1 }),
  ).toEqual([]);
});

test('drafts go with their version, by its age, or beyond the newest; those in hand stay', () => {
  const drafts = [version('1'), version('2'), version('3'), published('4', { publishedAt: 5 }), version('5')];
  expect(goes(drafts, { newestDrafts: 1 })).toEqual(['1 newestDrafts', '2 newestDrafts']);
  expect(goes(drafts, { draftsGoBefore: 5 })).toEqual(['1 draftsStay', '2 draftsStay', '3 draftsStay']);
  expect(goes(drafts, { draftsGoBefore: 4 })).toEqual([]);
  expect(goes(drafts, { draftsFollow: true })).toEqual([]);
  const gone = drafts.map((one) => (one.id === '4' ? { ...one, thinned: true } : one));
  expect(goes(gone, { draftsFollow: true })).toEqual(['1 draftsStay', '2 draftsStay', '3 draftsStay']);
  expect(goes(gone, {})).toEqual([]);
  // What goes now takes its drafts along; where no time of publication is known it is when it was made.
  const old = [version('1'), published('2', { publishedAt: null, madeAt: 5 }), published('3')];
  expect(goes(old, { published: 0, draftsFollow: true })).toEqual(['1 draftsStay', '2 published']);
  expect(goes(old, { draftsGoBefore: 5 })).toEqual(['1 draftsStay']);
  expect(goes(old, { draftsGoBefore: 4 })).toEqual([]);
  expect(goes([version('1', { sheltered: true }), published('2')], { draftsGoBefore: 9 })).toEqual([]);
});

test('when a version was published: as it was made where it got a number by that, else as it came into force', () => {
  const [at, inForceFrom] = [new Date(1), new Date(2)];
  const of = (more: object) =>
    publicationOf({ state: 'published', numbering: 'whole', at, inForceFrom, ...more })?.getTime() ?? null;
  expect(of({})).toBe(2);
  expect(of({ inForceFrom: null })).toBe(1);
  expect(of({ numbering: 'stepped' })).toBe(1);
  expect(of({ state: 'withdrawn' })).toBe(2);
  expect(of({ state: 'draft' })).toBeNull();
});

test('limits at a moment, and whether they limit anything', () => {
  const now = new Date('2026-03-31T12:00:00Z');
  const of = (keep: object, numbering: 'whole' | 'none' | 'stepped' = 'stepped') =>
    limitsAt(completeRulebook({ numbering, keep }), now);
  expect(of({})).toEqual(none);
  expect(
    of({ published: 3, drafts: { stay: 'untilPublished', newest: 2 }, spareYoungerThan: 'P1D' }),
  ).toEqual({
    published: 3,
    draftsFollow: false,
    draftsGoBefore: Infinity,
    newestDrafts: 2,
    spareAfter: Date.parse('2026-03-30T12:00:00Z'),
  });
  expect(of({ published: 3, drafts: { stay: 'P1M' } }, 'none')).toMatchObject({
    published: 0,
    draftsGoBefore: Date.parse('2026-02-28T12:00:00Z'),
  });
  expect(of({ drafts: { stay: 'withTheirVersion' } })).toEqual({ ...none, draftsFollow: true });
  for (const one of [{ published: 0 }, { draftsFollow: true }, { draftsGoBefore: 1 }, { newestDrafts: 1 }])
    expect(limitsAnything({ ...none, ...one })).toBe(true);
  expect(limitsAnything({ ...none, spareAfter: 1 })).toBe(false);
});

test('why something was thinned, in sentences', () => {
  const rules = (keep: object, numbering: 'stepped' | 'none' = 'stepped') =>
    completeRulebook({ numbering, keep });
  expect(ruleSentence('published', rules({ published: 1 }))).toBe(
    'Over the limit of 1 published version besides what is in force.',
  );
  expect(ruleSentence('published', rules({ published: 2 }))).toBe(
    'Over the limit of 2 published versions besides what is in force.',
  );
  expect(ruleSentence('published', rules({}, 'none'))).toBe(
    'Documents here have one current version; its content was replaced.',
  );
  expect(ruleSentence('newestDrafts', rules({ drafts: { newest: 3 } }))).toBe(
    'Over the limit of 3 drafts for each published version.',
  );
  expect(ruleSentence('draftsStay', rules({ drafts: { stay: 'P1Y2M3W4DT5H6M7S' } }))).toBe(
    'Drafts go 1 year 2 months 3 weeks 4 days 5 hours 6 minutes 7 seconds after the version they led to is published.',
  );
  expect(['untilPublished', 'withTheirVersion', 'all'].map(draftsSentence)).toEqual([
    'Drafts go when the version they led to is published.',
    'Its published version was thinned; its drafts go with it.',
    'Drafts stay.',
  ]);
});
