import { refuse, type Refusal } from '../../document/refusal.ts';
import { checkPackage } from '../../files/docx/checkPackage.ts';
import { child, descendants, type Element, elements } from '../../files/xml/xml.ts';
import { writeAll } from '../../files/zip/writeZip.ts';
import type { MergeChoice, MergeChoices } from '../text.ts';
import { Carrier, type Origin } from './carrier.ts';
import { lastSection, sectionOrder } from './definitions.ts';
import { type AddedMargin, type DocxPlan, type MergeNode, regionsOf, type StoryPlan } from './plan.ts';
import type { Side } from './source.ts';

/**
 * The file as it was chosen, by regions: carried by the present file, what is taken of the others with
 * everything it names. It is checked as a whole before it is given.
 * @returns null where a conflict has no choice, a refusal `merge-broken` where what came of it does not hold
 */
export function buildDocx(plan: DocxPlan, choices: MergeChoices): Uint8Array | Refusal | null {
  const { base, present, mine } = plan.sources;
  const carrier = new Carrier(present, { base, mine });
  for (const { nodes } of plan.stories) {
    for (const { kind, sides } of regionsOf(nodes)) {
      if (kind !== 'same') continue;
      for (const [index, own] of sides.present.entries()) {
        for (const origin of ['base', 'mine'] as const) {
          const theirs = sides[origin][index];
          if (theirs) carrier.learn(origin, theirs, own);
        }
      }
    }
  }
  let first = 0;
  for (const story of plan.stories) {
    const regions = regionsOf(story.nodes);
    const chosen = new Map(regions.map((region, index) => [region, choices[first + index]]));
    first += regions.length;
    if (regions.some((region) => region.kind === 'conflict' && chosen.get(region) === undefined)) return null;
    if (!story.added)
      putStory(story, carrier, new Builder(carrier, story, chosen).build(story.nodes), present.pack.main);
    else if (regions.some((region) => takesMine(chosen.get(region))))
      addMargin(story.added, carrier, present.pack.main);
  }
  if (plan.sameWriter) takeDefinitions(plan, carrier);
  carrier.setRoot(present.pack.main, tidied(carrier.rootToChange(present.pack.main)));
  const parts = carrier.finish();
  // What was wrong in the present file before is not this merge's doing.
  const before = new Set(checkPackage(present.parts));
  const problems = checkPackage(parts).filter((problem) => !before.has(problem));
  if (problems.length > 0) {
    const reason = `The merged file would not hold together: ${problems.slice(0, 3).join(' ')} Nothing was changed. Choose other regions, or use your file alone.`;
    return refuse('invalid', 'merge-broken', reason, { problems: problems.slice(0, 20) });
  }
  return writeAll(parts);
}

/** Turns the nodes of a story into elements that stand in the present file. */
class Builder {
  constructor(
    private readonly carrier: Carrier,
    private readonly story: StoryPlan,
    private readonly chosen: ReadonlyMap<MergeNode, MergeChoice | undefined>,
  ) {}

  build(nodes: readonly MergeNode[]): Element[] {
    return nodes.flatMap((node): Element[] => {
      if (node.node === 'shell') {
        const { name, attributes, head } = node;
        const children = [
          ...head.elements.map((each) => this.from(head.from, each)),
          ...this.build(node.children),
        ];
        // A cell ends with a paragraph (ECMA-376 part 1, 17.4.65).
        if (name === 'w:tc' && children.at(-1)?.name !== 'w:p')
          children.push({ name: 'w:p', attributes: {}, children: [] });
        return [{ name, attributes, children }];
      }
      const choice = this.chosen.get(node);
      const side = (of: Side): Element[] => node.sides[of].map((each) => this.from(of, each));
      if (choice === 'both') return [...side('present'), ...side('mine')];
      if (choice !== undefined) return side(choice);
      if (node.woven) {
        const children = node.woven.pieces.map(({ element, from }) => this.from(from, element));
        return [{ name: 'w:p', attributes: node.sides.present[0]?.attributes ?? {}, children }];
      }
      return side(node.kind === 'mine' ? 'mine' : 'present');
    });
  }

