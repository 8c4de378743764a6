import { isRefusal } from '../document/refusal.ts';
import { admitRulebook } from './admitRulebook.ts';
import type { RulebookChoices } from './rulebook.ts';

const said = (rules: object): string | null => {
  const answer = admitRulebook(rules as RulebookChoices);
  return isRefusal(answer) ? `${answer.kind} ${answer.code}: ${answer.reason}` : null;
};
const keep = (value: object) => ({ keep: value });
const approvers = (value: unknown) => ({ approval: { approvers: value } });
const long = 'x'.repeat(60);
const sightOf = (rule: string, shown: string): string =>
  `invalid sight-role-unknown: ${rule} is a list of the roles that see such versions: any of reader, auditor, author, approver; ${shown} is not. The document's team and controllers always see them.`;

/** Each refusal names the rule, what was asked for, and what to do instead. */
test.each<[object, string]>([
  [
    { numbering: 'roman' },
    'invalid rule-value-unknown: "roman" is no choice for numbering. Choose none, whole or stepped.',
  ],
  [
    { numbering: ['whole'] },
    'invalid rule-value-unknown: ["whole"] is no choice for numbering. Choose none, whole or stepped.',
  ],
  [
    { custody: long },
    `invalid rule-value-unknown: "${long.slice(0, 59)} … is no choice for custody. Choose required or optional.`,
  ],
  [
    { custody: long.slice(2) },
    `invalid rule-value-unknown: "${long.slice(2)}" is no choice for custody. Choose required or optional.`,
  ],
  [{ approval: { on: 'yes' } }, 'invalid rule-value-unknown: approval.on is yes or no, not "yes".'],
  [{ sight: { draft: 'authors' } }, sightOf('sight.draft', '"authors"')],
  [{ sight: { inApproval: ['controller'] } }, sightOf('sight.inApproval', '["controller"]')],
  [
    keep({ published: '5' }),
    'invalid limit-not-a-number: keep.published is a number, or null for none; "5" is not.',
  ],
  [{ graceDays: null }, 'invalid limit-not-a-number: graceDays is a number; null is not.'],
  [{ graceDays: NaN }, 'invalid limit-not-a-number: graceDays is a number; null is not.'],
  [keep({ published: -1 }), 'invalid limit-negative: keep.published cannot be -1, which is below zero.'],
  [
    keep({ published: 2.5 }),
    'invalid limit-fractional: keep.published counts whole things; 2.5 is not whole.',
  ],
  [{ custodyDays: 0 }, 'invalid limit-too-small: custodyDays is at least 1; 0 is less.'],
  [
    keep({ drafts: { stay: 'a while' } }),
    'invalid duration-invalid: keep.drafts.stay is all, withTheirVersion, untilPublished, or a duration as ISO 8601 writes it, such as P90D or P1Y6M, in whole numbers; "a while" is not.',
  ],
  [
    keep({ spareYoungerThan: 90 }),
    'invalid duration-invalid: keep.spareYoungerThan is a duration as ISO 8601 writes it, such as P90D or P1Y6M, in whole numbers; 90 is not.',
  ],
  [approvers('a'), 'invalid rule-value-unknown: approval.approvers is a list of accounts.'],
  [approvers([1]), 'invalid rule-value-unknown: approval.approvers is a list of accounts.'],
  [approvers(['']), 'invalid rule-value-unknown: approval.approvers is a list of accounts.'],
  [approvers(['x'.repeat(61)]), 'invalid rule-value-unknown: approval.approvers is a list of accounts.'],
  [approvers(['a', 'b', 'a']), 'invalid approver-twice: a is named twice as approver. Name each once.'],
  [
    approvers(Array.from({ length: 51 }, (_, at) => `a${at}`)),
    'invalid too-many-approvers: 51 approvers are named; at most 50 are asked.',
  ],
  [
    { numbering: 'whole', closedInProgram: 'checksIn' },
    'invalid closing-needs-steps: What a program closes can be checked in as a draft only where there are drafts between published versions. Choose stepped numbers, or that its holder is asked.',
  ],
  [
    { numbering: 'none', saves: 'drafts' },
    'invalid saves-need-steps: Saves can be drafts only where there are drafts between published versions. Choose stepped numbers, or saves as steps.',
  ],
  [{ fields: {} }, 'invalid rule-value-unknown: fields is a list of the fields of the library.'],
])('%j is refused by a sentence that helps', (rules, sentence) => expect(said(rules)).toBe(sentence));

/** The greatest of each limit: it is taken, one more is not. */
test.each([
  ['graceDays', 3650, ''],
  ['custodyDays', 3650, ' Use null to set no limit.'],
])('%s of at most %d', (rule, most, instead) => {
  expect(said({ [rule]: most })).toBeNull();
  expect(said({ [rule]: most + 1 })).toBe(
    `invalid limit-too-large: ${rule} is at most ${most}; ${most + 1} is more.${instead}`,
  );
});

test('what is at the edge is taken', () => {
  expect(said(approvers(['x'.repeat(60)]))).toBeNull();
  expect(said(approvers(Array.from({ length: 50 }, (_, at) => `a${at}`)))).toBeNull();
  expect(said({ numbering: 'stepped', saves: 'drafts', closedInProgram: 'checksIn' })).toBeNull();
  expect(said(keep({ published: 0, drafts: { newest: 1 } }))).toBeNull();
});
