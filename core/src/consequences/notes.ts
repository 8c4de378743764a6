import type { Rulebook } from '../policy/rulebook.ts';

/** Something a person should know about the rules they are about to set, with a stable code. */
export interface RuleNote { code: string; text: string }

export interface NoteFacts { documents: number; openDrafts: number; withoutApprover: number; larger: number; bytesAfter: number }

/** A library whose allowance is used to this share is nearly full. */
export const nearlyFull = 0.9;
/** From this limit on people take "drafts outlive" for a number of drafts. */
const easilyMistaken = 10;

const many = (count: number, one: string, more = `${one}s`): string => `${count} ${count === 1 ? one : more}`;

/** What is worth saying beside the figures. */
export function notesOn(before: Rulebook, after: Rulebook, facts: NoteFacts): RuleNote[] {
  const notes: RuleNote[] = [];
  const say = (when: boolean, code: string, text: string): void => { if (when) notes.push({ code, text }); };
  const { draftsOutlive } = after.keep;
  const { approval, allowanceBytes } = after;
  say(draftsOutlive !== null && draftsOutlive >= easilyMistaken && draftsOutlive !== before.keep.draftsOutlive, 'outlive-counts-publications',
    `Drafts outlive ${draftsOutlive} publications: that is every draft of the last ${draftsOutlive} publications, not ${draftsOutlive} drafts.`);
  say(approval.on && !before.approval.on && facts.openDrafts > 0, 'drafts-need-approval',
    `${many(facts.openDrafts, 'open draft')} can be published only once approved. What is in force stays in force.`);
  say(approval.on && approval.approvers.length === 0 && facts.withoutApprover > 0, 'no-approver-named',
    `For ${many(facts.withoutApprover, 'document')} nobody is named to approve; submitting them is refused until somebody is.`);
  say(approval.on && after.sight.inApproval === 'team', 'approvers-blind',
    'Versions in approval are for the team and controllers: approvers outside the team could not see what they decide, and are not asked.');
  say(facts.larger > 0 && after.maxFileBytes !== before.maxFileBytes, 'larger-files-stay', `${many(facts.larger, 'version')} larger than the new limit ${facts.larger === 1 ? 'stays' : 'stay'} as they are.`);
  say(allowanceBytes !== null && facts.bytesAfter >= allowanceBytes, 'library-full', `The library would keep ${facts.bytesAfter} bytes of ${allowanceBytes ?? 0} allowed: full, new content is refused.`);
  say(allowanceBytes !== null && facts.bytesAfter < allowanceBytes && facts.bytesAfter >= allowanceBytes * nearlyFull, 'library-nearly-full',
    `The library would keep ${facts.bytesAfter} bytes of ${allowanceBytes ?? 0} allowed: nearly full.`);
  say(after.graceDays === 0 && before.graceDays !== 0, 'no-grace', 'Without days of grace, thinned content is gone at once and cannot be recovered.');
  say(after.numbering === 'none' && before.numbering !== 'none', 'one-current-version', 'Documents keep one current version; whatever is replaced goes to the recovery shelf.');
  say(after.saves !== before.saves && after.saves === 'steps', 'saves-become-steps', 'From now on a save makes no draft; drafts made so far stay.');
  return notes;
}
