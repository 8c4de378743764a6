/**
 * Custom document properties of an office package (ECMA-376 part 1, 22.3), written into its parts as they
 * stand: every other property keeps its place and bytes.
 */
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

type Parts = Map<string, Uint8Array>;
const decode = (bytes: Uint8Array | undefined): string => (bytes ? new TextDecoder().decode(bytes) : '');
const encode = (text: string): Uint8Array => new TextEncoder().encode(text);

/** A text as it stands in XML, between tags or in a value. */
export const escapeXml = (text: string): string =>
  text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;').replace(/"/g, '&quot;');
/** What a text in XML says. */
export const unescapeXml = (text: string): string =>
  text
    .replace(/<[^>]*>/g, '')
    .replace(/&lt;/g, '<')
    .replace(/&gt;/g, '>')
    .replace(/&quot;/g, '"')
    .replace(/&apos;/g, "'")
    .replace(/&#(x[0-9a-f]+|\d+);/gi, (_, code: string) =>
      String.fromCodePoint(/^x/i.test(code) ? parseInt(code.slice(1), 16) : Number(code)),
    )
    .replace(/&amp;/g, '&');

const anyProperty = /<((?:\w+:)?)property\b[^>]*\sname="([^"]*)"[^>]*>([^]*?)<\/\1property>/g;

/** The custom properties of a package, by name. */
export const customProperties = (parts: Parts): Map<string, string> =>
  new Map(
    [...decode(parts.get(custom)).matchAll(anyProperty)].map(([, , name = '', value = '']) => [
      unescapeXml(name),
      unescapeXml(value),
    ]),
  );

/** Writes a custom property into a package, in the place of one of its name. */
export function setCustomProperty(parts: Parts, name: string, value: string): void {
  removeCustomProperty(parts, name);
  const there = decode(parts.get(custom));
  const prefix = /<((?:\w+:)?)Properties\b/.exec(there)?.[1] ?? '';
  const number = 1 + Math.max(1, ...[...there.matchAll(/\spid="(\d+)"/g)].map(([, pid]) => Number(pid)));
  const property = `<${prefix}property fmtid="${formatId}" pid="${number}" name="${escapeXml(name)}"><vt:lpwstr xmlns:vt="${valueTypes}">${escapeXml(value)}</vt:lpwstr></${prefix}property>`;
  if (there) {
    const closed = there.replace(
      new RegExp(`<${prefix}Properties\\b([^>]*)/>`),
      `<${prefix}Properties$1></${prefix}Properties>`,
    );
    parts.set(
      custom,
      encode(closed.replace(`</${prefix}Properties>`, () => `${property}</${prefix}Properties>`)),
    );
    return;
  }
  const head = '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>\n';
  parts.set(custom, encode(`${head}<Properties xmlns="${propertySet}">${property}</Properties>`));
  // What stands there may have a prefix of its own.
  const addTo = (part: string, list: string, element: string): void => {
    const end = new RegExp(`</((?:\\w+:)?)${list}>`);
    const written = decode(parts.get(part)).replace(end, (all, own: string) => `<${own}${element}/>${all}`);
    parts.set(part, encode(written));
  };
  addTo(types, 'Types', `Override PartName="/${custom}" ContentType="${customType}"`);
  const relation = `Relationship Id="polychronMark" Type="${customRelation}" Target="${custom}"`;
  addTo(relations, 'Relationships', relation);
}

/** Takes a custom property out, and a list of them that holds no other: some programs write an empty one. */
export function removeCustomProperty(parts: Parts, name: string): void {
  const properties = decode(parts.get(custom));
  if (properties === '') return;
  const rest = properties.replace(anyProperty, (all, _, named: string) =>
    unescapeXml(named) === name ? '' : all,
  );
  if (/<(?:\w+:)?property\b/.test(rest)) {
    if (rest !== properties) parts.set(custom, encode(rest));
    return;
  }
  parts.delete(custom);
  const without = (part: string, pattern: RegExp): void => {
    parts.set(part, encode(decode(parts.get(part)).replace(pattern, '')));
  };
  without(types, new RegExp(`<(?:\\w+:)?Override\\b[^>]*PartName="/${custom}"[^>]*/>`));
  without(relations, new RegExp(`<(?:\\w+:)?Relationship\\b[^>]*Target="/?${custom}"[^>]*/>`));
}

const anyUserDefined = /<meta:user-defined\b[^>]*\smeta:name="([^"]*)"[^>]*>([^<]*)<\/meta:user-defined>/g;

/** The user-defined fields of an OpenDocument file (ODF 1.3 part 3, 4.3.2.10), by name. */
export const userDefined = (parts: Parts): Map<string, string> =>
  new Map(
    [...decode(parts.get('meta.xml')).matchAll(anyUserDefined)].map(([, name = '', value = '']) => [
      unescapeXml(name),
      unescapeXml(value),
    ]),
  );

/** Writes a user-defined field into an OpenDocument file, in place of one of its name; false if it cannot. */
export function setUserDefined(parts: Parts, name: string, value: string): boolean {
  removeUserDefined(parts, name);
  const meta = decode(parts.get('meta.xml'));
  if (!meta.includes('</office:meta>')) return false;
  const field = `<meta:user-defined meta:name="${escapeXml(name)}" meta:value-type="string">${escapeXml(value)}</meta:user-defined>`;
  parts.set('meta.xml', encode(meta.replace('</office:meta>', () => `${field}</office:meta>`)));
  return true;
}

/** Takes a user-defined field out. */
export function removeUserDefined(parts: Parts, name: string): void {
  const meta = decode(parts.get('meta.xml'));
  const rest = meta.replace(anyUserDefined, (all, named: string) => (unescapeXml(named) === name ? '' : all));
  if (rest !== meta) parts.set('meta.xml', encode(rest));
}
