import { formatLabel } from '../numbering/number.ts';
import type { Actor } from '../policy/roles.ts';
import { askAboutContent, type CheckIn } from './checkIn.ts';
import type { DocumentState, Outcome } from './document.ts';
import { explainVersion, firstRefusal, refuseByRole, refuseComment, refuseInApproval, refuseTooLarge, refuseUnseenLatest, refuseWhileHeld } from './document.ts';
import { addVersion, refuseLevel } from './newVersion.ts';
import { isRefusal, refuse, type Refusal } from './refusal.ts';
import type { ContentFacts, Version } from './version.ts';

export type Upload = Pick<CheckIn, 'level' | 'comment' | 'confirm' | 'keepFileName' | 'taken' | 'sameButForMark'> & {
  content: ContentFacts;
  /** The version the file was edited from. */
  basedOn: Version;
};

/** A new version without a check-out, where the library's custody is optional and nobody holds the document. */
export function upload(state: DocumentState, actor: Actor, command: Upload, now: Date): Outcome {
  const refusal = firstRefusal(
    refuseByRole(actor, 'checkIn', 'Uploading a version'),
    refuseUnseenLatest(state, actor),
    state.rules.custody === 'optional' ? null
      : refuse('conflict', 'custody-required', 'In this library nothing changes without a check-out. Check the document out, then check your file in.'),
    refuseWhileHeld(state, actor),
    refuseInApproval(state),
    refuseStaleBase(state, actor, command.basedOn),
    refuseLevel(state.rules, command.level),
    refuseComment(command.comment, state.rules.checkInComment === 'required'),
    refuseTooLarge(state.rules, command.content.size),
    askAboutContent(state, state.latest, command.content, command),
  );
  if (refusal) return refusal;
  const content = command.keepFileName ? { ...command.content, fileName: state.latest.content.fileName } : command.content;
  const added = addVersion(state, actor, {
    level: command.level, authorId: actor.id, comment: command.comment.trim(),
    origin: { kind: 'upload', from: state.latest.id }, content, fields: state.latest.fields,
  }, now);
  if (isRefusal(added)) return added;
  const { label, version, changes } = added;
  return { changes, ledger: { act: 'upload', facts: { label, base: formatLabel(state.latest, state.presentEra), state: version.state, comment: version.comment, sha256: content.sha256 } } };
}

function refuseStaleBase(state: DocumentState, actor: Actor, base: Version): Refusal | null {
  if (base.id === state.latest.id) return null;
  const [named, latest] = [base, state.latest].map((version) =>
    (explainVersion(state, actor, version).sees ? formatLabel(version, state.presentEra) : null));
  return refuse('conflict', 'stale-base',
    `Your file is based on ${named ?? 'an earlier version'}, and ${latest ?? 'a newer one'} has come since. Nothing was stored. Compare the two, bring the changes together and upload again based on ${latest ?? 'the newer one'}.`,
    { basedOn: named, latest });
}
