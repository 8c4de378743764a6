import { isRefusal } from '../document/refusal.ts';
import { admitRulebook } from './admitRulebook.ts';
import {
  completeRulebook,
  defaultRulebook,
  type Rulebook,
  rulebookDifference,
  proposeRules,
  rulePaths,
  withValues,
} from './rulebook.ts';
import { usualControlNames } from './controlNames.ts';

test('a new library has the rules of docs/rules.md, Defaults', () => {
  expect(admitRulebook({})).toEqual(defaultRulebook);
  expect(defaultRulebook).toMatchObject({
    numbering: 'stepped',
    approval: { on: false, authorMayApprove: false },
    sight: { draft: ['author', 'approver'], inApproval: ['approver'], rejected: ['author'] },
    custody: 'required',
    custodyDays: 5,
    checkInComment: 'required',
    keep: { published: null, drafts: { stay: 'all', newest: null }, spareYoungerThan: null },
    graceDays: 30,
  });
});

const keep = (value: object) => ({ keep: value });
const senseless: [object, string, string][] = [
  [keep({ published: -1 }), 'limit-negative', 'keep.published'],
  [keep({ published: 2.5 }), 'limit-fractional', 'keep.published'],
  [keep({ published: 1e12 }), 'limit-too-large', 'keep.published'],
  [keep({ published: Infinity }), 'limit-too-large', 'keep.published'],
  [keep({ published: '5' }), 'limit-not-a-number', 'keep.published'],
  [keep({ drafts: { newest: -2 } }), 'limit-negative', 'keep.drafts.newest'],
  [keep({ drafts: { stay: 'a while' } }), 'duration-invalid', 'keep.drafts.stay'],
  [keep({ drafts: { stay: null } }), 'duration-invalid', 'keep.drafts.stay'],
  [keep({ drafts: { newest: 0 } }), 'limit-too-small', 'keep.drafts.newest'],
  [keep({ spareYoungerThan: '90 days' }), 'duration-invalid', 'keep.spareYoungerThan'],
  [keep({ spareYoungerThan: 90 }), 'duration-invalid', 'keep.spareYoungerThan'],
  [{ sight: { draft: 'authors' } }, 'sight-role-unknown', 'sight.draft'],
  [{ sight: { inApproval: ['controller'] } }, 'sight-role-unknown', 'sight.inApproval'],
  [{ sight: { rejected: null } }, 'sight-role-unknown', 'sight.rejected'],
  [{ numbering: 'roman' }, 'rule-value-unknown', 'numbering'],
  [{ custody: true }, 'rule-value-unknown', 'custody'],
  [{ approval: { mode: 'vote' } }, 'rule-value-unknown', 'approval.mode'],
  [{ approval: { on: 'yes' } }, 'rule-value-unknown', 'approval.on'],
  [{ approval: { approvers: ['a', 'a'] } }, 'approver-twice', 'approval.approvers'],
  [{ approval: { approvers: 'a' } }, 'rule-value-unknown', 'approval.approvers'],
  [
    { approval: { approvers: Array.from({ length: 51 }, (_, index) => `a${index}`) } },
    'too-many-approvers',
    'approval.approvers',
  ],
  [{ custodyDays: 0 }, 'limit-too-small', 'custodyDays'],
  [{ graceDays: 4000 }, 'limit-too-large', 'graceDays'],
  [{ graceDays: null }, 'limit-not-a-number', 'graceDays'],
  [{ maxFileBytes: 0 }, 'limit-too-small', 'maxFileBytes'],
  [{ allowanceBytes: 1.5 }, 'limit-fractional', 'allowanceBytes'],
  [{ numbering: 'whole', saves: 'drafts' }, 'saves-need-steps', 'saves'],
  [{ numbering: 'none', closedInProgram: 'checksIn' }, 'closing-needs-steps', 'closedInProgram'],
  [{ closedInProgram: 'never' }, 'rule-value-unknown', 'closedInProgram'],
  [{ fields: ['department'] }, 'field-unfit', 'fields'],
  [{ controlNames: { number: '' } }, 'control-name-unfit', 'controlNames.number'],
  [{ controlNames: { title: 'Issue_Date' } }, 'control-name-twice', 'controlNames.issueDate'],
  [{ numberPatterns: [{ type: null, pattern: 'OP' }] }, 'number-pattern-unfit', 'numberPatterns'],
];
test.each(senseless)('%j is refused as %s', (asked, code, rule) => {
  const answer = admitRulebook(asked);
  expect(isRefusal(answer) && [answer.kind, answer.code, answer.facts['rule']]).toEqual([
    'invalid',
    code,
    rule,
  ]);
});

