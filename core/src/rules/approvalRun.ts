import { may, type Role } from './roles.ts';
import type { Rulebook } from './rulebook.ts';
import { maySee, type SightFacts } from './sight.ts';
import { refuse, type Refusal } from '../document/refusal.ts';

/** Somebody who may be asked to decide, with the roles they hold. */
export interface Approver {
  id: string;
  name: string;
  roles: ReadonlySet<Role>;
}

/** What an approver can say. */
export const decisions = ['approve', 'reject', 'later'] as const;
export type ApprovalDecision = (typeof decisions)[number];

/** One approver's place in a run, and what they said. `later` leaves it open. */
export interface Post {
  personId: string;
  name: string;
  decision: ApprovalDecision | null;
  at: Date | null;
  comment: string;
  /** Whether a controller decided here in the place of those who were asked. */
  inPlace: boolean;
}

/** The place of somebody who is asked and has said nothing yet. */
export const openPost = ({ id, name }: Pick<Approver, 'id' | 'name'>): Post => ({
  personId: id,
  name,
  decision: null,
  at: null,
  comment: '',
  inPlace: false,
});

export type ApprovalMode = Rulebook['approval']['mode'];
/** How a run ended. */
export const runOutcomes = ['approved', 'rejected', 'calledBack', 'rulesChanged'] as const;
export type RunOutcome = (typeof runOutcomes)[number];

/** The asking of approvers about one version. */
export interface ApprovalRun {
  /** `new` while it is the version made in the same act. */
  versionId: string;
  mode: ApprovalMode;
  submitterId: string;
  submitterName: string;
  submittedAt: Date;
  comment: string;
  /** When the version should come into force; null: as soon as it is published. */
  inForceFrom: Date | null;
  posts: readonly Post[];
}
const isOpen = (post: Pick<Post, 'decision'>): boolean => post.decision === null || post.decision === 'later';

/** Whose decision a run waits for: the next in turn, or everyone who has not decided. */
export function waitingFor<P extends Pick<Post, 'decision'>>(run: {
  mode: ApprovalMode;
  posts: readonly P[];
}): P[] {
  const open = run.posts.filter(isOpen);
  return run.mode === 'serial' ? open.slice(0, 1) : open;
}

/** Whether the posts' approvals are enough. */
export function isComplete(run: Pick<ApprovalRun, 'mode' | 'posts'>): boolean {
  const approved = (post: Post): boolean => post.decision === 'approve';
  return run.mode === 'anyOne' ? run.posts.some(approved) : run.posts.every(approved);
}

/**
 * Whether somebody could decide about a version: who holds the role, sees versions in approval, and is not
 * the version's author, unless authors may approve.
 */
export const canDecide = (
  rules: Rulebook,
  approver: Approver,
  facts: Omit<SightFacts, 'state' | 'standing' | 'thinned'>,
): boolean =>
  may(approver.roles, 'decide') &&
  (rules.approval.authorMayApprove || approver.id !== facts.authorId) &&
  maySee(approver, { ...facts, state: 'inApproval', standing: null, thinned: false }, rules);

/**
 * The posts of a run about a version: those of the named approvers who could decide, in their order.
 * @returns the posts; a run that nobody could decide is refused (`no-approver`), saying who can name an
 * approver
 */
export function callApprovers(
  rules: Rulebook,
  approvers: readonly Approver[],
  facts: Omit<SightFacts, 'state' | 'standing' | 'thinned'>,
  ownerName: string,
): Post[] | Refusal {
  const asked = approvers.filter((approver) => canDecide(rules, approver, facts));
  if (asked.length > 0) return asked.map(openPost);
  const why =
    approvers.length === 0
      ? 'No approver is named.'
      : `Of the named approvers (${approvers.map(({ name }) => name).join(', ')}) none could decide: an approver needs the role, must see versions in approval, and may not be the version's author here.`;
  return refuse(
    'conflict',
    'no-approver',
    `${why} ${ownerName} can name approvers for the document, a controller can name them in the Rulebook.`,
    { named: approvers.map(({ name }) => name) },
  );
}
