/**
 * What a field of a library's own holds: a text, a number, a date (ISO 8601), yes or no, what was chosen on
 * one level or two, or a person by id.
 */
export type FieldValue = string | number | boolean | string[] | { person: string };
export type OwnValues = Readonly<Record<string, FieldValue>>;

/**
 * A value in words, as a table or a comparison shows it.
 * @param nameOf the name of a person by id
 */
export function valueWords(value: FieldValue, nameOf: (personId: string) => string): string {
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (typeof value !== 'object') return String(value);
  return 'person' in value ? nameOf(value.person) : value.join(' · ');
}
