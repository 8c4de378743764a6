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
 * Reads a body. @throws Refused `malformed-xml`, also for a document type, which none has (RFC 4918, 20.6)
 */
export function readXml(body: string): XmlElement {
  const parser = new SaxesParser({ xmlns: true });
  const top: XmlElement = { namespace: '', name: '', attributes: [], inside: [] };
  const open = [top];
  const add = (part: XmlElement | string): void => {
    open.at(-1)?.inside.push(part);
  };
  parser.on('error', (error) => {
    throw notUnderstood(`The body is no XML: ${error.message}`);
  });
  parser.on('doctype', () => {
    throw notUnderstood('The body has a document type. Leave it out.');
  });
  parser.on('opentag', ({ uri: namespace, local: name, attributes }) => {
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
export const written = ({ inside }: XmlElement): string =>
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

/** The text in an element. */
export const plainText = ({ inside }: XmlElement): string =>
  inside.map((part) => (typeof part === 'string' ? part : plainText(part))).join('');
