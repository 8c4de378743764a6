import { isRefusal, type Refusal, refuse } from '../document/refusal.ts';
import { type Actor, may, refuseByRole } from '../rules/roles.ts';
import { addVersion } from './addVersion.ts';
import { concerned } from './notices.ts';
import { firstRefusal, refuseComment, refuseUnfree } from './refusals.ts';
import { type DocumentState, labelIn, type Outcome, type Review } from './state.ts';

/** Days before its date from which a document is to be reviewed. */
export const reviewAhead = 30;

/**
 * Reviews what is in force: confirmed it holds on, with the next date; opened it is to be changed, and where
 * there are drafts and none is open, one is made of it. A review is kept with the version and makes none by
 * itself.
 */
export function review(state: DocumentState, actor: Actor, command: Review, now: Date): Outcome {
  const { outcome, nextBy } = command;
  const comment = command.comment.trim();
  const refusal = firstRefusal(
    refuseReviewing(state, actor),
    refuseComment(comment, outcome === 'opened'),
    outcome === 'confirmed' ? refusePast(nextBy, now) : null,
  );
  if (refusal) return refusal;
  const inForce = state.inForce as NonNullable<typeof state.inForce>;
  const label = labelIn(state, inForce);
  const draft = outcome === 'opened' ? draftOf(state, actor, comment, now) : null;
  if (isRefusal(draft)) return draft;
  const kept = outcome === 'confirmed' ? nextBy : null;
  const facts = { version: label, outcome, comment, nextBy: kept, draft: draft?.label ?? null };
  return {
    changes: [
      { kind: 'review', reviewedId: inForce.id, outcome, comment, nextBy: kept, at: now },
      ...(draft?.changes ?? []),
    ],
    ledger: { act: 'review', facts },
    notices: [
      ...(draft?.notices ?? []),
      {
        kind: 'reviewed',
        personIds: concerned(state, actor, ...state.coAuthorIds),
        about: `reviewed:${inForce.id}:${now.getTime()}`,
        facts: { by: actor.name, label, outcome, comment, nextBy: kept },
      },
    ],
  };
}

/** Whether somebody may not review a document; null where they may. */
export function refuseReviewing(state: DocumentState, actor: Actor): Refusal | null {
  const { number, ownerId, ownerName, coAuthorIds, inForce } = state;
  const byRole = refuseByRole(actor, 'review', 'Reviewing a document');
  if (byRole) return byRole;
  const inCharge = [ownerId, ...coAuthorIds].includes(actor.id) || may(actor.roles, 'reviewOthers');
  if (!inCharge) {
    const reason = `${number} is reviewed by its owner ${ownerName}, its co-authors and controllers.`;
    return refuse('forbidden', 'not-in-charge', reason, { owner: ownerName });
  }
  if (inForce) return null;
  return refuse(
    'conflict',
    'nothing-to-review',
    `Nothing of ${number} is in force; there is nothing to review.`,
  );
}

function refusePast(nextBy: string | null, now: Date): Refusal | null {
  if (nextBy === null || nextBy > dayAfter(now, 0)) return null;
  const reason = `The next review cannot be due on ${nextBy}, which is not after today. Name a later day, or none.`;
  return refuse('invalid', 'moment-past', reason, { moment: nextBy });
}

/** The draft that is opened; null where there are none, one is open already, or somebody works on one. */
function draftOf(state: DocumentState, actor: Actor, comment: string, now: Date) {
  const { rules, latest, inForce } = state;
  const isOpen = latest.id !== inForce?.id;
  if (rules.numbering !== 'stepped' || isOpen || refuseUnfree(state, actor)) return null;
  const making = {
    level: 'minor' as const,
    comment,
    origin: { kind: 'restore' as const, from: latest.id },
    content: latest.content,
    fields: latest.fields,
  };
  return addVersion(state, actor, making, now);
}

/**
 * The date of the next review that is proposed: as long after today as this one was due after the document
 * came into force or was reviewed, in whole months; a year where it had no date.
 * @returns an ISO 8601 calendar date
 */
export function proposedReview({ since, by, now }: { since: Date; by: string | null; now: Date }): string {
  const months = by === null ? 12 : Math.max(1, monthsBetween(since, new Date(`${by}T00:00:00Z`)));
  const next = new Date(Date.UTC(now.getUTCFullYear(), now.getUTCMonth() + months, 1));
  const last = new Date(Date.UTC(next.getUTCFullYear(), next.getUTCMonth() + 1, 0)).getUTCDate();
  next.setUTCDate(Math.min(now.getUTCDate(), last));
  return next.toISOString().slice(0, 10);
}

/** Months between two moments, to the nearest. */
const monthsBetween = (from: Date, to: Date): number =>
  Math.round((to.getTime() - from.getTime()) / (86_400_000 * 30.44));

/** A day so many days after a moment, as an ISO 8601 calendar date. */
export const dayAfter = (now: Date, days: number): string =>
  new Date(now.getTime() + days * 86_400_000).toISOString().slice(0, 10);

/** Whether a review is due: not yet, soon, or since a day that is past. */
export function reviewState(by: string | null, now: Date): 'none' | 'soon' | 'passed' {
  if (by === null) return 'none';
  if (by < dayAfter(now, 0)) return 'passed';
  return by <= dayAfter(now, reviewAhead) ? 'soon' : 'none';
}
