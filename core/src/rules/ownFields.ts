import { type Refusal, refuse } from '../document/refusal.ts';
import type { FieldValue, OwnValues } from '../document/fieldValue.ts';
import type { Fields } from '../document/version.ts';

/** What a field of a library's own holds. */
export const fieldKinds = ['text', 'number', 'date', 'person', 'choice', 'yesNo'] as const;
export type FieldKind = (typeof fieldKinds)[number];

/** One thing to choose, and what it is parted into. */
export interface FieldChoice {
  name: string;
  within: string[];
}

/** A field that a library defines beside title, type, subject and review date. */
export interface OwnField {
  name: string;
  kind: FieldKind;
  /** What there is to choose, of a choice; two levels. */
  choices: FieldChoice[];
  /** The types of documents that need it; `all` of them, or none. */
  requiredFor: 'all' | string[];
  /** A change of it makes no version: it belongs to the document and is recorded in the Ledger. */
  administrative: boolean;
}

/** The fields that a Rulebook gives a library's documents. */
interface FieldRules {
  fields: readonly OwnField[];
}

/** Longest text of a field, in characters. */
const longestText = 2000;
/** More than a form can show. */
const maximumFields = 40;
const maximumChoices = 200;
/** What a document is asked for anyway, or its version tells; no field of a library's own is called so. */
const takenNames = [
  ...['title', 'type', 'subject', 'review by', 'review date', 'reviewBy', 'number', 'owner', 'co-authors'],
  ...['coAuthors', 'approvers', 'comment', 'level', 'version', 'state', 'library', 'file'],
];

/** Two names that differ in capitals only are one. */
const sameName = (a: string, b: string): boolean => a.toLowerCase() === b.toLowerCase();

/** The field of that name; undefined where the library has none. */
export const ownField = ({ fields }: FieldRules, name: string): OwnField | undefined =>
  fields.find((field) => field.name === name);

/**
 * Reads the fields somebody asks for as a rule.
 * @returns them, or a refusal naming the first that makes no sense
 */
export function admitFields(given: unknown): OwnField[] | Refusal {
  const no = (why: string, code = 'field-unfit'): Refusal =>
    refuse('invalid', code, `fields ${why}`, { rule: 'fields' });
  if (!Array.isArray(given)) return no('is a list of the fields of the library.', 'rule-value-unknown');
  if (given.length > maximumFields) return no(`names ${given.length}; at most ${maximumFields} are kept.`);
  const admitted: OwnField[] = [];
  for (const one of given as unknown[]) {
    const field = readField(one);
    if (typeof field === 'string') return no(field);
    if (takenNames.some((name) => sameName(name, field.name)))
      return no(`calls one “${field.name}”, which every document has already. Choose another name.`);
    if (admitted.some(({ name }) => sameName(name, field.name)))
      return no(`names “${field.name}” twice. Name each once.`, 'field-twice');
    admitted.push(field);
  }
  return admitted;
}

const isName = (value: unknown): value is string =>
  typeof value === 'string' && value.trim().length > 0 && value.length <= 60 && /^\P{C}*$/u.test(value);
const areNames = (value: unknown): value is string[] =>
  Array.isArray(value) && value.length <= maximumChoices && value.every(isName) && areDifferent(value);
const areDifferent = (names: readonly string[]): boolean => new Set(names).size === names.length;

/** A field as it was asked for, with what was left out; or a sentence's end saying what is wrong with it. */
function readField(given: unknown): OwnField | string {
  const {
    name,
    kind,
    choices = [],
    requiredFor = [],
    administrative = false,
    ...rest
  } = (given ?? {}) as Record<string, unknown>;
  if (!isName(name)) return 'holds one without a name of 1 to 60 characters.';
  const of = (why: string): string => `holds “${name}”, ${why}`;
  const [unknown] = Object.keys(rest);
  if (unknown !== undefined) return of(`of which ${unknown} is said; a field has no such thing.`);
  const known = fieldKinds.find((one) => one === kind);
  if (!known) return of(`which is none of ${fieldKinds.join(', ')}.`);
  const read = readChoices(choices);
  if (!read) return of('whose choices are not a list of different names, each with the names within it.');
  if (known === 'choice' && read.length === 0) return of('of which nothing can be chosen. Name the choices.');
  if (known !== 'choice' && read.length > 0) return of('which is no choice and yet names some.');
  if (requiredFor !== 'all' && !areNames(requiredFor))
    return of('of which requiredFor is neither all nor a list of types of documents.');
  if (typeof administrative !== 'boolean') return of('of which administrative is neither yes nor no.');
  return { name: name.trim(), kind: known, choices: read, requiredFor, administrative };
}

function readChoices(given: unknown): FieldChoice[] | null {
  if (!Array.isArray(given) || given.length > maximumChoices) return null;
  const read = given.map((one) => {
    const { name, within = [] } = (typeof one === 'string' ? { name: one } : (one ?? {})) as FieldChoice;
    return isName(name) && areNames(within) ? { name: name.trim(), within } : null;
  });
  const choices = read.filter((one) => one !== null);
  return choices.length === given.length && areDifferent(choices.map(({ name }) => name)) ? choices : null;
}

