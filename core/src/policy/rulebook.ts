import type { Refusal } from '../versions/refusal.ts';
import { refuse } from '../versions/refusal.ts';
import { parseDuration } from '../keeping/duration.ts';
import { type Numbering, numberings } from '../versions/version.ts';

/** Who may see a version that is not published; every step includes those after it, and controllers. */
export const sightSteps = ['members', 'authors', 'approvers', 'team'] as const;
export type SightStep = (typeof sightSteps)[number];

/** A library's rules, in the order of a document's life. `null` means all, or none, as the rule's name says. */
export interface Rulebook {
  numbering: Numbering;
  custody: 'required' | 'optional';
  /** Days a check-out lasts unless said otherwise; null: without end. */
  custodyDays: number | null;
  saves: 'steps' | 'drafts';
  checkInComment: 'required' | 'optional';
  approval: {
    on: boolean;
    mode: 'serial' | 'together' | 'anyOne';
    authorMayApprove: boolean;
    approvers: string[];
    publishing: 'onApproval' | 'byOwner';
  };
  sight: { draft: SightStep; inApproval: SightStep; rejected: SightStep };
  readersSeePast: boolean;
  keep: {
    published: number | null;
    draftsOutlive: number | null;
    draftsPerMajor: number | null;
    /** ISO 8601 duration, or null. */
    spareYoungerThan: string | null;
  };
  graceDays: number;
  maxFileBytes: number | null;
  allowanceBytes: number | null;
  fields: string[];
}

/** The rules of a new library (docs/rules.md, Defaults). */
export const defaultRulebook: Rulebook = {
  numbering: 'stepped',
  custody: 'required',
  custodyDays: 5,
  saves: 'steps',
  checkInComment: 'required',
  approval: { on: false, mode: 'serial', authorMayApprove: false, approvers: [], publishing: 'onApproval' },
  sight: { draft: 'authors', inApproval: 'approvers', rejected: 'authors' },
  readersSeePast: false,
  keep: { published: null, draftsOutlive: null, draftsPerMajor: null, spareYoungerThan: null },
  graceDays: 30,
  maxFileBytes: null,
  allowanceBytes: null,
  fields: [],
};

/** The rules in force differ from the defaults only where the library says so. */
export type RulebookChoices = Partial<Omit<Rulebook, 'approval' | 'sight' | 'keep'>> & {
  approval?: Partial<Rulebook['approval']> | undefined;
  sight?: Partial<Rulebook['sight']> | undefined;
  keep?: Partial<Rulebook['keep']> | undefined;
};

/** Fills what a library leaves open with the defaults. */
export function completeRulebook(choices: RulebookChoices): Rulebook {
  return {
    ...defaultRulebook,
    ...choices,
    approval: { ...defaultRulebook.approval, ...choices.approval },
    sight: { ...defaultRulebook.sight, ...choices.sight },
    keep: { ...defaultRulebook.keep, ...choices.keep },
  };
}

/** Rules as they were asked for: the right shape, any values. */
export type AskedRulebook = Partial<Record<Exclude<keyof Rulebook, 'approval' | 'sight' | 'keep'>, unknown>> & {
  approval?: Partial<Record<keyof Rulebook['approval'], unknown>> | undefined;
  sight?: Partial<Record<keyof Rulebook['sight'], unknown>> | undefined;
  keep?: Partial<Record<keyof Rulebook['keep'], unknown>> | undefined;
};

/** The largest limit on versions; more than any document lives to see. */
export const largestLimit = 1_000_000;
/** The longest custody and grace, in days: ten years. */
export const mostDays = 3650;
const mostApprovers = 50;

const choices = {
  numbering: numberings, custody: ['required', 'optional'], saves: ['steps', 'drafts'], checkInComment: ['required', 'optional'],
  'approval.mode': ['serial', 'together', 'anyOne'], 'approval.publishing': ['onApproval', 'byOwner'],
} as const;

/**
 * Reads the rules somebody asks for, filling what they leave open with the defaults.
 * @returns the rules, or a refusal naming the first rule that makes no sense (its `rule` is the path, `given` the value)
 */
