import type { Refusal } from '../versions/refusal.ts';
import { refuse } from '../versions/refusal.ts';
import type { Numbering } from '../versions/version.ts';

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

/**
 * Refuses rules that this version of Polychron would not carry out, so that no library is promised what does
 * not happen. Null when every rule is carried out.
 */
export function refuseUnsupported(rules: Rulebook): Refusal | null {
  const open: [boolean, string, string][] = [
    [rules.numbering === 'none', 'numbering', 'documents without version numbers'],
    [rules.approval.on, 'approval.on', 'approval'],
    [rules.saves === 'drafts', 'saves', 'saves that are drafts'],
    [Object.values(rules.keep).some((limit) => limit !== null), 'keep', 'limits on what is kept'],
    [rules.custody === 'optional', 'custody', 'changes without a check-out'],
    [rules.allowanceBytes !== null, 'allowanceBytes', 'an allowance of bytes'],
    [rules.fields.length > 0, 'fields', "a library's own fields"],
  ];
  const found = open.find(([asked]) => asked);
  if (!found) return null;
  return refuse('invalid', 'rule-not-supported',
    `The rule ${found[1]} asks for ${found[2]}, which is not available yet. Leave it at its default.`, { rule: found[1] });
}
