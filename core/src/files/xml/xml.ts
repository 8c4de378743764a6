import { SaxesParser, type SaxesTagNS } from 'saxes';
import { refuse, type Refusal } from '../../document/refusal.ts';
import { Prefixes } from './names.ts';

/** An element with its attributes and children; text stands as strings. Names carry their usual prefixes. */
export interface Element {
  name: string;
  attributes: Record<string, string>;
  children: (Element | string)[];
}
/** A part's XML: its root, and the namespaces its names are of by prefix. */
export interface Parsed {
  root: Element;
  namespaces: Map<string, string>;
}

/** Deeper than any real part; deeper ones are made to exhaust the stack. */
const deepest = 400;

/**
 * XML as it stands in a part: UTF-8 or UTF-16, as its first bytes or declaration say (XML 1.0, 4.3.3 and
 * F.1).
 */
export function decodeXml(bytes: Uint8Array): string {
  const [first, second] = bytes;
  if ((first === 0xfe && second === 0xff) || (first === 0 && second === 0x3c))
    return new TextDecoder('utf-16be').decode(bytes);
  if ((first === 0xff && second === 0xfe) || (first === 0x3c && second === 0))
    return new TextDecoder('utf-16le').decode(bytes);
  return new TextDecoder().decode(bytes);
}

/** Thrown through the parser, which has no other end than that of the text. */
class Stopped extends Error {}

/** Attributes whose words are prefixes, or names with prefixes (ECMA-376 part 3, 7). */
const namesPrefixes = new Set([
  'mc:Ignorable',
  'mc:MustUnderstand',
  'mc:ProcessContent',
  'mc:PreserveElements',
  'mc:PreserveAttributes',
  'Requires',
]);

/**
 * Reads a part's XML. A document type declaration is refused, and with it every entity of one's own: packages
 * hold none (ECMA-376 part 2, 8.1.4 "XML usage"). Names are told by their usual prefixes, whatever the part
 * calls them.
 */
export function parseXml(text: string, partName: string): Parsed | Refusal {
  const root: Element = { name: '', attributes: {}, children: [] };
  const open: Element[] = [root];
  const prefixes = new Prefixes();
  let refusal: Refusal | null = null;
  const parser = new SaxesParser({ xmlns: true });
  const prefixed = (own: string): string => {
    const [prefix = '', rest] = own.split(':');
    const uri = parser.resolve(prefix);
    const usual = uri === undefined ? prefix : prefixes.of(uri, prefix);
    return rest === undefined ? usual : `${usual}:${rest}`;
  };
  const nameOf = (uri: string, prefix: string, local: string): string => {
    const usual = prefixes.of(uri, prefix);
    return usual === '' ? local : `${usual}:${local}`;
  };
  const attributesOf = (tag: SaxesTagNS): Record<string, string> => {
    const attributes: Record<string, string> = {};
    for (const { name, prefix, local, uri, value } of Object.values(tag.attributes)) {
      if (prefix === 'xmlns' || name === 'xmlns') {
        prefixes.of(value, local === 'xmlns' ? '' : local);
        continue;
      }
      const usual = prefix === '' || prefix === 'xml' ? name : nameOf(uri, prefix, local);
      attributes[usual] = namesPrefixes.has(usual)
        ? value.split(/\s+/).filter(Boolean).map(prefixed).join(' ')
        : value;
    }
    return attributes;
  };
  // At the first refusal reading ends: what follows could take any time, and changes nothing.
  const stop = (reason: Refusal): never => {
    refusal = reason;
    throw new Stopped();
  };
  parser.on('doctype', () =>
    stop(
      refuse(
        'invalid',
        'unsafe-xml',
        `${partName} declares a document type, which may pull in outside content. The file is not taken in.`,
        { part: partName },
      ),
    ),
  );
  const unreadable = (what: string): Refusal =>
    refuse('invalid', 'unreadable-file', `${partName} in the file ${what}.`, { part: partName });
  parser.on('error', (error) => stop(unreadable(`is not well-formed XML (${firstLine(error.message)})`)));
  // Before its names are looked up, which takes longer the deeper it stands.
  parser.on('opentagstart', () => {
    if (open.length > deepest) stop(unreadable(`is nested more than ${deepest} deep`));
  });
  parser.on('opentag', (tag) => {
    const element: Element = {
      name: nameOf(tag.uri, tag.prefix, tag.local),
      attributes: attributesOf(tag),
      children: [],
    };
    (open.at(-1) as Element).children.push(element);
    open.push(element);
  });
  parser.on('closetag', () => {
    if (open.length > 1) open.pop();
  });
  const addText = (value: string): void => {
    (open.at(-1) as Element).children.push(value);
  };
  parser.on('text', addText);
  parser.on('cdata', addText);
  try {
    parser.write(text).close();
  } catch (error) {
    if (!(error instanceof Stopped)) throw error;
  }
  if (refusal) return refusal;
  const top = root.children.find((child): child is Element => typeof child !== 'string') ?? root;
  return { root: top, namespaces: prefixes.namespaces };
}

const escapes: Readonly<Record<string, string>> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  '\t': '&#9;',
  '\n': '&#10;',
  '\r': '&#13;',
};
const escapeText = (value: string): string => value.replace(/[&<>\r]/g, (sign) => escapes[sign] ?? sign);
const escapeValue = (value: string): string =>
  value.replace(/[&<>"\t\n\r]/g, (sign) => escapes[sign] ?? sign);

/** An element as it is written, without declarations of namespaces. */
export function writeElement({ name, attributes, children }: Element, declared = ''): string {
  const tag = Object.entries(attributes).reduce(
    (sum, [key, value]) => `${sum} ${key}="${escapeValue(value)}"`,
    `${name}${declared}`,
  );
  if (children.length === 0) return `<${tag}/>`;
  const inner = children.map((each) => (typeof each === 'string' ? escapeText(each) : writeElement(each)));
  return `<${tag}>${inner.join('')}</${name}>`;
}

/** A part's XML in UTF-8, with every namespace declared at its root. */
export function writeXml({ root, namespaces }: Parsed): Uint8Array {
  const declared = [...namespaces]
    .filter(([prefix]) => prefix !== 'xml')
    .map(([prefix, uri]) => ` xmlns${prefix === '' ? '' : `:${prefix}`}="${escapeValue(uri)}"`)
    .join('');
  const head = '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>\n';
  return new TextEncoder().encode(head + writeElement(root, declared));
}

const firstLine = (text: string): string => text.split('\n')[0] ?? text;

/** The element's children that are elements, of one name if given. */
export function elements(parent: Element | undefined, name?: string): Element[] {
  return (parent?.children ?? []).filter(
    (child): child is Element => typeof child !== 'string' && (name === undefined || child.name === name),
  );
}
/** The element's first child of a name. */
export function child(parent: Element | undefined, name: string): Element | undefined {
  return parent?.children.find((each): each is Element => typeof each !== 'string' && each.name === name);
}
/** All descendants of a name, in document order. */
export function descendants(parent: Element, name: string): Element[] {
  return elements(parent).flatMap((each) =>
    each.name === name ? [each, ...descendants(each, name)] : descendants(each, name),
  );
}
/** The text of an element and all in it. */
export function text(element: Element): string {
  return element.children.map((each) => (typeof each === 'string' ? each : text(each))).join('');
}
