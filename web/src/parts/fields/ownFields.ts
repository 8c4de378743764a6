import type { Document, FieldValue, Fields, Library, OwnField } from '@polychron/contract';
import { date } from '../../ui/when.ts';

/** What every document has, beside which the fields of its library stand. */
const commonNames = ['title', 'type', 'subject', 'reviewBy'];

/** A value as a form holds it and the API takes it: a person by account. */
export type GivenValue = Exclude<FieldValue, { account: string }>;

type Own = Record<string, FieldValue>;

/** The fields of the library's own among those of a document or a version. */
export const ownAmong = (fields: Fields): Own =>
  Object.fromEntries(
    Object.entries(fields).filter((entry): entry is [string, FieldValue] => {
      const [name, value] = entry;
      return !commonNames.includes(name) && value !== undefined;
    }),
  );

const isPerson = (value: FieldValue): value is Extract<FieldValue, { account: string }> =>
  typeof value === 'object' && 'account' in value;

/** The fields of the library's own as a form holds them. */
export const givenOf = (fields: Fields): Record<string, GivenValue> =>
  Object.fromEntries(
    Object.entries(ownAmong(fields)).map(([name, value]) => [name, isPerson(value) ? value.account : value]),
  );

/** The people whom fields name. */
export const peopleAmong = (fields: Fields): { account: string; name: string }[] =>
  Object.values(ownAmong(fields)).filter(isPerson);

/** A value in words, as a person reads it. */
export function valueInWords(value: FieldValue, kind: OwnField['kind'] | undefined): string {
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (typeof value === 'object') return isPerson(value) ? value.name : value.join(' · ');
  return kind === 'date' && typeof value === 'string' ? date(value) : String(value);
}

/**
 * The fields of the library's own in words, in the order of the Rulebook, then those that it has no more. Of
 * an earlier version, what is administrative is as it is now.
 */
export function ownLines(
  library: Pick<Library, 'rules'> | null | undefined,
  document: Pick<Document, 'fields'>,
  shown: Fields,
): [name: string, words: string][] {
  const { fields = [] } = library?.rules ?? {};
  const kinds = new Map(fields.map(({ name, kind }) => [name, kind]));
  const isApart = (name: string): boolean =>
    fields.some((field) => field.name === name && field.administrative);
  const present = Object.entries(ownAmong(document.fields)).filter(([name]) => isApart(name));
  const values = { ...ownAmong(shown), ...Object.fromEntries(present) };
  const names = [...new Set([...kinds.keys(), ...Object.keys(values)])];
  return names.flatMap((name): [string, string][] => {
    const value = values[name];
    return value === undefined ? [] : [[name, valueInWords(value, kinds.get(name))]];
  });
}

/** Types of documents that the rules name, to be proposed where one is asked for. */
export function knownTypes({
  fields,
  numberPatterns,
}: Pick<Library['rules'], 'fields' | 'numberPatterns'>): string[] {
  const named = [
    ...numberPatterns.flatMap(({ type }) => type ?? []),
    ...fields.flatMap(({ requiredFor }) => (requiredFor === 'all' ? [] : requiredFor)),
  ];
  return [...new Set(named)].filter(Boolean).sort((a, b) => a.localeCompare(b));
}

/** Whether a document of this type needs the field. */
export const isNeeded = ({ requiredFor }: OwnField, type: string | undefined): boolean =>
  requiredFor === 'all' || requiredFor.some((one) => one.toLowerCase() === type?.trim().toLowerCase());

/** Nothing was filled in. */
export const isEmpty = (value: GivenValue | null | undefined): boolean =>
  value === null ||
  value === undefined ||
  (typeof value === 'string' && value.trim() === '') ||
  (Array.isArray(value) && value.length === 0);