test('sensible values of every rule are taken as they are', () => {
  const rules: Rulebook = {
    numbering: 'whole',
    custody: 'optional',
    custodyDays: null,
    saves: 'steps',
    closedInProgram: 'asks',
    checkInComment: 'optional',
    approval: {
      on: true,
      mode: 'together',
      authorMayApprove: true,
      controllersDecide: true,
      approvers: ['a', 'b'],
      publishing: 'byOwner',
    },
    sight: {
      draft: [],
      inApproval: ['reader', 'auditor', 'author', 'approver'],
      rejected: ['auditor', 'approver'],
    },
    readersSeePast: true,
    controlNames: { ...usualControlNames, number: 'No.', issueDate: 'Issued' },
    keep: { published: 0, drafts: { stay: 'P30D', newest: 1 }, spareYoungerThan: 'P90D' },
    graceDays: 0,
    maxFileBytes: 1,
    allowanceBytes: 1,
    fields: [{ name: 'Tower', kind: 'number', choices: [], requiredFor: ['Drawing'], administrative: true }],
    numberPatterns: [{ type: 'Drawing', pattern: 'DRW-####' }],
  };
  expect(admitRulebook(rules)).toEqual(rules);
});

test('a set of roles has each once, in one order, however it was asked for', () => {
  const rules = admitRulebook({ sight: { draft: ['approver', 'reader', 'approver'] } });
  expect(!isRefusal(rules) && rules.sight.draft).toEqual(['reader', 'approver']);
});

test('rules that are left out stay as they are, one by one', () => {
  const present = completeRulebook({ keep: { published: 3, drafts: { stay: 'P30D', newest: 2 } } });
  const proposed = admitRulebook(proposeRules(present, { keep: { drafts: { newest: 5 } } }));
  expect(!isRefusal(proposed) && proposed.keep).toEqual({
    published: 3,
    drafts: { stay: 'P30D', newest: 5 },
    spareYoungerThan: null,
  });
});

test('choices are put onto other rules by their paths, and nothing else of those changes', () => {
  const mine = rulebookDifference(
    defaultRulebook,
    completeRulebook({ graceDays: 60, keep: { drafts: { newest: 4 } } }),
  );
  const theirs = completeRulebook({ keep: { published: 9, drafts: { stay: 'P30D' } }, readersSeePast: true });
  expect(withValues(theirs, mine)).toEqual({
    ...theirs,
    graceDays: 60,
    keep: { ...theirs.keep, drafts: { stay: 'P30D', newest: 4 } },
  });
});

test('the difference of two Rulebooks names each rule with both values, in their order', () => {
  const changed = completeRulebook({
    keep: { published: 200 },
    numbering: 'whole',
    approval: { approvers: ['a'] },
  });
  expect(rulebookDifference(defaultRulebook, changed)).toEqual([
    { rule: 'numbering', from: 'stepped', to: 'whole' },
    { rule: 'approval.approvers', from: [], to: ['a'] },
    { rule: 'keep.published', from: null, to: 200 },
  ]);
  expect(rulebookDifference(changed, changed)).toEqual([]);
  expect(rulePaths).toHaveLength(33);
});
