import { rolesThatMay } from '../rules/roles.ts';
import type { Rulebook } from '../rules/rulebook.ts';
import { reach } from '../rules/sight.ts';

/** Something a person should know about the rules they are about to set, with a stable code. */
export interface RuleNote {
  code: string;
  text: string;
}

/** What was counted while a change of rules was rehearsed. */
export interface NoteFacts {
  documents: number;
  openDrafts: number;
  withoutApprover: number;
  larger: number;
  bytesAfter: number;
}

/** A library whose allowance is used to this share is nearly full. */
export const nearlyFull = 0.9;
const many = (count: number, one: string): string => `${count} ${one}${count === 1 ? '' : 's'}`;

/** What is worth saying beside the figures. */
export function notesOn(before: Rulebook, after: Rulebook, facts: NoteFacts): RuleNote[] {
  return [
    ...keepingNotes(before, after),
    ...approvalNotes(before, after, facts),
    ...spaceNotes(before, after, facts),
    ...fieldNotes(before, after),
    ...otherNotes(before, after),
  ];
}

const noteIf = (when: boolean, code: string, text: string): RuleNote[] => (when ? [{ code, text }] : []);

function keepingNotes(before: Rulebook, after: Rulebook): RuleNote[] {
  const { stay } = after.keep.drafts;
  const changed = stay !== before.keep.drafts.stay || after.keep.published !== before.keep.published;
  const follows = stay === 'withTheirVersion' && after.keep.published === null;
  return noteIf(
    follows && changed && after.numbering !== 'none',
    'drafts-stay-with-all',
    'All published versions stay, so the drafts that led to them stay too, unless a version is thinned by hand.',
  );
}

function approvalNotes(before: Rulebook, after: Rulebook, facts: NoteFacts): RuleNote[] {
  const { approval } = after;
  if (!approval.on) return [];
  return [
    ...noteIf(
      !before.approval.on && facts.openDrafts > 0,
      'drafts-need-approval',
      `${many(facts.openDrafts, 'open draft')} can be published only once approved. What is in force stays in force.`,
    ),
    ...noteIf(
      approval.approvers.length === 0 && facts.withoutApprover > 0,
      'no-approver-named',
      `For ${many(facts.withoutApprover, 'document')} nobody is named to approve; submitting them is refused until somebody is.`,
    ),
    ...noteIf(
      rolesThatMay('decide').some((role) => reach(new Set([role]), after).inApproval !== 'all'),
      'approvers-blind',
      'Approvers outside the team could not see versions in approval, which they are to decide about, and are not asked.',
    ),
  ];
}

function spaceNotes(before: Rulebook, after: Rulebook, facts: NoteFacts): RuleNote[] {
  const { allowanceBytes, maxFileBytes } = after;
  const stay = facts.larger === 1 ? 'stays as it is' : 'stay as they are';
  const notes = noteIf(
    facts.larger > 0 && maxFileBytes !== before.maxFileBytes,
    'larger-files-stay',
    `${many(facts.larger, 'version')} larger than the new limit ${stay}.`,
  );
  if (allowanceBytes === null || facts.bytesAfter < allowanceBytes * nearlyFull) return notes;
  const kept = `The library would keep ${facts.bytesAfter} bytes of ${allowanceBytes} allowed`;
  const full = facts.bytesAfter >= allowanceBytes;
  return [
    ...notes,
    ...noteIf(full, 'library-full', `${kept}: full, new content is refused.`),
    ...noteIf(!full, 'library-nearly-full', `${kept}: nearly full.`),
  ];
}

function fieldNotes(before: Rulebook, after: Rulebook): RuleNote[] {
  const was = new Map(before.fields.map((field) => [field.name, field]));
  const is = new Set(after.fields.map(({ name }) => name));
  const quoted = (names: readonly string[]): string => names.map((name) => `“${name}”`).join(', ');
  const gone = [...was.keys()].filter((name) => !is.has(name));
  const wanted = after.fields.filter(
    ({ name, requiredFor }) =>
      requiredFor.length > 0 && JSON.stringify(requiredFor) !== JSON.stringify(was.get(name)?.requiredFor),
  );
  const refilled = after.fields.filter(({ name, kind }) => (was.get(name)?.kind ?? kind) !== kind);
  return [
    ...noteIf(
      gone.length > 0,
      'fields-go',
      `What documents say under ${quoted(gone)} stays with their versions; nothing new can be filled in there.`,
    ),
    ...noteIf(
      wanted.length > 0,
      'fields-required',
      `${quoted(wanted.map(({ name }) => name))} must be filled in where a document is registered, and cannot be emptied; documents without it stay as they are.`,
    ),
    ...noteIf(
      refilled.length > 0,
      'fields-change-kind',
      `What is filled in under ${quoted(refilled.map(({ name }) => name))} stays as it was written until it is changed.`,
    ),
  ];
}

function otherNotes(before: Rulebook, after: Rulebook): RuleNote[] {
  return [
    ...noteIf(
      after.graceDays === 0 && before.graceDays !== 0,
      'no-grace',
      'Without days of grace, thinned content is gone at once and cannot be recovered.',
    ),
    ...noteIf(
      after.numbering === 'none' && before.numbering !== 'none',
      'one-current-version',
      'Documents keep one current version; whatever is replaced goes to the recovery shelf.',
    ),
    ...noteIf(
      after.saves !== before.saves && after.saves === 'steps',
      'saves-become-steps',
      'From now on a save makes no draft; drafts made so far stay.',
    ),
  ];
}
