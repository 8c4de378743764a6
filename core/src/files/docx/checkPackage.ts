import { isRefusal } from '../../document/refusal.ts';
import { descendants, type Element, elements } from '../xml/xml.ts';
import { packageOfParts, relationsName } from './package.ts';

/** Notes and comments: what names one, the part's relation, and the element that holds it. */
const named = [
  { reference: 'w:footnoteReference', relation: 'footnotes', element: 'w:footnote' },
  { reference: 'w:endnoteReference', relation: 'endnotes', element: 'w:endnote' },
  { reference: 'w:commentReference', relation: 'comments', element: 'w:comment' },
] as const;

/**
 * What is wrong with a package as a whole, in sentences; nothing where a program can open it: each relation
 * leads to a part, each reference to a relation, each part has a content type, notes and comments are there
 * once for what names them, lists that are named are defined, marks come in pairs, and XML is well-formed
 * (ECMA-376 part 2, 6.2 to 6.5 and part 1, 11.3, 17.9, 17.11, 17.13).
 */
export function checkPackage(parts: ReadonlyMap<string, Uint8Array>): string[] {
  const pack = packageOfParts(parts);
  if (isRefusal(pack)) return [pack.reason];
  const roots = new Map<string, Element>();
  for (const name of parts.keys()) {
    const parsed = /\.(xml|rels)$/i.test(name) ? pack.xml(name) : undefined;
    if (!parsed) continue;
    if (isRefusal(parsed)) return [parsed.reason];
    roots.set(name, parsed.root);
  }
  const problems: string[] = [];
  const types = roots.get('[Content_Types].xml');
  const endings = new Set(
    elements(types, 'Default').map(({ attributes }) => attributes['Extension']?.toLowerCase()),
  );
  const own = elements(types, 'Override').map(({ attributes }) => attributes['PartName'] ?? '');
  for (const name of twice(own)) problems.push(`The type of ${name} is given twice.`);
  for (const name of parts.keys()) {
    const ending = /\.([^./]*)$/.exec(name)?.[1]?.toLowerCase();
    if (
      name !== '[Content_Types].xml' &&
      !name.endsWith('/') &&
      !endings.has(ending) &&
      !own.includes(`/${name}`)
    )
      problems.push(`${name} has no content type.`);
  }
  for (const [name, root] of roots) {
    const relations = pack.relations(name);
    for (const { id, target, external } of relations.values())
      if (!external && !parts.has(target) && target !== '')
        problems.push(`${relationsName(name)}: ${id} leads to ${target}, which is not there.`);
    for (const id of relationsNamed(root))
      if (!relations.has(id)) problems.push(`${name} names the relation ${id}, which is not there.`);
  }
  const main = roots.get(pack.main);
  const stories = [pack.main, pack.related('footnotes'), pack.related('endnotes')].flatMap((name) =>
    name === undefined ? [] : (roots.get(name) ?? []),
  );
  const idsOf = (name: string): string[] =>
    stories.flatMap((root) => descendants(root, name)).map(({ attributes }) => attributes['w:id'] ?? '');
  for (const { reference, relation, element } of named) {
    const part = pack.related(relation);
    const there = elements(part === undefined ? undefined : roots.get(part), element).map(
      ({ attributes }) => attributes['w:id'] ?? '',
    );
    for (const id of twice(there)) problems.push(`${relation}: ${id} is there twice.`);
    for (const id of idsOf(reference))
      if (!there.includes(id)) problems.push(`${relation}: ${id} is named and not there.`);
  }
  for (const kind of ['bookmark', 'commentRange']) {
    const [starts, ends] = [idsOf(`w:${kind}Start`), idsOf(`w:${kind}End`)];
    for (const id of twice(starts)) problems.push(`${kind} ${id} begins twice.`);
    for (const id of starts) if (!ends.includes(id)) problems.push(`${kind} ${id} begins and does not end.`);
    for (const id of ends) if (!starts.includes(id)) problems.push(`${kind} ${id} ends and does not begin.`);
  }
  const numbering = pack.related('numbering');
  const lists = elements(numbering === undefined ? undefined : roots.get(numbering), 'w:num').map(
    ({ attributes }) => attributes['w:numId'],
  );
  for (const { attributes } of main ? descendants(main, 'w:numId') : [])
    if (attributes['w:val'] !== '0' && !lists.includes(attributes['w:val']))
      problems.push(`List ${attributes['w:val']} is named and not defined.`);
  return [...new Set(problems)];
}

/** Ids of relations that an element or one in it names. */
function relationsNamed(element: Element): string[] {
  const own = Object.entries(element.attributes).flatMap(([name, value]) =>
    /^r:(?:id|embed|link|pict|dm|lo|qs|cs)$/.test(name) && value !== '' ? [value] : [],
  );
  return [...own, ...elements(element).flatMap(relationsNamed)];
}

const twice = (ids: readonly string[]): string[] => ids.filter((id, index) => ids.indexOf(id) !== index);
