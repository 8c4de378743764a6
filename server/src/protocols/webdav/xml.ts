import { escapeXml, refuse } from '@polychron/core';
import { SaxesParser } from 'saxes';
import { Refused } from '../../refused.ts';

/** The namespace of WebDAV's own names (RFC 4918, 21). */
export const dav = 'DAV:';

/** The name of a property: its namespace and its name there (RFC 4918, 4.3). */
export interface PropertyName {
  namespace: string;
  name: string;
}

/** Which properties are asked for (RFC 4918, 9.1). */
export type Asked = { kind: 'names' } | { kind: 'all' } | { kind: 'some'; properties: PropertyName[] };

const notUnderstood = (detail: string): Refused => new Refused(refuse('invalid', 'malformed-xml', detail));

/**
 * What the body of a PROPFIND asks for; nothing: all properties (RFC 4918, 9.1).
 * @throws Refused `malformed-xml`, also for a document type, which none has (RFC 4918, 20.6)
 */
export function readPropfind(body: string): Asked {
  if (body.trim() === '') return { kind: 'all' };
  const parser = new SaxesParser({ xmlns: true });
  const open: PropertyName[] = [];
  const found: { root?: PropertyName; asked?: Asked } = {};
  parser.on('error', (error) => {
    throw notUnderstood(`The body is no XML: ${error.message}`);
  });
  parser.on('doctype', () => {
    throw notUnderstood('The body has a document type. Leave it out.');
  });
  parser.on('opentag', ({ uri: namespace, local: name }) => {
    const [, within] = open;
    if (open.length === 0) found.root = { namespace, name };
    else if (open.length === 1 && namespace === dav) found.asked ??= begun(name);
    else if (open.length === 2 && within?.name === 'prop' && found.asked?.kind === 'some')
      found.asked.properties.push({ namespace, name });
    open.push({ namespace, name });
  });
  parser.on('closetag', () => {
    open.pop();
  });
  parser.write(body).close();
  const { root, asked } = found;
  if (root?.namespace !== dav || root.name !== 'propfind' || !asked)
    throw notUnderstood('The body is no DAV:propfind that asks for allprop, propname or prop.');
  return asked;
}

function begun(name: string): Asked | undefined {
  if (name === 'propname') return { kind: 'names' };
  if (name === 'allprop') return { kind: 'all' };
  return name === 'prop' ? { kind: 'some', properties: [] } : undefined;
}

/** Signs that XML 1.0 cannot write, or says should not be (2.2). */
const unwritable = /(?![\t\n\r])\p{Cc}|[\ufffe\uffff]|\p{Surrogate}/gu;

/** A text between tags. */
export const textOf = (text: string): string => escapeXml(text.replace(unwritable, '\ufffd'));

/** An element with what is in it, already written; nothing: empty. */
export const element = ({ namespace, name }: PropertyName, inside = ''): string =>
  namespace === dav
    ? `<D:${name}>${inside}</D:${name}>`
    : `<${name} xmlns="${textOf(namespace)}">${inside}</${name}>`;

/** One of WebDAV's own elements. */
export const davElement = (name: string, inside = ''): string => element({ namespace: dav, name }, inside);
