import { isRefusal, type Refusal, refuse } from '../document/refusal.ts';
import { numberings } from '../document/version.ts';
import { parseDuration } from './duration.ts';
import { refuseControlNames } from './controlNames.ts';
import { refusePatterns } from './numberPatterns.ts';
import { admitFields } from './ownFields.ts';
import {
  type AskedRulebook,
  completeRulebook,
  draftStays,
  type Rulebook,
  type RulebookChoices,
  type SightRole,
  sightRoles,
  valueAt,
} from './rulebook.ts';

/** The largest limit on versions; more than any document lives to see. */
export const largestLimit = 1_000_000;
/** The longest custody and grace, in days: ten years. */
export const longestDays = 3650;
/** More people than that are not asked about one version. */
const maximumApprovers = 50;

const choices: Record<string, readonly string[]> = {
  numbering: numberings,
  custody: ['required', 'optional'],
  saves: ['steps', 'drafts'],
  closedInProgram: ['asks', 'checksIn'],
  checkInComment: ['required', 'optional'],
  'approval.mode': ['serial', 'together', 'anyOne'],
  'approval.publishing': ['onApproval', 'byOwner'],
};
const switches = ['approval.on', 'approval.authorMayApprove', 'approval.controllersDecide', 'readersSeePast'];

/** Bounds of a number; `orNull` where it may be left unlimited. */
interface Bounds {
  minimum: number;
  maximum: number;
  orNull?: boolean;
}
const versionsFrom = (minimum: number): Bounds => ({ minimum, maximum: largestLimit, orNull: true });
const bytes: Bounds = { minimum: 1, maximum: Number.MAX_SAFE_INTEGER, orNull: true };
const limits: Record<string, Bounds> = {
  'keep.published': versionsFrom(0),
  'keep.drafts.newest': versionsFrom(1),
  custodyDays: { minimum: 1, maximum: longestDays, orNull: true },
  graceDays: { minimum: 0, maximum: longestDays },
  maxFileBytes: bytes,
  allowanceBytes: bytes,
};

/**
 * Reads the rules somebody asks for, filling what they leave open with the defaults.
 * @returns the rules, or a refusal naming the first rule that makes no sense (its `rule` is the path, `given`
 * the value)
 */
export function admitRulebook(asked: AskedRulebook): Rulebook | Refusal {
  const rules = completeRulebook(asked as RulebookChoices);
  const at = (rule: string): unknown => valueAt(rules, rule);
  const checks = [
    ...Object.entries(choices).map(([rule, values]) => refuseChoice(rule, at(rule), values)),
    ...['sight.draft', 'sight.inApproval', 'sight.rejected'].map((rule) => refuseSight(rule, at(rule))),
    ...switches.map((rule) => refuseSwitch(rule, at(rule))),
    ...Object.entries(limits).map(([rule, bounds]) => refuseNumber(rule, at(rule), bounds)),
    refuseStay(at('keep.drafts.stay')),
    refuseSpare(at('keep.spareYoungerThan')),
    refuseApprovers(at('approval.approvers')),
    refusePatterns(at('numberPatterns')),
    refuseControlNames(at('controlNames')),
    refuseSaves(rules),
  ];
  const refusal = checks.find((check) => check !== null);
  if (refusal) return refusal;
  const fields = admitFields(at('fields'));
  return isRefusal(fields) ? fields : { ...rules, fields, sight: inOrder(rules.sight) };
}

/** The roles of each set once, in the order of `sightRoles`, whatever the order they were asked for in. */
function inOrder(sight: Rulebook['sight']): Rulebook['sight'] {
  const ordered = (named: readonly SightRole[]): SightRole[] =>
    sightRoles.filter((role) => named.includes(role));
  return {
    draft: ordered(sight.draft),
    inApproval: ordered(sight.inApproval),
    rejected: ordered(sight.rejected),
  };
}

function show(value: unknown): string {
  const text = JSON.stringify(value) ?? 'nothing';
  return text.length > 60 ? `${text.slice(0, 60)} …` : text;
}
const either = (values: readonly string[]): string => `${values.slice(0, -1).join(', ')} or ${values.at(-1)}`;

function refuseChoice(rule: string, given: unknown, values: readonly string[]): Refusal | null {
  if (typeof given === 'string' && values.includes(given)) return null;
  const reason = `${show(given)} is no choice for ${rule}. Choose ${either(values)}.`;
  return refuse('invalid', 'rule-value-unknown', reason, { rule, given });
}

