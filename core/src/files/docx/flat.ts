import { decodeXml } from '../xml/xml.ts';

/** The namespace of a package in one XML file. */
const packageNamespace = 'http://schemas.microsoft.com/office/2006/xmlPackage';
/** How far from its beginning a file says that it is one, in characters. */
const saidWithin = 4096;

/** Whether a file is XML of some kind, by its first sign. */
export function isXml(bytes: Uint8Array): boolean {
  return /^\uFEFF?\s*</.test(decodeXml(bytes.subarray(0, 64)));
}

/**
 * The parts of a word-processing package in one XML file (flat), as those of the same package in a zip
 * (ECMA-376 part 2): names without a leading slash, with the list of content types that the flat form has at
 * each part. Null for a file that is no such package.
 */
export function flatParts(bytes: Uint8Array): Map<string, Uint8Array> | null {
  if (!isXml(bytes)) return null;
  const text = decodeXml(bytes);
  const [, prefix] =
    new RegExp(`xmlns:([\\w.-]+)=["']${packageNamespace}["']`).exec(text.slice(0, saidWithin)) ?? [];
  if (prefix === undefined) return null;
  const encoder = new TextEncoder();
  const parts = new Map<string, Uint8Array>();
  const types: string[] = [];
  const part = new RegExp(`<${prefix}:part\\b([^>]*)>([^]*?)</${prefix}:part>`, 'g');
  for (const [, attributes = '', content = ''] of text.matchAll(part)) {
    const name = attributeOf(attributes, `${prefix}:name`);
    const type = attributeOf(attributes, `${prefix}:contentType`);
    if (name === null) continue;
    const binary = within(content, `${prefix}:binaryData`);
    const xml = within(content, `${prefix}:xmlData`);
    const given = binary === null ? xml && encoder.encode(xml.trim()) : decodeBase64(binary);
    if (!given) continue;
    parts.set(name.replace(/^\//, ''), given);
    if (type !== null) types.push(`<Override PartName="${name}" ContentType="${type}"/>`);
  }
  const list = `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">${types.join('')}</Types>`;
  return parts.set('[Content_Types].xml', encoder.encode(list));
}

/** An attribute's value as it stands in a tag, with what it escapes. */
const attributeOf = (attributes: string, name: string): string | null =>
  new RegExp(`(?:^|\\s)${name}\\s*=\\s*["']([^"']*)["']`).exec(attributes)?.[1] ?? null;

/** What an element holds, from its first beginning to its last end. */
function within(text: string, name: string): string | null {
  const begin = new RegExp(`<${name}\\b[^>]*>`).exec(text);
  const end = text.lastIndexOf(`</${name}>`);
  return begin && end > begin.index ? text.slice(begin.index + begin[0].length, end) : null;
}

const decodeBase64 = (text: string): Uint8Array | null => {
  try {
    return Uint8Array.from(atob(text.replace(/\s/g, '')), (sign) => sign.charCodeAt(0));
  } catch (error) {
    // A picture that is no base64 is left out: it cannot be shown.
    if (error instanceof DOMException) return null;
    throw error;
  }
};
