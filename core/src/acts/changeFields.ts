import { isRefusal, refuse } from '../document/refusal.ts';
import type { Fields, Level } from '../document/version.ts';
import { refuseLevel } from '../rules/levels.ts';
import { type Actor, refuseByRole } from '../rules/roles.ts';
import { addVersion } from './addVersion.ts';
import { firstRefusal, refuseComment, refuseUnfree } from './refusals.ts';
import type { Change, DocumentState, Outcome, PeopleChange } from './state.ts';

/** What is to be changed beside a document's content. */
export interface ChangeFields {
  /** What is left out stays; null empties a field. */
  fields: { [Name in keyof Fields]?: Fields[Name] | null };
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
  const fields = withFields(latest.fields, command.fields);
  const changed = namesOf({ ...latest.fields, ...fields }).filter(
    (name) => JSON.stringify(fields[name]) !== JSON.stringify(latest.fields[name]),
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

const namesOf = (fields: Fields): (keyof Fields)[] => Object.keys(fields) as (keyof Fields)[];

/** The fields with what is to be changed; an empty one is left out. */
function withFields(present: Fields, changes: ChangeFields['fields']): Fields {
  const all = Object.entries({ ...present, ...changes });
  const filled = all.filter(([, value]) => value !== null && value !== '' && !isEmptyList(value));
  return { title: present.title, ...Object.fromEntries(filled) };
}

const isEmptyList = (value: unknown): boolean => Array.isArray(value) && value.length === 0;
