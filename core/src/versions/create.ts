import type { Actor } from '../policy/roles.ts';
import type { Rulebook } from '../policy/rulebook.ts';
import type { NewVersion } from './document.ts';
import { firstRefusal, refuseByRole, refuseComment, refuseTooLarge } from './document.ts';
import { makeVersion, refuseLevel } from './newVersion.ts';
import type { Refusal } from './refusal.ts';
import type { ContentFacts, Fields, Level } from './version.ts';

/** The first version of a new document: 0.1 or 1.0, or 1 under whole numbers. */
export function createDocument(
  rules: Rulebook, actor: Actor,
  command: { content: ContentFacts; fields: Fields; comment: string; level: Level }, now: Date,
): { refused?: false; version: NewVersion; ledger: { act: string; facts: Record<string, unknown> } } | Refusal {
  const refusal = firstRefusal(
    refuseByRole(actor, 'create', 'Registering a document'),
    refuseLevel(rules, command.level),
    refuseComment(command.comment, false),
    refuseTooLarge(rules, command.content.size),
  );
  if (refusal) return refusal;
  const version = makeVersion(rules, null, {
    ...command, comment: command.comment.trim() || 'First version',
    authorId: actor.id, origin: { kind: 'upload', from: null },
  }, now);
  return { version, ledger: { act: 'create', facts: { title: command.fields.title, sha256: command.content.sha256 } } };
}
