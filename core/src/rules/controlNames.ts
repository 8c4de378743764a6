import { type Refusal, refuse } from '../document/refusal.ts';

/** What is written into an issued copy, in the order it is told in. */
export const controlFields = [
  'number',
  'title',
  'version',
  'status',
  'owner',
  'approvers',
  'issueDate',
  'reviewDate',
] as const;
export type ControlField = (typeof controlFields)[number];

/** What each is called in files, unless a library calls it otherwise. */
export const usualControlNames: Record<ControlField, string> = {
  number: 'Document number',
  title: 'Document title',
  version: 'Document version',
  status: 'Document status',
  owner: 'Document owner',
  approvers: 'Document approvers',
  issueDate: 'Issue date',
  reviewDate: 'Review date',
};

/**
 * A name as it is looked for: bookmarks have no spaces (ECMA-376 part 1, 17.13.6.2), so that
 * `Document_number` and `DocumentNumber` are "Document number".
 */
export const controlKey = (name: string): string =>
  name
    .normalize('NFKC')
    .toLowerCase()
    .replace(/[\s_]+/g, '');

/** Longest name that every kind of file can hold: that of a bookmark (ECMA-376 part 1, 17.13.6.2). */
const longestName = 40;

/** Refuses names that cannot stand in a file, or that two share. */
export function refuseControlNames(given: unknown): Refusal | null {
  const names = (given ?? {}) as Record<string, unknown>;
  for (const field of controlFields) {
    const rule = `controlNames.${field}`;
    const name = names[field];
    if (
      typeof name === 'string' &&
      name.length <= longestName &&
      /^[\p{L}\p{N}][\p{L}\p{N} _.-]*$/u.test(name)
    )
      continue;
    const reason = `${rule} is a name of up to ${longestName} letters, digits, spaces and _ . -, such as “${usualControlNames[field]}”.`;
    return refuse('invalid', 'control-name-unfit', reason, { rule, given: name });
  }
  const keys = controlFields.map((field) => controlKey(String(names[field])));
  const twice = controlFields.find((_, index) => keys.indexOf(keys[index] ?? '') !== index);
  if (!twice) return null;
  const rule = `controlNames.${twice}`;
  const reason = `“${String(names[twice])}” names two things in issued copies. Give each a name of its own.`;
  return refuse('invalid', 'control-name-twice', reason, { rule });
}
