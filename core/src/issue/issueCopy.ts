import { isRefusal, type Refusal } from '../document/refusal.ts';
import { openDocx } from '../files/docx/package.ts';
import {
  customProperties,
  escapeXml,
  setCustomProperty,
  setUserDefined,
  unescapeXml,
  userDefined,
} from '../files/customProperties.ts';
import { packageOf } from '../files/mark.ts';
import { decodeXml, type Element, elements, type Parsed, parseXml, writeXml } from '../files/xml/xml.ts';
import { writeAll } from '../files/zip/writeZip.ts';
import { controlKey } from '../rules/controlNames.ts';
import type { ControlValues } from './controlFields.ts';
import { fillWord } from './fillWord.ts';
import { notIssued, stampPdf } from './stampPdf.ts';

/** Files into which control fields are written, by their ending. */
export const carriesControlFields = (fileName: string): boolean => /\.(docx|odt|xlsx|pdf)$/i.test(fileName);

/**
 * An issued copy of a file: the control fields that it names are filled in, in a .docx, .odt and .xlsx, and a
 * line stands in the margin of each page of a PDF. The file given stays as it is.
 * @param typeface the font of that line
 * @returns the bytes unchanged where the file names none, or a refusal with code `not-to-be-issued`
 */
export async function issueCopy(
  bytes: Uint8Array,
  fileName: string,
  { control, typeface }: { control: ControlValues; typeface: Uint8Array },
): Promise<Uint8Array | Refusal> {
  if (/\.pdf$/i.test(fileName)) return stampPdf(bytes, control.line, typeface);
  const parts = packageOf(bytes);
  if (!parts) return bytes;
  const before = new Map(parts);
  const valueOf = (name: string): string | undefined => control.values.get(controlKey(name));
  const refusal = fillPackage(bytes, parts, valueOf);
  if (refusal) return refusal;
  const changed = [...parts].some(([name, part]) => before.get(name) !== part);
  return changed ? writeAll(parts) : bytes;
}

type Parts = Map<string, Uint8Array>;
type ValueOf = (name: string) => string | undefined;

function fillPackage(bytes: Uint8Array, parts: Parts, valueOf: ValueOf): Refusal | null {
  if (parts.has('meta.xml')) return fillOpenDocument(parts, valueOf);
  for (const name of customProperties(parts).keys()) {
    const value = valueOf(name);
    if (value !== undefined) setCustomProperty(parts, name, value);
  }
  const pack = openDocx(bytes);
  if (isRefusal(pack) || !/^w:/.test(rootOf(pack.xml(pack.main)))) return fillSheets(parts, valueOf);
  const related = [...pack.relations(pack.main).values()]
    .filter(({ type, external }) => !external && textParts.includes(type))
    .map(({ target }) => target);
  for (const name of new Set([pack.main, ...related])) {
    const parsed = pack.xml(name);
    if (!parsed) continue;
    if (isRefusal(parsed)) return notIssued(parsed.reason);
    const before = JSON.stringify(parsed.root);
    const shown = (property: string, value: string): void => setCustomProperty(parts, property, value);
    fillWord(parsed, { valueOf, shown });
    if (JSON.stringify(parsed.root) !== before)
      parts.set(pack.names.find(sameAs(name)) ?? name, writeXml(parsed));
  }
  return null;
}

/** Parts of a .docx that hold text beside the main one (ECMA-376 part 1, 11.3). */
const textParts = ['header', 'footer', 'footnotes', 'endnotes'];
const rootOf = (parsed: Parsed | Refusal | undefined): string =>
  parsed && !isRefusal(parsed) ? parsed.root.name : '';
// Part names are equal without regard to ASCII case (ECMA-376 part 2, 6.2.2.3).
const sameAs =
  (name: string) =>
  (other: string): boolean =>
    other.toLowerCase() === name.toLowerCase();

/** Namespaces of OpenDocument (ODF 1.3 part 3, 2.2). */
const odfText = 'urn:oasis:names:tc:opendocument:xmlns:text:1.0';
const odfOffice = 'urn:oasis:names:tc:opendocument:xmlns:office:1.0';