function refuseSwitch(rule: string, given: unknown): Refusal | null {
  if (typeof given === 'boolean') return null;
  return refuse('invalid', 'rule-value-unknown', `${rule} is yes or no, not ${show(given)}.`, {
    rule,
    given,
  });
}

function refuseSight(rule: string, given: unknown): Refusal | null {
  const known = sightRoles as readonly unknown[];
  if (Array.isArray(given) && given.every((role) => known.includes(role))) return null;
  const reason =
    `${rule} is a list of the roles that see such versions: any of ${sightRoles.join(', ')}; ${show(given)} is not. ` +
    "The document's team and controllers always see them.";
  return refuse('invalid', 'sight-role-unknown', reason, { rule, given });
}

function refuseNumber(rule: string, given: unknown, bounds: Bounds): Refusal | null {
  const { minimum, maximum, orNull } = bounds;
  if (given === null && orNull) return null;
  const no = (code: string, why: string): Refusal =>
    refuse('invalid', code, `${rule} ${why}`, { rule, given });
  if (typeof given !== 'number' || Number.isNaN(given)) {
    return no(
      'limit-not-a-number',
      `is a number${orNull ? ', or null for none' : ''}; ${show(given)} is not.`,
    );
  }
  if (given < 0) return no('limit-negative', `cannot be ${given}, which is below zero.`);
  if (!Number.isInteger(given) && Number.isFinite(given)) {
    return no('limit-fractional', `counts whole things; ${given} is not whole.`);
  }
  if (given < minimum) return no('limit-too-small', `is at least ${minimum}; ${given} is less.`);
  if (given > maximum) {
    const instead = orNull ? ' Use null to set no limit.' : '';
    return no('limit-too-large', `is at most ${maximum}; ${given} is more.${instead}`);
  }
  return null;
}

const isDuration = (given: unknown): boolean => typeof given === 'string' && parseDuration(given) !== null;
const durationForm = 'a duration as ISO 8601 writes it, such as P90D or P1Y6M, in whole numbers';

function refuseStay(given: unknown): Refusal | null {
  const rule = 'keep.drafts.stay';
  if (isDuration(given) || (draftStays as readonly unknown[]).includes(given)) return null;
  const reason = `${rule} is ${draftStays.join(', ')}, or ${durationForm}; ${show(given)} is not.`;
  return refuse('invalid', 'duration-invalid', reason, { rule, given });
}

function refuseSpare(given: unknown): Refusal | null {
  const rule = 'keep.spareYoungerThan';
  if (given === null || isDuration(given)) return null;
  const reason = `${rule} is ${durationForm}; ${show(given)} is not.`;
  return refuse('invalid', 'duration-invalid', reason, { rule, given });
}

function refuseApprovers(given: unknown): Refusal | null {
  const rule = 'approval.approvers';
  const isAccount = (account: unknown): boolean =>
    typeof account === 'string' && account.length > 0 && account.length <= 60;
  if (!Array.isArray(given) || !given.every(isAccount)) {
    return refuse('invalid', 'rule-value-unknown', `${rule} is a list of accounts.`, { rule });
  }
  const twice: unknown = given.find((account, index) => given.indexOf(account) !== index);
  if (twice !== undefined) {
    const reason = `${String(twice)} is named twice as approver. Name each once.`;
    return refuse('invalid', 'approver-twice', reason, { rule, given: twice });
  }
  if (given.length <= maximumApprovers) return null;
  const reason = `${given.length} approvers are named; at most ${maximumApprovers} are asked.`;
  return refuse('invalid', 'too-many-approvers', reason, { rule });
}

function refuseSaves({ saves, closedInProgram, numbering }: Rulebook): Refusal | null {
  if (numbering === 'stepped') return null;
  if (closedInProgram === 'checksIn') {
    const reason =
      'What a program closes can be checked in as a draft only where there are drafts between published versions. Choose stepped numbers, or that its holder is asked.';
    return refuse('invalid', 'closing-needs-steps', reason, { rule: 'closedInProgram' });
  }
  if (saves !== 'drafts') return null;
  const reason =
    'Saves can be drafts only where there are drafts between published versions. Choose stepped numbers, or saves as steps.';
  return refuse('invalid', 'saves-need-steps', reason, { rule: 'saves' });
}
