import { type Approver, callApprovers, type NewRun } from '../approval/run.ts';
import { formatLabel } from '../numbering/number.ts';
import type { Actor } from '../policy/roles.ts';
import type { Rulebook } from '../policy/rulebook.ts';
import { newVersion, type NewVersion } from './document.ts';
import { firstRefusal, refuseByRole, refuseComment, refuseFull, refuseTooLarge } from './document.ts';
import { makeVersion, refuseLevel } from './newVersion.ts';
import { isRefusal, type Refusal } from './refusal.ts';
import type { ContentFacts, Fields, Level } from './version.ts';

/** What a new document is registered with, besides the rules of its library. */
export interface Registration {
  content: ContentFacts; fields: Fields; comment: string; level: Level;
  owner: { id: string; name: string }; coAuthorIds: readonly string[];
  /** The document's own approvers, else the library's. */
  approvers: readonly Approver[];
  bytesKept: number | null;
}

/** The first version of a new document: 0.1 or 1.0, 1 under whole numbers; in approval where publication is asked for and has to be approved. */
export function createDocument(
  rules: Rulebook, actor: Actor, command: Registration, now: Date,
): { refused?: false; version: NewVersion; run: NewRun | null; ledger: { act: string; facts: Record<string, unknown> } } | Refusal {
  const refusal = firstRefusal(
    refuseByRole(actor, 'create', 'Registering a document'),
    refuseLevel(rules, command.level),
    refuseComment(command.comment, false),
    refuseTooLarge(rules, command.content.size),
    refuseFull(rules, command.bytesKept, command.content.size),
  );
  if (refusal) return refusal;
  const { level, content, fields, owner, coAuthorIds, approvers } = command;
  const comment = command.comment.trim() || 'First version';
  const version = makeVersion(rules, null, { level, content, fields, comment, authorId: actor.id, origin: { kind: 'upload', from: null } }, now);
  const posts = version.state === 'inApproval'
    ? callApprovers(rules, approvers, { label: formatLabel(version, 1), authorId: actor.id, ownerId: owner.id, coAuthorIds, holderId: null }, owner.name) : [];
  if (isRefusal(posts)) return posts;
  return {
    version,
    run: posts.length === 0 ? null : { versionId: newVersion, mode: rules.approval.mode, submitterId: actor.id, submittedAt: now, comment, inForceFrom: null, posts },
    ledger: { act: 'create', facts: { title: fields.title, sha256: content.sha256, state: version.state } },
  };
}