/** What a field holds, in a word for a refusal. */
const wants: Record<FieldKind, string> = {
  text: `a text of up to ${longestText} characters`,
  number: 'a number',
  date: 'a date such as 2026-03-31',
  person: 'a person of the library, by account',
  choice: 'one of the names there are to choose, and one within it where it is parted',
  yesNo: 'yes or no (true or false)',
};

const fits: Record<FieldKind, (value: FieldValue, field: OwnField) => boolean> = {
  text: (value) => typeof value === 'string' && value.length <= longestText,
  number: (value) => typeof value === 'number' && Number.isFinite(value),
  date: (value) => typeof value === 'string' && isDate(value),
  person: (value) => typeof value === 'object' && 'person' in value,
  choice: (value, { choices }) => {
    if (typeof value !== 'object' || 'person' in value || value.length > 2) return false;
    const [first, second] = value;
    const chosen = choices.find(({ name }) => name === first);
    return chosen !== undefined && (second === undefined || chosen.within.includes(second));
  },
  yesNo: (value) => typeof value === 'boolean',
};

/** A calendar date (ISO 8601-1, 5.2.2.1, extended) that there is. */
function isDate(text: string): boolean {
  if (!/^\d{4}-\d\d-\d\d$/.test(text)) return false;
  const read = new Date(`${text}T00:00:00Z`);
  return !Number.isNaN(read.getTime()) && read.toISOString().startsWith(text);
}

/** What is asked of fields of a library's own: null empties one. */
export type AskedValues = Readonly<Record<string, FieldValue | null>>;

/**
 * Refuses values of fields that the library does not have (`field-unknown`), or that do not fit them
 * (`field-value-unfit`). Emptying one is always possible.
 */
export function refuseValues(rules: FieldRules, asked: AskedValues): Refusal | null {
  for (const [name, value] of Object.entries(asked)) {
    const field = ownField(rules, name);
    if (value === null || isEmptyValue(value)) continue;
    if (!field) {
      const names = rules.fields.map((one) => one.name).join(', ');
      const has = names === '' ? 'It has none of its own.' : `It has ${names}.`;
      return refuse('invalid', 'field-unknown', `This library has no field “${name}”. ${has}`, {
        field: name,
      });
    }
    if (fits[field.kind](value, field)) continue;
    const reason = `“${name}” is ${wants[field.kind]}; what was given is not.`;
    return refuse('invalid', 'field-value-unfit', reason, { field: name, kind: field.kind });
  }
  return null;
}

/** Nothing was filled in. */
export const isEmptyValue = (value: FieldValue): boolean =>
  (typeof value === 'string' && value.trim() === '') || (Array.isArray(value) && value.length === 0);

/** Values with others laid over them; what is emptied is left out. */
export function withOwn(present: OwnValues, asked: AskedValues): OwnValues {
  return Object.fromEntries(
    Object.entries({ ...present, ...asked }).filter(
      (entry): entry is [string, FieldValue] => entry[1] !== null && !isEmptyValue(entry[1]),
    ),
  );
}

/** Values as fields of a version carry them: left out where there are none. */
export const asOwn = (own: OwnValues): Pick<Fields, 'own'> => (Object.keys(own).length > 0 ? { own } : {});

/** Values by whether a change of them makes a version. */
export function splitByKeeping<V>(
  rules: FieldRules,
  values: Readonly<Record<string, V>>,
): { versioned: Record<string, V>; administrative: Record<string, V> } {
  const isApart = ([name]: [string, V]): boolean => ownField(rules, name)?.administrative ?? false;
  const entries = Object.entries(values);
  return {
    versioned: Object.fromEntries(entries.filter((entry) => !isApart(entry))),
    administrative: Object.fromEntries(entries.filter(isApart)),
  };
}

/**
 * The values a document has with one of its versions: the version's, and over them those that belong to the
 * document, as far as their field is administrative or the version says nothing of it.
 */
export function shownValues(rules: FieldRules, version: OwnValues, administrative: OwnValues): OwnValues {
  const apart = Object.entries(administrative).filter(
    ([name]) => !Object.hasOwn(version, name) || ownField(rules, name)?.administrative,
  );
  return { ...version, ...Object.fromEntries(apart) };
}

/** Names of fields that a document of this type needs and has not, in the order of the Rulebook. */
export function missingFields(
  { fields }: FieldRules,
  { type = '' }: Pick<Fields, 'type'>,
  values: OwnValues,
): string[] {
  return fields
    .filter(({ requiredFor }) => requiredFor === 'all' || requiredFor.some((one) => sameName(one, type)))
    .map(({ name }) => name)
    .filter((name) => !Object.hasOwn(values, name));
}

/** Refuses what leaves out fields that a document of this type needs. */
export function refuseMissing(missing: readonly string[], type: string | undefined): Refusal | null {
  if (missing.length === 0) return null;
  const of = type === undefined || type === '' ? 'A document here' : `A document of the type “${type}”`;
  return refuse('invalid', 'fields-missing', `${of} needs ${listed(missing)}. Fill that in.`, { missing });
}

const listed = (names: readonly string[]): string =>
  names.length < 2 ? names.join('') : `${names.slice(0, -1).join(', ')} and ${names.at(-1)}`;
