import { isRefusal, type Refusal, refuse } from '../document/refusal.ts';
import type { ContentFacts, Level, Version } from '../document/version.ts';
import { refuseTooLarge } from '../rules/allowance.ts';
import { levelOf, refuseLevel } from '../rules/levels.ts';
import { type Actor, refuseByRole } from '../rules/roles.ts';
import { addVersion } from './addVersion.ts';
import { askAboutContent, type Incoming, underName } from './contentQuestions.ts';
import { seesVersion, firstRefusal, refuseComment, refuseUnfree } from './refusals.ts';
import { type DocumentState, labelIn, type Outcome } from './state.ts';

/** A file that becomes the next version without a check-out. */
export interface Upload extends Incoming {
  level?: Level | undefined;
  comment: string;
  content: ContentFacts;
  /** The version the file was edited from. */
  basedOn: Version;
}

/**
 * A new version without a check-out, where the library's custody is optional and nobody holds the document.
 */
export function upload(state: DocumentState, actor: Actor, command: Upload, now: Date): Outcome {
  const { rules, latest } = state;
  const refusal = firstRefusal(
    refuseByRole(actor, 'checkIn', 'Uploading a version'),
    refuseCustodyRequired(state),
    refuseUnfree(state, actor),
    refuseStaleBase(state, actor, command.basedOn),
    refuseLevel(rules, command.level),
    refuseComment(command.comment, rules.checkInComment === 'required'),
    refuseTooLarge(rules, command.content.size),
    askAboutContent(state, latest, command.content, command),
  );
  if (refusal) return refusal;
  const content = underName(command.content, latest.content, command);
  const making = {
    level: levelOf(command.level),
    comment: command.comment.trim(),
    origin: { kind: 'upload' as const, from: latest.id },
    content,
    fields: latest.fields,
  };
  const added = addVersion(state, actor, making, now);
  if (isRefusal(added)) return added;
  const { label, version, changes, notices } = added;
  const { comment, state: became } = version;
  const facts = { label, base: labelIn(state, latest), state: became, comment, sha256: content.sha256 };
  return { changes, ledger: { act: 'upload', facts }, notices };
}

function refuseCustodyRequired({ rules }: DocumentState): Refusal | null {
  if (rules.custody === 'optional') return null;
  const reason =
    'In this library nothing changes without a check-out. Check the document out, then check your file in.';
  return refuse('conflict', 'custody-required', reason);
}

function refuseStaleBase(state: DocumentState, actor: Actor, base: Version): Refusal | null {
  if (base.id === state.latest.id) return null;
  const named = (version: Version): string | null =>
    seesVersion(state, actor, version) ? labelIn(state, version) : null;
  const facts = { basedOn: named(base), latest: named(state.latest) };
  const newer = facts.latest ?? 'the newer one';
  return refuse(
    'conflict',
    'stale-base',
    `Your file is based on ${facts.basedOn ?? 'an earlier version'}, and ${facts.latest ?? 'a newer one'} has come since. Nothing was stored. Compare the two, bring the changes together and upload again based on ${newer}.`,
    facts,
  );
}
