import fc from 'fast-check';
import { type Role, roles } from './roles.ts';
import { completeRulebook, sightRoles } from './rulebook.ts';
import {
  explain,
  maySee,
  reach,
  type SightClass,
  sightClasses,
  type SightFacts,
  viewersInWords,
} from './sight.ts';

const factsOf = (kind: SightClass): SightFacts => ({
  label: '2.1',
  thinned: false,
  authorId: 'writer',
  ownerId: 'owner',
  coAuthorIds: ['co'],
  holderId: 'holder',
  circle: null,
  voided: false,
  ...(kind === 'inForce' || kind === 'superseded' || kind === 'scheduled'
    ? { state: 'published', standing: kind }
    : { state: kind, standing: null }),
});
const sees = (
  id: string,
  held: Role[],
  kind: SightClass,
  rules = completeRulebook({}),
  facts: Partial<SightFacts> = {},
): boolean => explain({ id, roles: new Set(held) }, { ...factsOf(kind), ...facts }, rules).sees;

/** Who sees what under the default rules, role by role: the table of docs/rules.md, Who sees what. */
const expected: Record<SightClass, Role[]> = {
  inForce: ['reader', 'auditor', 'author', 'approver', 'controller'],
  superseded: ['auditor', 'author', 'approver', 'controller'],
  scheduled: ['auditor', 'author', 'approver', 'controller'],
  withdrawn: ['auditor', 'author', 'approver', 'controller'],
  draft: ['author', 'approver', 'controller'],
  inApproval: ['approver', 'controller'],
  approved: ['approver', 'controller'],
  rejected: ['author', 'controller'],
};

describe.each(sightClasses)('%s', (kind) => {
  test.each(roles)('seen by a %s exactly where the rules say so', (role) => {
    expect(sees('somebody', [role], kind)).toBe(expected[kind].includes(role));
  });
  test('not seen by somebody who is no member', () => {
    expect(sees('owner', [], kind)).toBe(false);
  });
});

test.each(['owner', 'co', 'writer', 'holder'])(
  'the %s belongs to the team and sees drafts that are for the team',
  (id) => {
    const rules = completeRulebook({ sight: { draft: [] } });
    expect(sees(id, ['author'], 'draft', rules)).toBe(true);
    expect(sees('stranger', ['author'], 'draft', rules)).toBe(false);
    expect(sees('stranger', ['approver'], 'draft', rules)).toBe(false);
    expect(sees('stranger', ['controller'], 'draft', rules)).toBe(true);
  },
);

test('a set of roles shows drafts to those it names and to nobody else outside the team', () => {
  const sets = fc.subarray([...sightRoles]);
  fc.assert(
    fc.property(sets, fc.constantFrom(...roles), (draft, role) => {
      const rules = completeRulebook({ sight: { draft } });
      const named = (draft as readonly string[]).includes(role);
      expect(sees('stranger', [role], 'draft', rules)).toBe(named || role === 'controller');
      expect(sees('owner', [role], 'draft', rules)).toBe(true);
    }),
  );
});

test('who sees such versions is said by role', () => {
  expect(viewersInWords(['reader', 'auditor', 'author', 'approver'])).toBe('every member');
  expect(viewersInWords(['reader'])).toBe("readers, the document's team and controllers");
  expect(viewersInWords([])).toBe("the document's team and controllers");
});

test('readers see past versions where the library says so, but no record of thinned ones', () => {
  const rules = completeRulebook({ readersSeePast: true });
  expect(sees('somebody', ['reader'], 'superseded', rules)).toBe(true);
  expect(sees('somebody', ['reader'], 'superseded', rules, { thinned: true })).toBe(false);
  expect(sees('somebody', ['author'], 'superseded', rules, { thinned: true })).toBe(true);
});

test("rights are the union of one's roles, and the reach says the same as the explanation", () => {
  expect(sees('somebody', ['reader', 'approver'], 'inApproval')).toBe(true);
  for (const role of roles)
    for (const kind of sightClasses) {
      const extent = reach(new Set([role]), completeRulebook({}))[kind];
      expect(extent === 'all').toBe(sees('stranger', [role], kind));
    }
});

test('whether somebody sees a version is the same with words and without', () => {
  const sets = fc.subarray([...sightRoles]);
  const people = fc.constantFrom('owner', 'co', 'writer', 'holder', 'stranger');
  const asked = fc.record({
    kind: fc.constantFrom(...sightClasses),
    thinned: fc.boolean(),
    id: people,
    held: fc.subarray([...roles]),
    sight: fc.record({ draft: sets, inApproval: sets, rejected: sets }),
    readersSeePast: fc.boolean(),
    circle: fc.option(fc.subarray(['owner', 'co', 'stranger'])),
  });
  fc.assert(
    fc.property(asked, ({ kind, thinned, id, held, sight, readersSeePast, circle }) => {
      const rules = completeRulebook({ sight, readersSeePast });
      const given = [{ id, roles: new Set(held) }, { ...factsOf(kind), thinned, circle }, rules] as const;
      expect(maySee(...given)).toBe(explain(...given).sees);
    }),
    { numRuns: 1000 },
  );
});

test('a limited document is there for those it is kept to and for controllers, and for nobody else', () => {
  const people = fc.constantFrom('owner', 'co', 'writer', 'holder', 'stranger');
  const asked = fc.record({
    kind: fc.constantFrom(...sightClasses),
    id: people,
    held: fc.subarray([...roles]),
    circle: fc.subarray(['owner', 'co', 'writer', 'stranger']),
  });
  fc.assert(
    fc.property(asked, ({ kind, id, held, circle }) => {
      const limited = sees(id, held, kind, completeRulebook({}), { circle });
      const open = sees(id, held, kind);
      expect(limited).toBe(open && (circle.includes(id) || held.includes('controller')));
    }),
    { numRuns: 500 },
  );
  const { why } = explain(
    { id: 'stranger', roles: new Set<Role>(['author']) },
    { ...factsOf('inForce'), circle: ['owner'] },
    completeRulebook({}),
  );
  expect(why).toBe('The document is kept to named people and groups, and you are not among them.');
});

test('the reason names the version and the rule', () => {
  const { why } = explain(
    { id: 'x', roles: new Set<Role>(['author']) },
    factsOf('draft'),
    completeRulebook({}),
  );
  expect(why).toBe(
    "2.1 is a draft; drafts here are seen by authors, approvers, the document's team and controllers.",
  );
});

test('a voided document is there for auditors and controllers, as far as they saw it before', () => {
  const voided = { voided: true };
  const seenBy = (kind: SightClass): Role[] =>
    roles.filter((role) => sees('owner', [role], kind, completeRulebook({}), voided));
  expect(seenBy('inForce')).toEqual(['auditor', 'controller']);
  // Their own draft, too, is gone for its owner who is an author; an auditor sees no drafts here.
  expect(seenBy('draft')).toEqual(['auditor', 'controller']);
  expect(sees('other', ['auditor'], 'draft', completeRulebook({}), voided)).toBe(false);
  const { why } = explain(
    { id: 'owner', roles: new Set(['author']) },
    { ...factsOf('draft'), ...voided },
    completeRulebook({}),
  );
  expect(why).toBe('The document was voided; its record is for auditors and controllers.');
});
