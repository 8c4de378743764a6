import type * as contract from '@polychron/contract';
import { type Fields, type FieldValue, type OwnValues, valueWords } from '@polychron/core';

/** Account and name of a person by id. */
export type PersonOf = (id: string) => contract.Person;

type PersonValue = Extract<FieldValue, { person: string }>;
const isPerson = (value: FieldValue): value is PersonValue => typeof value === 'object' && 'person' in value;

/** The people whom fields of a library's own name, by id. */
export const peopleIn = (own: OwnValues = {}): string[] =>
  Object.values(own).flatMap((value) => (isPerson(value) ? [value.person] : []));

/** Fields as the API tells them: those of the library's own beside the others, people by account and name. */
export function fieldsView({ own = {}, ...common }: Fields, person: PersonOf): contract.Fields {
  const told = Object.entries(own).map(([name, value]): [string, contract.FieldValue] => [
    name,
    isPerson(value) ? person(value.person) : value,
  ]);
  return { ...common, ...Object.fromEntries(told) } as contract.Fields;
}

/** Fields with people in words, as they are compared and written out. */
export function fieldsInWords({ own = {}, ...common }: Fields, person: PersonOf): Fields {
  const words = Object.entries(own).map(([name, value]): [string, string] => [
    name,
    valueWords(value, (id) => person(id).name),
  ]);
  return { ...common, own: Object.fromEntries(words) };
}

/** A value as it was sent. */
type SentValue = contract.FieldValue | null | undefined;
/** Fields and people as they were sent, those of the library's own among them. */
export type SentFields = Readonly<Record<string, SentValue>>;

/** What is said with the fields and is none. */
const beside = ['number', 'owner', 'coAuthors', 'approvers'];

/** The fields of the library's own among those that were sent. */
export const ownAmong = (sent: SentFields): Record<string, SentValue> =>
  Object.fromEntries(Object.entries(sent).filter(([name]) => !isOneOf([...versioned, ...beside], name)));

/** The fields every document has, of those that were sent. */
export const commonAmong = <F extends SentFields>(sent: F): Common<F> =>
  Object.fromEntries(Object.entries(sent).filter(([name]) => isOneOf(versioned, name))) as Common<F>;

const versioned = ['title', 'type', 'subject', 'reviewBy'] as const;
type Common<F> = Pick<F, keyof F & (typeof versioned)[number]>;
const isOneOf = (names: readonly string[], name: string): boolean => names.includes(name);
