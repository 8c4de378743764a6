import { isRefusal, refuse, type Refusal } from '../../document/refusal.ts';
import { decodeXml, elements, type Parsed, parseXml } from '../xml/xml.ts';
import { flatParts, isXml } from './flat.ts';
import { listZip, readEntry, type ZipEntry } from '../zip/readZip.ts';

/** A relation from a part (ECMA-376 part 2, 6.5). */
export interface Relation {
  id: string;
  /** The last segment of its type: `image`, `hyperlink`, `footnotes`. */
  type: string;
  /** The part's name without a leading slash, or an address. */
  target: string;
  external: boolean;
}

/** A word-processing package opened for reading. */
export interface DocxPackage {
  names: string[];
  /** The name of the part that holds the document's text. */
  main: string;
  /** The bytes of a part, by its name without a leading slash; a refusal when it is missing or damaged. */
  part(name: string): Uint8Array | Refusal;
  /** A part's XML; undefined where there is none. */
  xml(name: string): Parsed | Refusal | undefined;
  /** A part's relations by id; none where they cannot be read. */
  relations(name: string): Map<string, Relation>;
  /** The part that the main one is related to by a type; undefined where there is none. */
  related(type: string): string | undefined;
}

const notDocx = (why: string): Refusal =>
  refuse('invalid', 'not-a-docx', `The file is ${why}. Save it as .docx.`);

/**
 * Opens a .docx, or the same in one XML file. Its main part is the one the package says (ECMA-376 part 2,
 * 6.5.2 and part 1, 11.3.10).
 * @returns the package, or a refusal with code `unreadable-file`, `unfolds-too-large` or `not-a-docx`
 */
export function openDocx(bytes: Uint8Array): DocxPackage | Refusal {
  if (bytes.length === 0)
    return refuse('invalid', 'empty-file', 'The file is empty. Choose a file with content.');
  if (bytes[0] !== 0x50 || bytes[1] !== 0x4b) {
    const flat = flatParts(bytes);
    if (flat) return packageOfParts(flat);
    if (isXml(bytes)) return notDocx('XML that holds no document of a word processor, and is not shown here');
    return refuse(
      'invalid',
      'not-a-docx',
      'The file is named .docx but is not one. Give it its right ending, or save it as .docx.',
    );
  }
  const list = listZip(bytes);
  if (isRefusal(list)) return list;
  // Part names are equal without regard to ASCII case (ECMA-376 part 2, 6.2.2.3).
  const entries = new Map<string, ZipEntry>(list.map((entry) => [entry.name.toLowerCase(), entry]));
  const part = (name: string): Uint8Array | Refusal => {
    const entry = entries.get(name.toLowerCase());
    if (!entry) return refuse('notFound', 'part-not-found', `The file has no part ${name}.`);
    return readEntry(bytes, entry);
  };
  return packageOf({
    names: list.map(({ name }) => name),
    has: (name) => entries.has(name.toLowerCase()),
    part,
  });
}

/** A package whose parts are at hand. */
export const packageOfParts = (parts: ReadonlyMap<string, Uint8Array>): DocxPackage | Refusal =>
  packageOf({
    names: [...parts.keys()],
    has: (name) => parts.has(name),
    part: (name) => parts.get(name) ?? refuse('notFound', 'part-not-found', `The file has no part ${name}.`),
  });

function packageOf({
  names,
  has,
  part,
}: Pick<DocxPackage, 'names' | 'part'> & { has: (name: string) => boolean }): DocxPackage | Refusal {
  const known = new Map<string, Parsed | Refusal>();
  const xml = (name: string): Parsed | Refusal | undefined => {
    if (!has(name)) return undefined;
    const found = known.get(name);
    if (found) return found;
    const given = part(name);
    const made = isRefusal(given) ? given : parsePart(name, given);
    known.set(name, made);
    return made;
  };
  const relations = (name: string): Map<string, Relation> => readRelations(xml(relationsName(name)), name);
  const byType = (from: string, type: string): string | undefined =>
    [...relations(from).values()].find((each) => each.type === type && !each.external && has(each.target))
      ?.target;
  const main = byType('', 'officeDocument') ?? (has(usualMain) ? usualMain : undefined);
  if (!has('[Content_Types].xml') || main === undefined)
    return notDocx('a zip archive but not a .docx: its main part is missing');
  return { names, main, part, xml, relations, related: (type) => byType(main, type) };
}

const usualMain = 'word/document.xml';

/** The name of the part that holds a part's relations; of the package's own for the empty name. */
export const relationsName = (name: string): string => name.replace(/([^/]*)$/, '_rels/$1.rels');

/** Most bytes of XML in one part: some ten thousand pages of text. More would fill the memory as a tree. */
const mostXmlBytes = 32 << 20;

function parsePart(name: string, bytes: Uint8Array): Parsed | Refusal {
  if (bytes.length > mostXmlBytes) {
    return refuse(
      'invalid',
      'unfolds-too-large',
      `${name} in the file holds more text than a document may. It is not taken in.`,
      { part: name },
    );
  }
  return parseXml(decodeXml(bytes), name);
}

function readRelations(parsed: Parsed | Refusal | undefined, from: string): Map<string, Relation> {
  if (!parsed || isRefusal(parsed)) return new Map();
  return new Map(
    elements(parsed.root, 'Relationship').map(({ attributes }) => {
      const id = attributes['Id'] ?? '';
      const external = attributes['TargetMode'] === 'External';
      const target = attributes['Target'] ?? '';
      const type = /[^/]*$/.exec(attributes['Type'] ?? '')?.[0] ?? '';
      return [id, { id, type, external, target: external ? target : partNamed(target, from) }];
    }),
  );
}

/** The name of a part as a relation from another part tells it (ECMA-376 part 2, 6.4; RFC 3986, 5.2). */
export function partNamed(target: string, from: string): string {
  const folder = from.split('/').slice(0, -1);
  const path = target.startsWith('/') ? [] : folder;
  for (const segment of target.replace(/^\//, '').split('/')) {
    if (segment === '..') path.pop();
    else if (segment !== '.' && segment !== '') path.push(segment);
  }
  return path.join('/');
}

/** Unfolds every part once, so that damage anywhere is found at check-in and not years later. */
export function verifyParts(pack: DocxPackage): Refusal | null {
  for (const name of pack.names) {
    const part = pack.part(name);
    if (isRefusal(part)) return part;
    if (!/\.(xml|rels)$/i.test(name)) continue;
    const parsed = pack.xml(name);
    if (parsed && isRefusal(parsed)) return parsed;
  }
  return null;
}
