import { isRefusal, refuse } from '../document/refusal.ts';
import type { Fields, Level } from '../document/version.ts';
import { refuseLevel } from '../rules/levels.ts';
import { type Actor, refuseByRole } from '../rules/roles.ts';
import { addVersion } from './addVersion.ts';
import { firstRefusal, refuseComment, refuseUnfree } from './refusals.ts';
import type { Change, DocumentState, Outcome, PeopleChange } from './state.ts';

/** What is to be changed beside a document's content. */
export interface ChangeFields {
  fields: Partial<Fields>;
  comment: string;
  /** Left out: the next draft, where there are drafts. */
  level?: Level | undefined;
  /**
   * The document's people; null leaves them as they are. `named` tells the Ledger, by account, what was asked
   * for.
   */
  people?: (PeopleChange & { named: Record<string, unknown> }) | null | undefined;
}

/**
 * Changes fields: a version too, with the same content. Owner, co-authors and approvers are no fields of a
 * version: changing them alone makes none, and is kept in the Ledger.
 */
export function changeFields(state: DocumentState, actor: Actor, command: ChangeFields, now: Date): Outcome {
  const { rules, latest } = state;
  const level = command.level ?? (rules.numbering === 'stepped' ? 'minor' : 'major');
  const refusal = firstRefusal(
    refuseByRole(actor, 'changeFields', 'Changing fields'),
    refuseUnfree(state, actor),
    refuseLevel(rules, level),
    refuseComment(command.comment, false),
  );
  if (refusal) return refusal;
  const { named, ...people } = command.people ?? { named: {} };
  const setPeople: Change[] = 'owner' in people ? [{ kind: 'setPeople', ...people }] : [];
  const fields = { ...latest.fields, ...command.fields };
  const changed = Object.entries(fields).flatMap(([name, value]) =>
    JSON.stringify(value) === JSON.stringify(latest.fields[name as keyof Fields]) ? [] : [name],
  );
  if (changed.length === 0) {
    if (setPeople.length > 0) return { changes: setPeople, ledger: { act: 'people', facts: named } };
    return refuse('invalid', 'nothing-changed', 'The fields are as they were; there is nothing to record.');
  }
  const making = {
    level,
    comment: command.comment.trim() || `Changed ${changed.join(', ')}`,
    origin: { kind: 'fields' as const, from: latest.id },
    content: latest.content,
    fields,
  };
  const added = addVersion(state, actor, making, now);
  if (isRefusal(added)) return added;
  const facts = { label: added.label, changed, ...(setPeople.length > 0 ? { people: named } : {}) };
  return {
    changes: [...setPeople, ...added.changes],
    ledger: { act: 'fields', facts },
    notices: added.notices,
  };
}
