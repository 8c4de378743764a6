import { SaxesParser } from 'saxes';
import { refuse, type Refusal } from '../../document/refusal.ts';

/** An element with its attributes and children; text stands as strings. Names keep their usual prefixes. */
export interface Element {
  name: string;
  attributes: Record<string, string>;
  children: (Element | string)[];
}

/** Deeper than any real part; deeper ones are made to exhaust the stack. */
const deepest = 400;

/**
 * Reads a part's XML. A document type declaration is refused, and with it every entity of one's own: packages
 * hold none (ECMA-376 part 2, 8.1.4 "XML usage").
 */
export function parseXml(text: string, partName: string): Element | Refusal {
  const root: Element = { name: '', attributes: {}, children: [] };
  const open: Element[] = [root];
  let refusal: Refusal | null = null;
  const parser = new SaxesParser({});
  parser.on('doctype', () => {
    refusal ??= refuse(
      'invalid',
      'unsafe-xml',
      `${partName} declares a document type, which may pull in outside content. The file is not taken in.`,
      { part: partName },
    );
  });
  parser.on('error', (error) => {
    refusal ??= refuse(
      'invalid',
      'unreadable-file',
      `${partName} in the file is not well-formed XML (${firstLine(error.message)}).`,
      { part: partName },
    );
  });
  parser.on('opentag', (tag) => {
    if (refusal) return;
    if (open.length > deepest) {
      refusal = refuse(
        'invalid',
        'unreadable-file',
        `${partName} in the file is nested more than ${deepest} deep.`,
        { part: partName },
      );
      return;
    }
    const element: Element = {
      name: tag.name,
      attributes: tag.attributes as Record<string, string>,
      children: [],
    };
    (open.at(-1) as Element).children.push(element);
    open.push(element);
  });
  parser.on('closetag', () => {
    if (!refusal && open.length > 1) open.pop();
  });
  const addText = (value: string): void => {
    if (!refusal) (open.at(-1) as Element).children.push(value);
  };
  parser.on('text', addText);
  parser.on('cdata', addText);
  parser.write(text).close();
  if (refusal) return refusal;
  return root.children.find((child): child is Element => typeof child !== 'string') ?? root;
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
