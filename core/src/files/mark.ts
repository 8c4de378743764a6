import { readAll, writeAll } from './zip/writeZip.ts';
import { isRefusal } from '../document/refusal.ts';

/** Which version a file was taken from: written into it when it is downloaded to be worked on. */
export interface VersionMark {
  number: string;
  label: string;
  versionId: string;
}

const name = 'Polychron version';
const custom = 'docProps/custom.xml';
const types = '[Content_Types].xml';
const relations = '_rels/.rels';
const customType = 'application/vnd.openxmlformats-officedocument.custom-properties+xml';
const customRelation =
  'http://schemas.openxmlformats.org/officeDocument/2006/relationships/custom-properties';
const propertySet = 'http://schemas.openxmlformats.org/officeDocument/2006/custom-properties';
const valueTypes = 'http://schemas.openxmlformats.org/officeDocument/2006/docPropsVTypes';
/** The property set all custom properties belong to (ECMA-376 part 1, 22.3.2.2). */
const formatId = '{D5CDD505-2E9C-101B-9397-08002B2CF9AE}';

const decode = (bytes: Uint8Array | undefined): string => (bytes ? new TextDecoder().decode(bytes) : '');
const encode = (text: string): Uint8Array => new TextEncoder().encode(text);
const propertyPattern = new RegExp(
  `<((?:\\w+:)?)property\\b[^>]*\\sname="${name}"[^>]*>([^]*?)</\\1property>`,
);
const odfPattern = new RegExp(
  `<meta:user-defined\\b[^>]*\\smeta:name="${name}"[^>]*>([^<]*)</meta:user-defined>`,
);
const escape = (text: string): string =>
  text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;').replace(/"/g, '&quot;');
const unescape = (text: string): string =>
  text
    .replace(/<[^>]*>/g, '')
    .replace(/&lt;/g, '<')
    .replace(/&gt;/g, '>')
    .replace(/&quot;/g, '"')
    .replace(/&amp;/g, '&');

/** Files that can carry a mark, by their ending: office packages (ECMA-376) and OpenDocument (ODF 1.3). */
export const carriesMark = (fileName: string): boolean => /\.(docx|xlsx|odt)$/i.test(fileName);

/** Larger files go out as they are, without a mark: they would be unfolded and folded for it. */
export const largestMarked = 64 << 20;

/**
 * The file with the mark as a custom document property (ECMA-376 part 1, 22.3; ODF 1.3 part 3, 4.3.2.10).
 * Every other part keeps its bytes.
 * @returns the bytes unchanged where the file is none that can carry it
 */
export function writeMark(bytes: Uint8Array, mark: VersionMark): Uint8Array {
  const parts = packageOf(bytes);
  if (!parts) return bytes;
  removeMark(parts);
  const value = escape(`${mark.number} ${mark.label} ${mark.versionId}`);
  if (parts.has('meta.xml')) {
    const meta = decode(parts.get('meta.xml'));
    if (!meta.includes('</office:meta>')) return bytes;
    parts.set(
      'meta.xml',
      encode(
        meta.replace(
          '</office:meta>',
          () =>
            `<meta:user-defined meta:name="${name}" meta:value-type="string">${value}</meta:user-defined></office:meta>`,
        ),
      ),
    );
    return writeAll(parts);
  }
  const there = decode(parts.get(custom));
  const prefix = /<((?:\w+:)?)Properties\b/.exec(there)?.[1] ?? '';
  const number = 1 + Math.max(1, ...[...there.matchAll(/\spid="(\d+)"/g)].map(([, pid]) => Number(pid)));
  const property = `<${prefix}property fmtid="${formatId}" pid="${number}" name="${name}"><vt:lpwstr xmlns:vt="${valueTypes}">${value}</vt:lpwstr></${prefix}property>`;
  if (there) {
    const closed = there.replace(
      new RegExp(`<${prefix}Properties\\b([^>]*)/>`),
      `<${prefix}Properties$1></${prefix}Properties>`,
    );
    parts.set(
      custom,
      encode(closed.replace(`</${prefix}Properties>`, () => `${property}</${prefix}Properties>`)),
    );
    return writeAll(parts);
  }
  parts.set(
    custom,
    encode(
      `<?xml version="1.0" encoding="UTF-8" standalone="yes"?>\n<Properties xmlns="${propertySet}">${property}</Properties>`,
    ),
  );
  parts.set(
    types,
    encode(
      decode(parts.get(types)).replace(
        '</Types>',
        `<Override PartName="/${custom}" ContentType="${customType}"/></Types>`,
      ),
    ),
  );
  parts.set(
    relations,
    encode(
      decode(parts.get(relations)).replace(
        '</Relationships>',
        `<Relationship Id="polychronMark" Type="${customRelation}" Target="${custom}"/></Relationships>`,
      ),
    ),
  );
  return writeAll(parts);
}

/** The mark a file carries; null for one without, or of another kind. */
export function readMark(bytes: Uint8Array): VersionMark | null {
  const parts = packageOf(bytes);
  if (!parts) return null;
  const text =
    odfPattern.exec(decode(parts.get('meta.xml')))?.[1] ??
    propertyPattern.exec(decode(parts.get(custom)))?.[2];
  const found =
    text === undefined ? null : /^\s*(\S.*\S|\S)\s(\S+)\s([0-9a-f-]{36})\s*$/.exec(unescape(text));
  return found
    ? { number: found[1] as string, label: found[2] as string, versionId: found[3] as string }
    : null;
}

/**
 * What the file holds beside the mark: its parts in the order of their names. Two files that differ only in
 * their mark have the same; a file without any is itself.
 */
export function withoutMark(bytes: Uint8Array): [name: string, bytes: Uint8Array][] | null {
  const parts = packageOf(bytes);
  if (!parts) return null;
  removeMark(parts);
  return [...parts].sort(([a], [b]) => (a < b ? -1 : 1));
}

function packageOf(bytes: Uint8Array): Map<string, Uint8Array> | null {
  if (bytes[0] !== 0x50 || bytes[1] !== 0x4b) return null;
  const parts = readAll(bytes);
  if (isRefusal(parts)) return null;
  const isOpenXml = parts.has(types) && parts.has(relations);
  const isOpenDocument = parts.has('meta.xml') && parts.has('mimetype');
  return isOpenXml || isOpenDocument ? parts : null;
}

/** Takes the mark out, and a list of properties that holds nothing else: some programs write an empty one. */
function removeMark(parts: Map<string, Uint8Array>): void {
  const meta = decode(parts.get('meta.xml'));
  if (odfPattern.test(meta)) parts.set('meta.xml', encode(meta.replace(odfPattern, '')));
  const properties = decode(parts.get(custom));
  const rest = properties.replace(propertyPattern, '');
  if (properties === '') return;
  if (/<(?:\w+:)?property\b/.test(rest)) {
    if (rest !== properties) parts.set(custom, encode(rest));
    return;
  }
  parts.delete(custom);
  const without = (part: string, pattern: RegExp): void => {
    parts.set(part, encode(decode(parts.get(part)).replace(pattern, '')));
  };
  without(types, new RegExp(`<Override\\b[^>]*PartName="/${custom}"[^>]*/>`));
  without(relations, new RegExp(`<Relationship\\b[^>]*Target="/?${custom}"[^>]*/>`));
}
