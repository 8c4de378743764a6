import { escapeXml, refuse } from '@polychron/core';
import { SaxesParser } from 'saxes';
import { Refused } from '../../refused.ts';

/** The namespace of WebDAV's own names (RFC 4918, 21). */
export const dav = 'DAV:';

/** The name of an element or a property: its namespace and its name there (RFC 4918, 4.3). */
export interface PropertyName {
  namespace: string;
  name: string;
}

/** An element of a body. */
export interface XmlElement extends PropertyName {
  attributes: { name: string; namespace: string; value: string }[];
  inside: (XmlElement | string)[];
}

/** What is said of a body that cannot be read. */
export const notUnderstood = (detail: string): Refused =>
  new Refused(refuse('invalid', 'malformed-xml', detail));

/**
 * More than any program sends. What is in a body comes back in answers, names with each file: small bodies
 * would make answers of any size.
 */
const bounds = { depth: 32, elements: 1000, attributes: 100, name: 500 };

/** The longest value of a property or owner of a lock, as it is written, in signs. */
const longestValue = 16_000;

/**
 * Reads a body, up to the first thing in it that is refused.
 * @throws Refused `malformed-xml`, also for a document type, which none has (RFC 4918, 20.6), and for more
 * than is read
 */
export function readXml(body: string): XmlElement {
  const parser = new SaxesParser({ xmlns: true });
  const top: XmlElement = { namespace: '', name: '', attributes: [], inside: [] };
  const open = [top];
  let elements = 0;
  const add = (part: XmlElement | string): void => {
    open.at(-1)?.inside.push(part);
  };
  parser.on('error', (error) => {
    throw notUnderstood(`The body is no XML: ${error.message}`);
  });
  parser.on('doctype', () => {
    throw notUnderstood('The body has a document type. Leave it out.');
  });
  const isLong = (uri: string, name: string): boolean => uri.length + name.length > bounds.name;
  // Before its names are looked up, which takes longer the deeper it stands.
  parser.on('opentagstart', () => {
    if (open.length > bounds.depth) throw notUnderstood(`The body is nested more than ${bounds.depth} deep.`);
    if ((elements += 1) > bounds.elements)
      throw notUnderstood(`The body has more than ${bounds.elements} elements.`);
  });
  let attributesHere = 0;
  parser.on('attribute', () => {
    if ((attributesHere += 1) > bounds.attributes)
      throw notUnderstood(`An element has more than ${bounds.attributes} attributes.`);
  });
  parser.on('opentag', ({ uri: namespace, local: name, attributes }) => {
    attributesHere = 0;
    if (
      [{ uri: namespace, local: name }, ...Object.values(attributes)].some((one) =>
        isLong(one.uri, one.local),
      )
    )
      throw notUnderstood(`A name in the body is longer than ${bounds.name} signs, with its namespace.`);
    const kept = Object.values(attributes).filter(
      ({ prefix, name: said }) => prefix !== 'xmlns' && said !== 'xmlns',
    );
    const element: XmlElement = {
      ...{ namespace, name, inside: [] },
      attributes: kept.map(({ local, uri, value }) => ({ name: local, namespace: uri, value })),
    };
    add(element);
    open.push(element);
  });
  parser.on('text', add);
  parser.on('cdata', add);
  parser.on('closetag', () => {
    open.pop();
  });
  parser.write(body).close();
  const [root] = elementsIn(top);
  if (!root) throw notUnderstood('The body is empty.');
  return root;
}

/** The elements right in another. */
export const elementsIn = ({ inside }: XmlElement): XmlElement[] =>
  inside.filter((part) => typeof part !== 'string');

/** WebDAV's own element of a name, right in another. */
export const davIn = (element: XmlElement, name: string): XmlElement | undefined =>
  elementsIn(element).find((one) => one.namespace === dav && one.name === name);

/** Whether an element is one of WebDAV's own, of a name. */
export const isDav = ({ namespace, name }: PropertyName, wanted: string): boolean =>
  namespace === dav && name === wanted;

/** Signs that XML 1.0 cannot write, or says should not be (2.2). */
const unwritable = /(?![\t\n\r])\p{Cc}|[\ufffe\uffff]|\p{Surrogate}/gu;

/** A text between tags. */
export const textOf = (text: string): string => escapeXml(text.replace(unwritable, '\ufffd'));

/** An element with what is in it, already written; nothing: empty. */
export const element = ({ namespace, name }: PropertyName, inside = '', attributes = ''): string =>
  namespace === dav
    ? `<D:${name}${attributes}>${inside}</D:${name}>`
    : `<${name} xmlns="${textOf(namespace)}"${attributes}>${inside}</${name}>`;

/** One of WebDAV's own elements. */
export const davElement = (name: string, inside = ''): string => element({ namespace: dav, name }, inside);

/** What is in an element, written anew: it means the same wherever it is put. */
const written = ({ inside }: XmlElement): string =>
  inside
    .map((part) => {
      if (typeof part === 'string') return textOf(part);
      const attributes = part.attributes.map(({ name, namespace, value }, index) => {
        if (namespace === '') return ` ${name}="${textOf(value)}"`;
        if (namespace === 'http://www.w3.org/XML/1998/namespace') return ` xml:${name}="${textOf(value)}"`;
        return ` xmlns:a${index}="${textOf(namespace)}" a${index}:${name}="${textOf(value)}"`;
      });
      // Its own names are said whole, so that none around it changes what they mean.
      return `<${part.name} xmlns="${textOf(part.namespace)}"${attributes.join('')}>${written(part)}</${part.name}>`;
    })
    .join('');

/** The same, where it is to be kept. @throws Refused `malformed-xml` where it is too long */
export function writtenToKeep(element: XmlElement): string {
  const value = written(element);
  if (value.length > longestValue)
    throw notUnderstood(`${element.name} is longer than ${longestValue} signs, as it is written.`);
  return value;
}

/** The text in an element. */
export const plainText = ({ inside }: XmlElement): string =>
  inside.map((part) => (typeof part === 'string' ? part : plainText(part))).join('');
