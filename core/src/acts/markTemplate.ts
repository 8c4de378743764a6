import { type Refusal, refuse } from '../document/refusal.ts';
import { type Actor, refuseByRole } from '../rules/roles.ts';
import { firstRefusal } from './refusals.ts';
import type { DocumentState, Outcome } from './state.ts';

/** The type of documents that begin as a copy of this one; null: none do any more. */
export interface MarkTemplate {
  type: string | null;
}

/** Refuses who may not say which documents are templates. */
export const refuseMarking = (actor: Actor): Refusal | null =>
  refuseByRole(actor, 'markTemplate', 'Marking templates');

/**
 * Makes a document the template of a type, or ends that. It makes no version: what is in force of it is what
 * new documents begin with.
 */
export function markTemplate(state: DocumentState, actor: Actor, command: MarkTemplate): Outcome {
  const type = command.type?.trim() || null;
  const refusal = firstRefusal(refuseMarking(actor), refuseSame(state, type));
  if (refusal) return refusal;
  return {
    changes: [{ kind: 'setTemplate', type }],
    ledger: { act: 'template', facts: { from: state.templateFor, to: type } },
  };
}

function refuseSame({ number, templateFor }: DocumentState, type: string | null): Refusal | null {
  if (type !== templateFor) return null;
  const reason =
    type === null ? `${number} is no template.` : `${number} is the template of “${type}” already.`;
  return refuse('conflict', 'nothing-changed', reason);
}