export function admitRulebook(asked: AskedRulebook): Rulebook | Refusal {
  const rules = completeRulebook(asked as RulebookChoices);
  const { approval, sight, keep } = rules;
  const found = firstOf(
    ...Object.entries(choices).map(([rule, values]) => refuseChoice(rule, valueAt(rules, rule), values)),
    ...(['draft', 'inApproval', 'rejected'] as const).map((state) => (sightSteps.includes(sight[state]) ? null
      : refuse('invalid', 'sight-step-unknown', `${show(sight[state])} is no step of sight. Choose ${either(sightSteps)}.`, { rule: `sight.${state}`, given: sight[state] }))),
    ...([['approval.on', approval.on], ['approval.authorMayApprove', approval.authorMayApprove], ['readersSeePast', rules.readersSeePast]] as const)
      .map(([rule, value]) => (typeof value === 'boolean' ? null : refuse('invalid', 'rule-value-unknown', `${rule} is yes or no, not ${show(value)}.`, { rule, given: value }))),
    refuseNumber('keep.published', keep.published, { least: 0, most: largestLimit, orNull: true }),
    refuseNumber('keep.draftsOutlive', keep.draftsOutlive, { least: 0, most: largestLimit, orNull: true }),
    refuseNumber('keep.draftsPerMajor', keep.draftsPerMajor, { least: 1, most: largestLimit, orNull: true }),
    refuseDuration(keep.spareYoungerThan),
    refuseNumber('custodyDays', rules.custodyDays, { least: 1, most: mostDays, orNull: true }),
    refuseNumber('graceDays', rules.graceDays, { least: 0, most: mostDays }),
    refuseNumber('maxFileBytes', rules.maxFileBytes, { least: 1, most: Number.MAX_SAFE_INTEGER, orNull: true }),
    refuseNumber('allowanceBytes', rules.allowanceBytes, { least: 1, most: Number.MAX_SAFE_INTEGER, orNull: true }),
    refuseApprovers(approval.approvers),
    Array.isArray(rules.fields) && rules.fields.length === 0 ? null
      : refuse('invalid', 'rule-not-supported', "The rule fields asks for a library's own fields, which are not available yet. Leave it empty.", { rule: 'fields' }),
    rules.saves === 'drafts' && rules.numbering !== 'stepped'
      ? refuse('invalid', 'saves-need-steps', 'Saves can be drafts only where there are drafts between published versions. Choose stepped numbers, or saves as steps.', { rule: 'saves' }) : null,
  );
  return found ?? rules;
}

const firstOf = (...checks: (Refusal | null)[]): Refusal | null => checks.find((check) => check !== null) ?? null;
const show = (value: unknown): string => { const text = JSON.stringify(value) ?? 'nothing'; return text.length > 60 ? `${text.slice(0, 60)} …` : text; };
const either = (values: readonly string[]): string => `${values.slice(0, -1).join(', ')} or ${values.at(-1)}`;
/** The value of a rule by its path, such as `keep.published`. */
export const valueAt = (rules: Rulebook, path: string): unknown =>
  path.split('.').reduce<unknown>((value, name) => (value as Record<string, unknown> | undefined)?.[name], rules);

function refuseChoice(rule: string, value: unknown, values: readonly string[]): Refusal | null {
  if (values.includes(value as string)) return null;
  return refuse('invalid', 'rule-value-unknown', `${show(value)} is no choice for ${rule}. Choose ${either(values)}.`, { rule, given: value });
}

function refuseNumber(rule: string, value: unknown, bounds: { least: number; most: number; orNull?: boolean }): Refusal | null {
  if (value === null && bounds.orNull) return null;
  const no = (code: string, why: string): Refusal => refuse('invalid', code, `${rule} ${why}`, { rule, given: value });
  if (typeof value !== 'number' || Number.isNaN(value)) return no('limit-not-a-number', `is a number${bounds.orNull ? ', or null for none' : ''}; ${show(value)} is not.`);
  if (value < 0) return no('limit-negative', `cannot be ${value}, which is below zero.`);
  if (!Number.isInteger(value) && Number.isFinite(value)) return no('limit-fractional', `counts whole things; ${value} is not whole.`);
  if (value < bounds.least) return no('limit-too-small', `is at least ${bounds.least}; ${value} is less.`);
  if (value > bounds.most) return no('limit-too-large', `is at most ${bounds.most}; ${value} is more.${bounds.orNull ? ' Use null to set no limit.' : ''}`);
  return null;
}

function refuseDuration(value: unknown): Refusal | null {
  if (value === null || (typeof value === 'string' && parseDuration(value))) return null;
  return refuse('invalid', 'duration-invalid', `keep.spareYoungerThan is a duration as ISO 8601 writes it, such as P90D or P1Y6M, in whole numbers; ${show(value)} is not.`,
    { rule: 'keep.spareYoungerThan', given: value });
}

function refuseApprovers(value: unknown): Refusal | null {
  if (!Array.isArray(value) || !value.every((account) => typeof account === 'string' && account.length > 0 && account.length <= 60)) {
    return refuse('invalid', 'rule-value-unknown', 'approval.approvers is a list of accounts.', { rule: 'approval.approvers' });
  }
  const twice = value.find((account, index) => value.indexOf(account) !== index);
  if (twice !== undefined) return refuse('invalid', 'approver-twice', `${twice} is named twice as approver. Name each once.`, { rule: 'approval.approvers', given: twice });
  if (value.length <= mostApprovers) return null;
  return refuse('invalid', 'too-many-approvers', `${value.length} approvers are named; at most ${mostApprovers} are asked.`, { rule: 'approval.approvers' });
}

/** One rule that differs between two Rulebooks, by its path. */
export interface RuleChange { rule: string; from: unknown; to: unknown }

/** What differs between two Rulebooks, in the order of a document's life. */
export function rulebookDifference(before: Rulebook, after: Rulebook): RuleChange[] {
  return rulePaths.flatMap((rule) => {
    const [from, to] = [valueAt(before, rule), valueAt(after, rule)];
    return JSON.stringify(from) === JSON.stringify(to) ? [] : [{ rule, from, to }];
  });
}

/** Every rule by its path, in the order of a document's life. */
export const rulePaths: readonly string[] = Object.entries(defaultRulebook).flatMap(([name, value]) =>
  (typeof value === 'object' && value !== null && !Array.isArray(value) ? Object.keys(value).map((inner) => `${name}.${inner}`) : [name]));
