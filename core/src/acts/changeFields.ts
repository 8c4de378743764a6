import { isRefusal, refuse } from '../document/refusal.ts';
import type { FieldValue, OwnValues } from '../document/fieldValue.ts';
import type { Fields, Level } from '../document/version.ts';
import { refuseLevel } from '../rules/levels.ts';
import {
  asOwn,
  type AskedValues,
  missingFields,
  refuseMissing,
  refuseValues,
  shownValues,
  splitByKeeping,
  withOwn,
} from '../rules/ownFields.ts';
import { type Actor, refuseByRole } from '../rules/roles.ts';
import { addVersion } from './addVersion.ts';
import { firstRefusal, refuseComment, refuseUnfree } from './refusals.ts';
import type { Change, DocumentState, Outcome, PeopleChange } from './state.ts';

type CommonName = Exclude<keyof Fields, 'own'>;

/** What is to be changed beside a document's content. */
export interface ChangeFields {
  /** What is left out stays; null empties a field. */
  fields: { [Name in CommonName]?: Fields[Name] | null } & { own?: AskedValues | undefined };
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
 * Changes fields: a version too, with the same content. Owner, co-authors, approvers and what the Rulebook
 * calls administrative are no fields of a version: changing them alone makes none, and is kept in the Ledger.
 */
export function changeFields(state: DocumentState, actor: Actor, command: ChangeFields, now: Date): Outcome {
  const { rules, latest } = state;
  const level = command.level ?? (rules.numbering === 'stepped' ? 'minor' : 'major');
  const refusal = firstRefusal(
    refuseByRole(actor, 'changeFields', 'Changing fields'),
    refuseUnfree(state, actor),
    refuseLevel(rules, level),
    refuseComment(command.comment, false),
    refuseValues(rules, command.fields.own ?? {}),
  );
  if (refusal) return refusal;
  const { fields, administrative } = fieldsThen(state, command.fields);
  const lacking = refuseMissing(newlyMissing(state, fields, administrative), fields.type);
  if (lacking) return lacking;
  const { named, ...people } = command.people ?? { named: {} };
  const apart = differences(state.administrative, administrative);
  const beside: Change[] = [
    ...('owner' in people ? [{ kind: 'setPeople' as const, ...people }] : []),
    ...(apart.length > 0 ? [{ kind: 'setAdministrative' as const, values: administrative }] : []),
  ];
  const changed = differences(flat(latest.fields), flat(fields));
  const facts = {
    ...('owner' in people ? { people: named } : {}),
    ...(apart.length > 0 ? { administrative: valuesOf(apart, state.administrative, administrative) } : {}),
  };
  if (changed.length === 0) {
    if (apart.length > 0) return { changes: beside, ledger: { act: 'fields', facts } };
    if (beside.length > 0) return { changes: beside, ledger: { act: 'people', facts: named } };
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
  return {
    changes: [...beside, ...added.changes],
    ledger: { act: 'fields', facts: { label: added.label, changed, ...facts } },
    notices: added.notices,
  };
}

/** The fields of the version to come, and what belongs to the document itself then. */
function fieldsThen(
  { rules, latest, administrative }: DocumentState,
  { own = {}, ...common }: ChangeFields['fields'],
): { fields: Fields; administrative: OwnValues } {
  const present = latest.fields.own ?? {};
  const asked = splitByKeeping(rules, own);
  // A version may hold a field that became administrative since: emptied, it would show again.
  const emptied = Object.entries(asked.administrative).filter(
    ([name, value]) => value === null && Object.hasOwn(present, name),
  );
  const versioned = { ...asked.versioned, ...Object.fromEntries(emptied) };
  const taken = Object.fromEntries(Object.keys(asked.versioned).map((name) => [name, null]));
  const { own: _, ...rest } = latest.fields;
  return {
    fields: { ...withFields(rest, common), ...asOwn(withOwn(present, versioned)) },
    administrative: withOwn(administrative, { ...taken, ...asked.administrative }),
  };
}

/** Fields a document of its type would need that it did not lack before. */
function newlyMissing(state: DocumentState, fields: Fields, administrative: OwnValues): string[] {
  const missing = (of: Fields, apart: OwnValues): string[] =>
    missingFields(state.rules, of, shownValues(state.rules, of.own ?? {}, apart));
  const before = missing(state.latest.fields, state.administrative);
  return missing(fields, administrative).filter((name) => !before.includes(name));
}

type Named = Readonly<Record<string, unknown>>;
const flat = ({ own, ...common }: Fields): Named => ({ ...common, ...own });

/** Names of what differs. */
function differences(before: Named, after: Named): string[] {
  return Object.keys({ ...before, ...after }).filter(
    (name) => JSON.stringify(before[name]) !== JSON.stringify(after[name]),
  );
}

/** What the Ledger says of values that no version holds: as they were, and are. */
const valuesOf = (names: readonly string[], before: OwnValues, after: OwnValues) =>
  Object.fromEntries(names.map((name) => [name, { from: orNull(before[name]), to: orNull(after[name]) }]));
const orNull = (value: FieldValue | undefined): FieldValue | null => value ?? null;

/** The fields with what is to be changed; an empty one is left out. */
function withFields(present: Fields, changes: { [Name in CommonName]?: Fields[Name] | null }): Fields {
  const all = Object.entries({ ...present, ...changes });
  const filled = all.filter(([, value]) => value !== null && value !== '' && !isEmptyList(value));
  return { title: present.title, ...Object.fromEntries(filled) };
}

const isEmptyList = (value: unknown): boolean => Array.isArray(value) && value.length === 0;
