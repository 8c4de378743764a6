import { before, parseDuration } from './duration.ts';
import { maySeeAsOf } from './pastSight.ts';
import type { Role } from './roles.ts';
import { completeRulebook } from './rulebook.ts';
import { explain, reach, sightClass, type SightFacts, type Speaking } from './sight.ts';
import { readStoredRulebook } from './storedRulebook.ts';
import { textFell } from './textFall.ts';

const rules = completeRulebook({});
const facts = (more: Partial<SightFacts> = {}): SightFacts => ({
  label: '2.1',
  state: 'draft',
  standing: null,
  thinned: false,
  authorId: 'author',
  ownerId: 'owner',
  coAuthorIds: [],
  holderId: null,
  circle: null,
  voided: false,
  ...more,
});
const inForce = facts({ label: '2.0', state: 'published', standing: 'inForce' });
const superseded = facts({ label: '1.0', state: 'published', standing: 'superseded' });
const by = (id: string, ...roles: Role[]) => ({ id, roles: new Set(roles) });
const said = (viewer: ReturnType<typeof by>, of: SightFacts, speaking?: Speaking): string => {
  const { sees, why } = explain(viewer, of, rules, speaking);
  return `${sees ? 'yes' : 'no'}: ${why}`;
};
const lund = { name: 'V. Lund' };
const drafts = "drafts here are seen by authors, approvers, the document's team and controllers";

test.each<[string, string, string]>([
  ['no member', said(by('x'), inForce), 'no: You are not a member of this library.'],
  ['no member, named', said(by('x'), inForce, lund), 'no: V. Lund is not a member of this library.'],
  [
    'kept to others',
    said(by('x', 'reader'), facts({ circle: ['y'] })),
    'no: The document is kept to named people and groups, and you are not among them.',
  ],
  [
    'kept to others, named',
    said(by('x', 'reader'), facts({ circle: ['y'] }), lund),
    'no: The document is kept to named people and groups, and V. Lund is not among them.',
  ],
  [
    'thinned',
    said(by('x', 'reader'), facts({ thinned: true })),
    'no: 2.1 was thinned; its record is for auditors, authors, approvers and controllers.',
  ],
  [
    'superseded',
    said(by('x', 'reader'), superseded),
    'no: 1.0 is superseded; readers see only what is in force.',
  ],
  ['superseded, auditor', said(by('x', 'auditor'), superseded), 'yes: 1.0 is superseded; your role sees it.'],
  [
    'superseded, auditor, named',
    said(by('x', 'auditor'), superseded, lund),
    'yes: 1.0 is superseded; the role of V. Lund sees it.',
  ],
  ['in force', said(by('x', 'reader'), inForce), 'yes: 2.0 is in force; every member sees it.'],
  [
    'in force, kept to some',
    said(by('x', 'reader'), { ...inForce, circle: ['x'] }),
    'yes: 2.0 is in force; those it is kept to and controllers see it.',
  ],
  ['a draft, reader', said(by('x', 'reader'), facts()), `no: 2.1 is a draft; ${drafts}.`],
  ['a draft, author', said(by('x', 'author'), facts()), `yes: 2.1 is a draft; ${drafts}.`],
  [
    'a draft, of the team',
    said(by('owner', 'reader'), facts()),
    `yes: 2.1 is a draft; ${drafts}, and you belong to the document's team.`,
  ],
  [
    'a draft, of the team, named',
    said(by('owner', 'reader'), facts(), lund),
    `yes: 2.1 is a draft; ${drafts}, and V. Lund belongs to the document's team.`,
  ],
])('%s', (_, sentence, expected) => expect(sentence).toBe(expected));

test('how far roles reach: nobody without one sees anything, the team only what is not published', () => {
  expect(new Set(Object.values(reach(new Set(), rules)))).toEqual(new Set(['none']));
  const { readersSeePast: _, ...open } = rules;
  expect(reach(new Set(['reader']), { ...open, readersSeePast: true })).toEqual({
    inForce: 'all',
    superseded: 'all',
    scheduled: 'none',
    withdrawn: 'none',
    draft: 'team',
    inApproval: 'team',
    approved: 'team',
    rejected: 'team',
  });
  // A published version of which no standing is known is one of the past.
  expect(sightClass({ state: 'published', standing: null })).toBe('superseded');
});

test('whoever looks back sees what they saw then and may see now', () => {
  const looks = (roles: Role[], of: SightFacts) => ({ viewer: by('x', ...roles), facts: of, rules });
  expect(maySeeAsOf(looks(['author'], facts()), looks(['author'], facts()))).toBe(true);
  expect(maySeeAsOf(looks(['reader'], facts()), looks(['author'], facts()))).toBe(false);
  expect(maySeeAsOf(looks(['author'], facts()), looks(['reader'], facts()))).toBe(false);
});

test.each<[object, object]>([
  [
    { draftsOutlive: 0, draftsPerMajor: 2 },
    { stay: 'untilPublished', newest: 2 },
  ],
  [
    { draftsOutlive: 2, published: null },
    { stay: 'withTheirVersion', newest: null },
  ],
  [
    { draftsOutlive: 2, published: 1 },
    { stay: 'withTheirVersion', newest: null },
  ],
  [
    { draftsOutlive: 2, published: 0 },
    { stay: 'all', newest: null },
  ],
  [
    { draftsOutlive: null, published: 3 },
    { stay: 'all', newest: null },
  ],
  [
    { draftsOutlive: null, published: null },
    { stay: 'all', newest: null },
  ],
  [{ draftsPerMajor: 4 }, { stay: 'all', newest: 4 }],
])('rules stored as %j keep drafts as %j', (keep, drafts) =>
  expect(
    readStoredRulebook({ keep: { draftsOutlive: null, draftsPerMajor: null, ...keep } }).keep.drafts,
  ).toEqual(drafts),
);
test('sight that was stored as a step, one that is none among them', () =>
  expect(
    readStoredRulebook({ sight: { draft: 'members', inApproval: 'nonsense', rejected: ['reader'] } }).sight,
  ).toEqual({ draft: ['reader', 'auditor', 'author', 'approver'], inApproval: [], rejected: ['reader'] }));

test('every part of a duration is gone back by', () => {
  const of = (text: string): string => {
    const duration = parseDuration(text);
    if (!duration) throw new Error(text);
    return before(new Date('2026-03-31T12:30:30Z'), duration).toISOString();
  };
  expect(of('P1W2DT3H4M5S')).toBe('2026-03-22T09:26:25.000Z');
  expect(of('PT90M')).toBe('2026-03-31T11:00:30.000Z');
});

test('14: a text that falls to under half is flagged, at half not, and never without both', () => {
  expect([textFell(4, 10), textFell(5, 10), textFell(null, 10), textFell(0, null), textFell(0, 1)]).toEqual([
    true,
    false,
    false,
    false,
    true,
  ]);
});
