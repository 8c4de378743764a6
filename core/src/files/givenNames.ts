import { driveFileName } from './drivePath.ts';

/** What browsers and file managers add to a name that is there (common practice): " (1)", " - Copy". */
const added = /(?: ?\(\d{1,3}\)| ?- Copy(?: \(\d{1,3}\))?)(?=\.[^.]*$|$)/;

/** A file's name without what was added to it by a program that had one of that name already. */
export const withoutAdded = (name: string): string => {
  const plain = name.replace(added, '');
  return plain === name ? name : withoutAdded(plain);
};

/** A label as it stands in the name of an issued copy: "2.0", "12", "3.0 (second numbering)". */
const label = String.raw`(?:\d+(?:\.\d+)?(?: \(\w+ numbering\))?|u\d+)`;
const literally = (text: string): string => text.replace(/[.*+?^${}()|[\]\\]/g, String.raw`\$&`);

/** One spelling of a name: some file systems take accents apart (Unicode Annex 15, forms C and D). */
const composed = (name: string): string => name.normalize('NFC');

/**
 * Whether a file has a name that a document's file has, or had from here: the registered one, the drive's, or
 * that of an issued copy; `number`: it only begins with the document's number, or holds it, as a word.
 */
export function isNamedAs(
  name: string,
  document: { number: string; title: string; fileName: string },
): 'exactly' | 'number' | null {
  const plain = composed(withoutAdded(name));
  const number = composed(document.number);
  const fileName = composed(document.fileName);
  const before = `(?:${literally(number.replace(/[/\\]/g, '-'))} )?`;
  const issued = new RegExp(`^${before}${label} ${literally(fileName)}$`);
  const given = [fileName, composed(driveFileName(document))];
  if ([composed(name), plain].some((one) => given.includes(one) || issued.test(one))) return 'exactly';
  const word = new RegExp(`(?:^|[^\\p{L}\\p{N}])${literally(number)}(?![\\p{L}\\p{N}])`, 'u');
  return word.test(plain) ? 'number' : null;
}

/**
 * Names that a document's file may be registered under, where it has this one: itself, without what was added
 * to it, and without number and label before it, in each spelling.
 */
export function fileNamesIn(name: string): string[] {
  const issued = new RegExp(`(?:^| )${label} (.+)$`);
  const plain = [name, withoutAdded(name)];
  const all = [...plain, ...plain.flatMap((one) => issued.exec(one)?.[1] ?? [])];
  return [...new Set(all.flatMap((one) => [one.normalize('NFC'), one.normalize('NFD')]))];
}

/** Words of a name that may be a document's number: with a digit, longest first, three at most. */
export const numbersIn = (name: string): string[] =>
  [
    ...new Set(
      withoutAdded(name)
        .replace(/\.[^.]*$/, '')
        .match(/[\p{L}\p{N}][\p{L}\p{N}\-/.]*/gu) ?? [],
    ),
  ]
    .filter((word) => /\d/.test(word) && word.length > 2)
    .sort((a, b) => b.length - a.length)
    .slice(0, 3);