  private from(side: Side, element: Element): Element {
    if (side === 'present') return element;
    const { parts } = this.story;
    return this.carrier.bring(element, { origin: side, from: parts[side], to: parts.present });
  }
}

/** Whether a region of what only mine has is taken: nothing else was chosen. */
const takesMine = (choice: MergeChoice | undefined): boolean =>
  choice === undefined || choice === 'mine' || choice === 'both';

/** Puts a merged story in its place: the text before its last section's properties, or a header or footer. */
function putStory({ parts }: StoryPlan, carrier: Carrier, built: Element[], main: string): void {
  const root = carrier.rootToChange(parts.present);
  if (parts.present !== main) {
    root.children = built;
    return;
  }
  const body = elements(root, 'w:body')[0];
  if (body) body.children = [...built, ...elements(body).filter(({ name }) => name === 'w:sectPr')];
}

/** Puts a header or footer that only mine has into the section it stands in there, else the last one. */
function addMargin({ section: place, reference }: AddedMargin, carrier: Carrier, main: string): void {
  const sections = sectionsIn(carrier.rootToChange(main));
  const section = sections[Math.min(place, sections.length - 1)];
  if (!section) return;
  const id = carrier.relateCopy('mine', reference.attributes['r:id'] ?? '');
  const attributes = { ...reference.attributes, 'r:id': id };
  section.children.unshift({ name: reference.name, attributes, children: [] });
}

/**
 * The sections of a text in order: their properties stand in the last paragraph of each, the last one's at
 * the end.
 */
const sectionsIn = (root: Element): Element[] => descendants(root, 'w:sectPr');

/** Takes over definitions that only mine changed: how styles look, the last section's layout, the theme. */
function takeDefinitions({ definitions, sources: { present, mine } }: DocxPlan, carrier: Carrier): void {
  const origin: Origin = 'mine';
  for (const id of definitions.styles) carrier.takeStyle(id, origin);
  const theme = present.pack.related('theme');
  if (theme !== undefined && definitions.theme) carrier.takePart(theme, definitions.theme);
  const { main } = present.pack;
  const body = child(carrier.rootToChange(main), 'w:body');
  const [section, own] = [body && lastSection(body), lastSection(mine.body)];
  if (!section || !own) return;
  for (const name of definitions.section) putInOrder(section, name, child(own, name));
}

/** Puts an element of a section at its place, for the one it has, or takes that out. */
function putInOrder(section: Element, name: string, own: Element | undefined): void {
  const order: readonly string[] = sectionOrder;
  const others = elements(section).filter((each) => each.name !== name);
  const before = others.findIndex((each) => order.indexOf(each.name) > order.indexOf(name));
  others.splice(before < 0 ? others.length : before, 0, ...(own ? [own] : []));
  section.children = others;
}

/** Marks that lost their other end, and second ones of a name, go: they say nothing by themselves. */
function tidied(root: Element): Element {
  return ['w:bookmark', 'w:commentRange'].reduce((tree, kind) => {
    const ids = (name: string) =>
      new Set(descendants(tree, name).map(({ attributes }) => attributes['w:id']));
    const others = { [`${kind}Start`]: ids(`${kind}End`), [`${kind}End`]: ids(`${kind}Start`) };
    const seen = new Set<string>();
    return keeping(tree, ({ name, attributes }) => {
      const [other, id] = [others[name], attributes['w:id']];
      if (!other) return true;
      const mark = `${name} ${id}`;
      if (!other.has(id) || seen.has(mark)) return false;
      seen.add(mark);
      return true;
    });
  }, root);
}

/** An element without those in it that do not stay; itself where all do. */
function keeping(element: Element, stays: (element: Element) => boolean): Element {
  let isSame = true;
  const children = element.children.flatMap((each): (Element | string)[] => {
    if (typeof each === 'string') return [each];
    const kept = stays(each) ? keeping(each, stays) : null;
    if (kept !== each) isSame = false;
    return kept ? [kept] : [];
  });
  return isSame ? element : { ...element, children };
}
