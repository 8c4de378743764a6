import {
  controlFields,
  type Role,
  rolesInWords,
  type Rulebook,
  type RuleChange,
  sightRoles,
  usualControlNames,
} from '@polychron/core';
import { bytes } from '../../ui/when.ts';

/** Rules as people call them, by their path. */
const names: Record<string, string> = {
  numbering: 'numbering',
  custody: 'check-out',
  custodyDays: 'days of a check-out',
  saves: 'saves',
  closedInProgram: 'what a program closes',
  checkInComment: 'check-in comment',
  'approval.on': 'approval',
  'approval.mode': 'order of approval',
  'approval.authorMayApprove': 'authors approving their own',
  'approval.controllersDecide': 'controllers deciding in the place of others',
  'approval.approvers': 'approvers',
  'approval.publishing': 'who publishes',
  'sight.draft': 'sight of drafts',
  'sight.inApproval': 'sight of versions in approval',
  'sight.rejected': 'sight of rejected versions',
  ...Object.fromEntries(
    controlFields.map((field) => [
      `controlNames.${field}`,
      `name of the ${usualControlNames[field].toLowerCase()} in files`,
    ]),
  ),
  readersSeePast: 'readers and superseded versions',
  'keep.published': 'published versions kept',
  'keep.drafts.stay': 'how long drafts stay',
  'keep.drafts.newest': 'drafts kept before each publication',
  'keep.spareYoungerThan': 'not thinned before this age',
  graceDays: 'days on the shelf',
  maxFileBytes: 'largest file',
  allowanceBytes: 'allowance',
  numberPatterns: 'numbers of documents',
  fields: 'fields',
};
const values: Record<string, Record<string, string>> = {
  numbering: { none: 'no numbers', whole: '1, 2, 3', stepped: 'stepped' },
  closedInProgram: { asks: 'its holder is asked', checksIn: 'checked in as a draft' },
  'approval.mode': { serial: 'in turn', together: 'all together', anyOne: 'any one' },
  'approval.publishing': { onApproval: 'the last approval', byOwner: 'the owner' },
  'keep.drafts.stay': {
    all: 'always',
    withTheirVersion: 'with their version',
    untilPublished: 'until published',
  },
};

/** Who sees a kind of version besides the document's team and controllers. */
export function viewerWords(named: readonly Role[]): string {
  if (named.length === 0) return 'nobody else';
  if (sightRoles.every((role) => named.includes(role))) return 'every member';
  return rolesInWords(sightRoles.filter((role) => named.includes(role)));
}

/** What no limit means, where it does not mean all. */
const withoutLimit: Record<string, string> = {
  custodyDays: 'no end',
  maxFileBytes: 'none',
  allowanceBytes: 'none',
  'keep.spareYoungerThan': 'none',
};

/** What a rule is called, by its path. */
export const ruleName = (rule: string): string => names[rule] ?? rule;

/** A rule's value in a word or two. */
export function ruleValue(rule: string, value: unknown): string {
  if (value === null) return withoutLimit[rule] ?? 'all';
  if (rule.startsWith('sight.')) return viewerWords(value as Role[]);
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (rule === 'fields' && Array.isArray(value)) return listed((value as Rulebook['fields']).map(fieldWords));
  if (rule === 'numberPatterns' && Array.isArray(value)) return listed((value as Patterns).map(patternWords));
  if (Array.isArray(value)) return value.length === 0 ? 'nobody' : value.join(', ');
  if (rule.endsWith('Bytes') && typeof value === 'number') return bytes(value);
  return values[rule]?.[String(value)] ?? String(value);
}

const listed = (words: readonly string[]): string => (words.length === 0 ? 'none' : words.join('; '));
type Patterns = Rulebook['numberPatterns'];
const patternWords = ({ type, pattern }: Patterns[number]): string => `${type ?? 'others'} ${pattern}`;

/** A field in a few words: "Tower, number, needed for Drawing". */
function fieldWords({ name, kind, requiredFor, administrative }: Rulebook['fields'][number]): string {
  const needed = requiredFor === 'all' ? 'by all' : `for ${requiredFor.join(', ')}`;
  return [
    name,
    kind === 'yesNo' ? 'yes or no' : kind,
    ...(requiredFor.length > 0 ? [`needed ${needed}`] : []),
    ...(administrative ? ['administrative'] : []),
  ].join(', ');
}

/** What changed, in a line: "published versions kept: all → 200". */
export const changeWords = ({ rule, from, to }: RuleChange): string =>
  `${ruleName(rule)}: ${ruleValue(rule, from)} → ${ruleValue(rule, to)}`;
