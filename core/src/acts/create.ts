import { isRefusal, type Refusal } from '../document/refusal.ts';
import type { ContentFacts, Fields, Level, Version } from '../document/version.ts';
import { refuseFull, refuseTooLarge } from '../rules/allowance.ts';
import { type ApprovalRun, callApprovers } from '../rules/approvalRun.ts';
import { refuseLevel } from '../rules/levels.ts';
import { formatLabel } from '../rules/numbering.ts';
import { asOwn, missingFields, refuseMissing, refuseValues, splitByKeeping } from '../rules/ownFields.ts';
import { type Actor, refuseByRole } from '../rules/roles.ts';
import { makeVersion } from './addVersion.ts';
import { noticeToDecide } from './notices.ts';
import type { Opening } from './reduce.ts';
import { firstRefusal, refuseComment } from './refusals.ts';
import { type Change, type Decision, newVersion, type NewVersion } from './state.ts';

/** What a new document is registered with. */
export interface Registration {
  content: ContentFacts;
  fields: Fields;
  comment: string;
  /** The version of a template that it begins with; null where it begins with a file. */
  templateVersionId: string | null;
  /** Left out: a draft where there are drafts. */
  level?: Level | undefined;
}

/**
 * Registers a document with its first version: 0.1 or 1.0, 1 under whole numbers; in approval where
 * publication is asked for and has to be approved. `openDocument` says what that makes.
 */
export function createDocument(
  opening: Opening,
  actor: Actor,
  command: Registration,
  now: Date,
): Decision | Refusal {
  const { rules, bytesKept } = opening;
  const { content, fields: asked } = command;
  const { own = {}, ...common } = asked;
  const level = command.level ?? (rules.numbering === 'stepped' ? 'minor' : 'major');
  const refusal = firstRefusal(
    refuseByRole(actor, 'create', 'Registering a document'),
    refuseLevel(rules, level),
    refuseComment(command.comment, false),
    refuseTooLarge(rules, content.size),
    refuseFull(rules, bytesKept, content.size),
    refuseValues(rules, own),
    refuseMissing(missingFields(rules, asked, own), asked.type),
  );
  if (refusal) return refusal;
  const { versioned, administrative } = splitByKeeping(rules, own);
  const fields = { ...common, ...asOwn(versioned) };
  const comment = command.comment.trim() || 'First version';
  const version = makeVersion(
    rules,
    { highest: null, era: 1 },
    { level, content, fields, comment, origin: originOf(command) },
    { authorId: actor.id, at: now },
  );
  const isApart = Object.keys(administrative).length > 0;
  const facts = {
    title: fields.title,
    sha256: content.sha256,
    state: version.state,
    ...(isApart ? { administrative } : {}),
  };
  const decision = { ledger: { act: 'create', facts } };
  const added: Change[] = [
    { kind: 'addVersion', version },
    ...(isApart ? [{ kind: 'setAdministrative' as const, values: administrative }] : []),
  ];
  if (version.state !== 'inApproval') return { ...decision, changes: added };
  const run = firstRun(opening, actor, version);
  if (isRefusal(run)) return run;
  const notices = noticeToDecide(opening.id, formatLabel(version, 1), null, run);
  return { ...decision, changes: [...added, { kind: 'openRun', run }], notices };
}

const originOf = ({ templateVersionId }: Registration): Version['origin'] =>
  templateVersionId === null ? { kind: 'upload', from: null } : { kind: 'template', from: templateVersionId };

function firstRun(opening: Opening, actor: Actor, version: NewVersion): ApprovalRun | Refusal {
  const { rules, owner, coAuthorIds, approvers } = opening;
  const label = formatLabel(version, 1);
  const facts = {
    label,
    authorId: actor.id,
    ownerId: owner.id,
    coAuthorIds,
    holderId: null,
    circle: null,
    voided: false,
  };
  const posts = callApprovers(rules, approvers, facts, owner.name);
  if (isRefusal(posts)) return posts;
  return {
    versionId: newVersion,
    mode: rules.approval.mode,
    submitterId: actor.id,
    submitterName: actor.name,
    submittedAt: version.at,
    comment: version.comment,
    inForceFrom: null,
    posts,
  };
}
