import { defaultRulebook } from './rulebook.ts';
import { readStoredRulebook } from './storedRulebook.ts';

test('a rule that was added after rules were stored has its default, never nothing', () => {
  const { graceDays: _, readersSeePast: __, ...older } = defaultRulebook;
  expect(readStoredRulebook({ ...older, numbering: 'whole' })).toEqual({
    ...defaultRulebook,
    numbering: 'whole',
  });
  expect(readStoredRulebook({})).toEqual(defaultRulebook);
});

test('steps of sight become the roles they took in', () => {
  const { sight } = readStoredRulebook({
    sight: { draft: 'members', inApproval: 'authors', rejected: 'team' },
  });
  expect(sight).toEqual({
    draft: ['reader', 'auditor', 'author', 'approver'],
    inApproval: ['author', 'approver'],
    rejected: [],
  });
});

test.each([
  [
    { draftsOutlive: 0, draftsPerMajor: null, published: null },
    { stay: 'untilPublished', newest: null },
  ],
  [
    { draftsOutlive: 1, draftsPerMajor: 2, published: null },
    { stay: 'withTheirVersion', newest: 2 },
  ],
  [
    { draftsOutlive: 3, draftsPerMajor: null, published: 1 },
    { stay: 'all', newest: null },
  ],
  [
    { draftsOutlive: null, draftsPerMajor: null, published: 5 },
    { stay: 'all', newest: null },
  ],
])('drafts that outlived publications, %j, stay: %j', (old, drafts) => {
  const { keep } = readStoredRulebook({ keep: { ...old, spareYoungerThan: 'P30D' } });
  expect(keep).toEqual({ published: old.published, drafts, spareYoungerThan: 'P30D' });
});

test('rules in the present form are left alone', () => {
  expect(readStoredRulebook(structuredClone(defaultRulebook))).toEqual(defaultRulebook);
});
