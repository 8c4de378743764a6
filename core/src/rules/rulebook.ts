import type { Numbering } from '../document/version.ts';
import { type ControlField, usualControlNames } from './controlNames.ts';
import type { NumberPattern } from './numberPatterns.ts';
import type { OwnField } from './ownFields.ts';
import type { Role } from './roles.ts';

/** The roles that may be let see unpublished versions; the document's team and the controllers always do. */
export const sightRoles = ['reader', 'auditor', 'author', 'approver'] as const satisfies readonly Role[];
export type SightRole = (typeof sightRoles)[number];

/** How long drafts stay once the version they led to is published, where that is no ISO 8601 duration. */
export const draftStays = ['all', 'withTheirVersion', 'untilPublished'] as const;

/**
 * A library's rules, in the order of a document's life. `null` means all, or none, as the rule's name says.
 */
export interface Rulebook {
  numbering: Numbering;
  /** How documents are numbered, by type; where none fits, by the library's code: OP-001. */
  numberPatterns: NumberPattern[];
  /** Fields of the library's own, beside title, type, subject and review date. */
  fields: OwnField[];
  custody: 'required' | 'optional';
  /** Days a check-out lasts unless said otherwise; null: without end. */
  custodyDays: number | null;
  saves: 'steps' | 'drafts';
  /** What becomes of what a program saved, once it is closed there. */
  closedInProgram: 'asks' | 'checksIn';
  checkInComment: 'required' | 'optional';
  approval: {
    on: boolean;
    mode: 'serial' | 'together' | 'anyOne';
    authorMayApprove: boolean;
    /** Whether a controller may decide in the place of those asked, with a reason. */
    controllersDecide: boolean;
    approvers: string[];
    publishing: 'onApproval' | 'byOwner';
  };
  /** Who sees unpublished versions, by state; `approved` follows `inApproval`. No role includes another. */
  sight: { draft: SightRole[]; inApproval: SightRole[]; rejected: SightRole[] };
  readersSeePast: boolean;
  /** What is written into issued copies, by the name it has in the library's files. */
  controlNames: Record<ControlField, string>;
  keep: {
    published: number | null;
    /**
     * How long drafts stay after the version they led to was published: one of `draftStays`, or an ISO 8601
     * duration; and how many of those that stay, the newest of each published version.
     */
    drafts: { stay: string; newest: number | null };
    /** ISO 8601 duration, or null. */
    spareYoungerThan: string | null;
  };
  graceDays: number;
  maxFileBytes: number | null;
  allowanceBytes: number | null;
}

/** The rules of a new library (docs/rules.md, Defaults). */
export const defaultRulebook: Rulebook = {
  numbering: 'stepped',
  numberPatterns: [],
  fields: [],
  custody: 'required',
  custodyDays: 5,
  saves: 'steps',
  closedInProgram: 'asks',
  checkInComment: 'required',
  approval: {
    on: false,
    mode: 'serial',
    authorMayApprove: false,
    controllersDecide: false,
    approvers: [],
    publishing: 'onApproval',
  },
  sight: { draft: ['author', 'approver'], inApproval: ['approver'], rejected: ['author'] },
  readersSeePast: false,
  controlNames: usualControlNames,
  keep: { published: null, drafts: { stay: 'all', newest: null }, spareYoungerThan: null },
  graceDays: 30,
  maxFileBytes: null,
  allowanceBytes: null,
};

/** Rules chosen; what is left out is the default, or stays as it is. */
export type RulebookChoices = {
  [rule in keyof Rulebook]?: Rulebook[rule] extends unknown[] | null
    ? Rulebook[rule]
    : Rulebook[rule] extends object
      ? { [part in keyof Rulebook[rule]]?: PartOf<Rulebook[rule][part]> | undefined } | undefined
      : Rulebook[rule] | undefined;
};
type PartOf<T> = T extends unknown[] ? T : T extends object ? Partial<T> : T;

/** Rules as they were asked for: the right names, any values. */
export type AskedRulebook = { [rule in keyof Rulebook]?: unknown };

const isGroup = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

/** Lays chosen rules over others, group by group; only rules that there are, whatever else was given. */
function layOver(rules: Record<string, unknown>, chosen: Record<string, unknown>): Record<string, unknown> {
  return Object.fromEntries(
    Object.entries(rules).map(([name, value]) => {
      const choice = chosen[name];
      if (choice === undefined) return [name, value];
      return [name, isGroup(value) && isGroup(choice) ? layOver(value, choice) : choice];
    }),
  );
}

/** Lays chosen rules over those in force: what is left out stays as it is. The result is to be admitted. */
export function proposeRules(present: Rulebook, chosen: AskedRulebook): AskedRulebook {
  return layOver({ ...present }, { ...chosen });
}

/** Fills what a library leaves open with the defaults. */
export function completeRulebook(choices: RulebookChoices): Rulebook {
  return layOver({ ...defaultRulebook }, { ...choices }) as unknown as Rulebook;
}

/** The value of a rule by its path, such as `keep.published`. */
export const valueAt = (rules: Rulebook, path: string): unknown =>
  path.split('.').reduce<unknown>((value, name) => (isGroup(value) ? value[name] : undefined), rules);

/**
 * Rules with some of them set to other values, by their paths; so one person's choices are put onto
 * another's.
 */
export function withValues(rules: Rulebook, values: readonly Pick<RuleChange, 'rule' | 'to'>[]): Rulebook {
  const chosen = values.reduce<Record<string, unknown>>(
    (all, { rule, to }) => layUnder(all, rule.split('.'), to),
    {},
  );
  return layOver({ ...rules }, chosen) as unknown as Rulebook;
}

/** A value put under a path of names, beside what is there. */
function layUnder(
  group: Record<string, unknown>,
  [name = '', ...rest]: string[],
  value: unknown,
): Record<string, unknown> {
  if (rest.length === 0) return { ...group, [name]: value };
  const inner = group[name];
  return { ...group, [name]: layUnder(isGroup(inner) ? inner : {}, rest, value) };
}

/** One rule that differs between two Rulebooks, by its path. */
export interface RuleChange {
  rule: string;
  from: unknown;
  to: unknown;
}

/** What differs between two Rulebooks, in the order of a document's life. */
export function rulebookDifference(before: Rulebook, after: Rulebook): RuleChange[] {
  return rulePaths.flatMap((rule) => {
    const [from, to] = [valueAt(before, rule), valueAt(after, rule)];
    return JSON.stringify(from) === JSON.stringify(to) ? [] : [{ rule, from, to }];
  });
}

/** Every rule by its path, in the order of a document's life. */
export const rulePaths: readonly string[] = pathsIn({ ...defaultRulebook });

function pathsIn(rules: Record<string, unknown>): string[] {
  return Object.entries(rules).flatMap(([name, value]) =>
    isGroup(value) ? pathsIn(value).map((inner) => `${name}.${inner}`) : [name],
  );
}