/**
 * Fills the user-defined fields of an OpenDocument text, in its body, headers and footers (ODF 1.3 part 3,
 * 7.5.6 and 7.4.8).
 */
function fillOpenDocument(parts: Parts, valueOf: ValueOf): Refusal | null {
  for (const name of userDefined(parts).keys()) {
    const value = valueOf(name);
    if (value !== undefined) setUserDefined(parts, name, value);
  }
  for (const name of ['content.xml', 'styles.xml']) {
    const part = parts.get(name);
    if (!part) continue;
    const parsed = parseXml(decodeXml(part), name);
    if (isRefusal(parsed)) return notIssued(parsed.reason);
    const prefixOf = (uri: string): string =>
      [...parsed.namespaces].find(([, known]) => known === uri)?.[0] ?? '';
    const names = { text: prefixOf(odfText), office: prefixOf(odfOffice) };
    const filled: string[] = [];
    fillFields(parsed.root, names, (field) => {
      const value = valueOf(field);
      if (value !== undefined) filled.push(field);
      return value;
    });
    if (filled.length > 0) parts.set(name, writeXml(parsed));
  }
  return null;
}

function fillFields(parent: Element, prefixes: { text: string; office: string }, valueOf: ValueOf): void {
  const { text, office } = prefixes;
  const shows = [`${text}:user-defined`, `${text}:user-field-get`];
  fillBookmarks(parent, text, valueOf);
  for (const field of elements(parent)) {
    const isDeclared = field.name === `${text}:user-field-decl`;
    const value =
      shows.includes(field.name) || isDeclared ? valueOf(field.attributes[`${text}:name`] ?? '') : undefined;
    if (value === undefined) {
      fillFields(field, prefixes, valueOf);
      continue;
    }
    const kept = Object.entries(field.attributes).filter(([name]) => name === `${text}:name`);
    const typed = isDeclared ? { [`${office}:value-type`]: 'string', [`${office}:string-value`]: value } : {};
    field.attributes = { ...Object.fromEntries(kept), ...typed };
    field.children = isDeclared ? [] : [value];
  }
}

/** Writes between the ends of bookmarks of an OpenDocument text that begin and end in one place (6.2.1.2). */
function fillBookmarks(parent: Element, text: string, valueOf: ValueOf): void {
  const nameOf = (each: Element | string, kind: string): string | undefined =>
    typeof each !== 'string' && each.name === `${text}:${kind}` ? each.attributes[`${text}:name`] : undefined;
  for (const start of [...parent.children]) {
    const name = nameOf(start, 'bookmark-start');
    const from = parent.children.indexOf(start);
    const to = parent.children.findIndex((each, at) => at > from && nameOf(each, 'bookmark-end') === name);
    if (name === undefined || to < 0) continue;
    const value = valueOf(name);
    if (value !== undefined) parent.children.splice(from + 1, to - from - 1, value);
  }
}

/**
 * Fills names in braces in the headers and footers of a workbook's sheets: `{Document number}` (ECMA-376 part
 * 1, 18.3.1.46; a program's own codes, as `&P`, stay).
 */
function fillSheets(parts: Parts, valueOf: ValueOf): null {
  for (const [name, part] of parts) {
    if (!name.endsWith('.xml')) continue;
    const text = decodeXml(part);
    if (!text.includes('headerFooter')) continue;
    const filled = text.replace(headerFooter, (all) =>
      all.replace(codes, (code, named: string) => {
        const value = valueOf(unescapeXml(named));
        // An ampersand begins a code; two are one (18.3.1.39).
        return value === undefined ? code : escapeXml(value.replace(/&/g, '&&'));
      }),
    );
    if (filled !== text) parts.set(name, new TextEncoder().encode(filled));
  }
  return null;
}
const headerFooter = /<((?:\w+:)?)headerFooter\b[^>]*>[^]*?<\/\1headerFooter>/g;
const codes = /\{([^{}<]{1,80})\}/g;
