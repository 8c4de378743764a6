import { formatLabel } from '../numbering/number.ts';
import type { Actor } from '../policy/roles.ts';
import type { Change, DocumentState, Outcome } from './document.ts';
import { firstRefusal, refuseByRole, refuseComment, refuseTooLarge } from './document.ts';
import { refuseNotHolding } from '../custody/holding.ts';
import { addVersion, refuseLevel } from './newVersion.ts';
import { isRefusal, refuse, type Refusal } from './refusal.ts';
import type { ContentFacts, Level, Version } from './version.ts';

/** Questions a check-in can ask; each is answered by confirming its code. */
export const checkInQuestions = ['same-bytes', 'other-name', 'other-type', 'stale-base', 'other-document'] as const;
export type CheckInQuestion = (typeof checkInQuestions)[number];
/** Whether a refusal's code is a question that can be answered yes. */
export const isCheckInQuestion = (code: string): code is CheckInQuestion => (checkInQuestions as readonly string[]).includes(code);

/** What a file says of itself: the version it was taken from, by the mark written into it. */
export interface Taken {
  number: string;
  label: string;
  versionId: string;
  /** That version's content, where it is one of this document's. */
  sha256: string | null;
}

export interface CheckIn {
  level: Level;
  comment: string;
  keepCheckedOut: boolean;
  confirm: readonly CheckInQuestion[];
  /** The file that comes with the check-in; null takes the working copy, or the base where nothing was saved. */
  content: ContentFacts | null;
  /** Keep the registered file name though the file comes under another. */
  keepFileName: boolean;
  /** What the file's mark says; null for one without. */
  taken?: Taken | null;
  /** The file differs from the base in its mark only. */
  sameButForMark?: boolean;
}

/** Checks in: a new version on top of the base, of the level asked for (docs/rules.md, Custody). */
export function checkIn(state: DocumentState, actor: Actor, command: CheckIn, now: Date): Outcome {
  const { custody } = state;
  const refusal = firstRefusal(
    refuseByRole(actor, 'checkIn', 'Checking in'),
    refuseNotHolding(state, actor),
    refuseLevel(state.rules, command.level),
    refuseComment(command.comment, state.rules.checkInComment === 'required'),
  );
  if (refusal) return refusal;
  if (!custody) throw new Error('unreachable: refuseNotHolding accepts only a held document');

  const given = command.content ?? custody.workingCopy ?? custody.base.content;
  const open = firstRefusal(refuseTooLarge(state.rules, given.size), askAboutContent(state, custody.base, given, command));
  if (open) return open;

  const registered = custody.base.content;
  const content = command.keepFileName ? { ...given, fileName: registered.fileName } : given;
  const added = addVersion(state, actor, {
    level: command.level,
    authorId: actor.id,
    comment: command.comment.trim(),
    origin: { kind: 'checkIn', from: custody.base.id },
    content,
    fields: state.latest.fields,
  }, now, command.keepCheckedOut);
  if (isRefusal(added)) return added;
  const { version, label, changes } = added;
  const after: Change[] = command.keepCheckedOut
    ? [{ kind: 'emptyWorkingCopy' }, { kind: 'moveBase', to: 'new' }]
    : [{ kind: 'closeCustody', how: 'checkedIn', reason: null }];
  return {
    changes: [...changes, ...after],
    ledger: {
      act: 'checkIn',
      facts: { label, base: formatLabel(custody.base, state.presentEra), state: version.state, comment: version.comment,
        sha256: content.sha256, kept: command.keepCheckedOut },
    },
  };
}

/** The questions a new content raises against the version it is based on; the first that is not answered yet. */
export function askAboutContent(
  state: Pick<DocumentState, 'number' | 'presentEra'>, base: Version, given: ContentFacts, command: Pick<CheckIn, 'confirm' | 'keepFileName' | 'taken' | 'sameButForMark'>,
): Refusal | null {
  const registered = base.content;
  const label = formatLabel(base, state.presentEra);
  const { taken } = command;
  const confirmed = (code: CheckInQuestion): boolean => command.confirm.includes(code);
  if (taken && taken.number !== state.number && !confirmed('other-document')) {
    return refuse('question', 'other-document', `The file was taken from ${taken.number} ${taken.label}; this is ${state.number}. Check it in here all the same?`,
      { taken: `${taken.number} ${taken.label}`, here: state.number });
  }
  // A publication has the content of its draft: a file taken from either is of both.
  if (taken && taken.number === state.number && taken.versionId !== base.id && taken.sha256 !== registered.sha256 && !confirmed('stale-base')) {
    return refuse('question', 'stale-base', `The file was taken from ${taken.label}; the latest is ${label}. Check it in all the same, without what came after ${taken.label}?`,
      { base: taken.label, latest: label });
  }
  if (given.mediaType !== registered.mediaType && !confirmed('other-type')) {
    return refuse('question', 'other-type',
      `${given.fileName} is not of the same type as the registered ${registered.fileName}. Check in the other type?`,
      { given: given.mediaType, registered: registered.mediaType });
  }
  if (given.fileName !== registered.fileName && !command.keepFileName && !confirmed('other-name')) {
    return refuse('question', 'other-name',
      `The file is named ${given.fileName}; the document is registered as ${registered.fileName}. Take the new name?`,
      { given: given.fileName, registered: registered.fileName });
  }
  if ((given.sha256 === registered.sha256 || command.sameButForMark) && !confirmed('same-bytes')) {
    return refuse('question', 'same-bytes',
      `The file is the same, byte for byte${given.sha256 === registered.sha256 ? '' : ' but for the version written into it'}, as ${label}. Check it in all the same?`, { base: label, sha256: given.sha256 });
  }
  return null;
}
