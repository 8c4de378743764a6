import { elementAt } from '../document/elementAt.ts';
import { readAll, writeAll } from '../files/zip/writeZip.ts';
import { isRefusal, refuse, type Refusal } from '../document/refusal.ts';
import { type MergeChoices, type MergeRegion, resolve } from './text.ts';
import { threeWay } from './threeWay.ts';

/**
 * The merge of three word-processing files: regions as a person looks at them, and what is needed to put the
 * file together.
 */
export interface DocxPlan {
  /**
   * Body first, block by block (ECMA-376 part 1, 17.2.2), then parts that both sides changed, one region
   * each.
   */
  regions: MergeRegion[];
  raw: { regions: MergeRegion[]; head: string; tail: string };
  /** The package the merge is carried by: present, with what only mine changed beside the body. */
  carrier: Map<string, Uint8Array>;
  mine: Map<string, Uint8Array>;
  /** Names of the parts that the last regions are about. */
  parts: string[];
}

const main = 'word/document.xml';
const mainRelations = 'word/_rels/document.xml.rels';
const decode = (bytes: Uint8Array | undefined): string => (bytes ? new TextDecoder().decode(bytes) : '');
const encode = (text: string): Uint8Array => new TextEncoder().encode(text);
const sameBytes = (a: Uint8Array | undefined, b: Uint8Array | undefined): boolean =>
  a === b ||
  (a !== undefined &&
    b !== undefined &&
    a.length === b.length &&
    a.every((byte, index) => byte === b[index]));
/** Parts that blocks all over the body name things of: one cannot be swapped for another. */
const shared = /^word\/(footnotes|endnotes|numbering|styles|comments)\.xml$/;
/**
 * Parts that tell of the writing, not of what is written: present are taken where both sides changed them.
 */
const aside =
  /^(docProps\/|word\/(settings|fontTable|webSettings|theme\/)|customXml\/|\[Content_Types\]\.xml$|_rels\/|word\/_rels\/document\.xml\.rels$)/;

/**
 * Lays two changed .docx over the one they come from. The body is merged by blocks; a part beside it that
 * only one side changed is that side's; one that both changed is a conflict.
 * @returns a refusal where a file cannot be read
 */
export function planDocx(base: Uint8Array, present: Uint8Array, mine: Uint8Array): DocxPlan | Refusal {
  const packages = [base, present, mine].map(readAll);
  const damaged = packages.find(isRefusal);
  if (damaged) return damaged;
  const [a, b, c] = packages as [Map<string, Uint8Array>, Map<string, Uint8Array>, Map<string, Uint8Array>];
  const bodies = [a, b, c].map((parts) => splitBody(decode(parts.get(main))));
  if (bodies.some((body) => body === null))
    return refuse('invalid', 'not-a-docx', 'One of the files has no body of text that could be merged.');
  const [bodyA, bodyB, bodyC] = bodies as [Body, Body, Body];

  const carrier = new Map(b);
  const inBoth: string[] = [];
  for (const name of new Set([...a.keys(), ...b.keys(), ...c.keys()])) {
    if (name === main || name === mainRelations || name === '[Content_Types].xml') continue;
    const [was, their, your] = [a.get(name), b.get(name), c.get(name)];
    // A part that only mine has comes with the block that names it.
    if (!their || !your || sameBytes(your, was) || sameBytes(your, their)) continue;
    if (sameBytes(their, was)) carrier.set(name, your);
    else if (!aside.test(name)) inBoth.push(name);
  }

  const keys = [bodyA, bodyB, bodyC].map(({ blocks }) => blocks.map(blockKey));
  const raw = threeWay(elementAt(keys, 0), elementAt(keys, 1), elementAt(keys, 2), 'apart').map(
    (region): MergeRegion => {
      const sides = {
        base: bodyA.blocks.slice(region.base.start, region.base.end),
        present: bodyB.blocks.slice(region.present.start, region.present.end),
        mine: bodyC.blocks.slice(region.mine.start, region.mine.end),
      };
      const taken = region.kind === 'mine' ? sides.mine : sides.present;
      const mineStays =
        region.kind === 'mine' || region.kind === 'conflict' ? firstReason(sides.mine, carrier, c) : null;
      if (region.kind === 'mine' && mineStays) return { kind: 'conflict', ...sides, merged: null, mineStays };
      return {
        kind: region.kind,
        ...sides,
        merged: region.kind === 'conflict' ? null : taken,
        ...(mineStays ? { mineStays } : {}),
      };
    },
  );
  const partRegions = inBoth.map((name): MergeRegion => ({
    kind: 'conflict',
    base: [partText(a, name)],
    present: [partText(b, name)],
    mine: [partText(c, name)],
    merged: null,
    ...(shared.test(name)
      ? {
          mineStays:
            'Both sides changed it, and the text of the latest version depends on its own. Bring your change in by hand afterwards.',
        }
      : {}),
  }));
  return {
    regions: [...raw.map(inWords), ...partRegions],
    raw: { regions: raw, head: bodyB.head, tail: bodyB.tail },
    carrier,
    mine: c,
    parts: inBoth,
  };
}

/**
 * The file as it was chosen: mine blocks bring the pictures and links they name along.
 * @returns null where a conflict has no choice, or one asks for blocks that cannot be taken over
 */
export function buildDocx(plan: DocxPlan, choices: MergeChoices): Uint8Array | null {
  const { regions } = plan.raw;
  if (
    plan.regions.some(
      (region, index) => region.mineStays && (choices[index] === 'mine' || choices[index] === 'both'),
    )
  )
    return null;
  const parts = new Map(plan.carrier);
  for (const [index, name] of plan.parts.entries()) {
    const choice = choices[regions.length + index];
    if (choice !== 'present' && choice !== 'mine') return null;
    const [part, relations] = [plan.mine.get(name), plan.mine.get(relationsOf(name))];
    if (choice === 'mine' && part) parts.set(name, part);
    if (choice === 'mine' && relations) parts.set(relationsOf(name), relations);
  }
  const links = new Relations(parts, plan.mine);
  const ready = regions.map((region) => {
    const mine = region.mine.map((block) => links.bring(block));
    return { ...region, mine, merged: region.merged === region.mine ? mine : region.merged };
  });
  const blocks = resolve(ready, choices, (pieces) => pieces);
  if (!blocks) return null;
  // Blocks nobody chose brought nothing along: only now is it known which those are.
  links.keepUsed(blocks.join(''));
  parts.set(main, encode(plan.raw.head + blocks.join('') + plan.raw.tail));
  return writeAll(parts);
}

interface Body {
  head: string;
  blocks: string[];
  tail: string;
}

/**
 * Cuts a main part into what stands before its body's blocks, the blocks as they are written, and the rest;
 * null without a body.
 */
function splitBody(xml: string): Body | null {
  const open = /<w:body(?:\s[^>]*)?>/.exec(xml);
  const close = xml.lastIndexOf('</w:body>');
  if (!open || close < 0) return null;
  const start = open.index + open[0].length;
  const blocks: string[] = [];
  let depth = 0;
  let from = start;
  for (const tag of xml
    .slice(start, close)
    .matchAll(
      /<!--[^]*?-->|<!\[CDATA\[[^]*?\]\]>|<\?[^]*?\?>|<\/?[^>"']*(?:"[^"]*"[^>"']*|'[^']*'[^>"']*)*>/g,
    )) {
    if (tag[0].startsWith('<!') || tag[0].startsWith('<?')) continue;
    const end = start + tag.index + tag[0].length;
    if (tag[0].startsWith('</')) depth -= 1;
    else if (!tag[0].endsWith('/>')) depth += 1;
    if (depth > 0) continue;
    blocks.push(xml.slice(from, end));
    from = end;
  }
  return { head: xml.slice(0, start), blocks, tail: xml.slice(from) };
}

/** What makes two blocks the same: not when they were typed, checked or numbered inside the file. */
function blockKey(block: string): string {
  return block
    .replace(/\s(?:w:rsid\w*|w14:paraId|w14:textId)="[^"]*"/g, '')
    .replace(/<w:(?:proofErr|lastRenderedPageBreak)\b[^>]*\/>/g, '')
    .replace(/(<w:bookmark(?:Start|End)\b[^>]*?\s)w:id="[^"]*"/g, '$1')
    .replace(/>\s+</g, '><')
    .trim();
}

/** A region with its blocks as plain text. */
function inWords(region: MergeRegion): MergeRegion {
  const words = (blocks: string[]): string[] => blocks.map(blockText).filter((text) => text !== '');
  return {
    ...region,
    base: words(region.base),
    present: words(region.present),
    mine: words(region.mine),
    merged: region.merged && words(region.merged),
  };
}

function blockText(block: string): string {
  return block
    .replace(/<w:(?:tab|ptab)\b[^>]*\/>|<\/w:tc>(?=.*<w:tc[ >])/g, '\t')
    .replace(/<w:(?:br|cr)\b[^>]*\/>|<\/w:p>(?=[^]*<\/w:p>)/g, '\n')
    .replace(/<w:(?:instrText|delText)\b[^>]*>[^<]*<\/w:(?:instrText|delText)>/g, '')
    .replace(/<[^>]*>/g, '')
    .replace(/&lt;/g, '<')
    .replace(/&gt;/g, '>')
    .replace(/&quot;/g, '"')
    .replace(/&apos;/g, "'")
    .replace(/&#(\d+);/g, (_, code: string) => String.fromCodePoint(Number(code)))
    .replace(/&amp;/g, '&')
    .trim();
}
const partText = (parts: ReadonlyMap<string, Uint8Array>, name: string): string => {
  const [what] = /([^/]+?)\d*\.xml$/.exec(name)?.slice(1) ?? [name];
  return `${what}: ${/\.xml$/.test(name) ? blockText(decode(parts.get(name)).replace(/^<\?[^>]*>/, '')) : `${parts.get(name)?.length ?? 0} bytes`}`;
};

const relationsOf = (name: string): string => name.replace(/([^/]+)$/, '_rels/$1.rels');
const attribute = (tag: string, name: string): string | null =>
  new RegExp(`\\s${name}="([^"]*)"`).exec(tag)?.[1] ?? null;

/** Why blocks of mine cannot stand in the carrier: they name what it lacks, or has otherwise. */
function firstReason(
  blocks: readonly string[],
  carrier: ReadonlyMap<string, Uint8Array>,
  mine: ReadonlyMap<string, Uint8Array>,
): string | null {
  const element = (
    part: string,
    name: string,
    id: string,
    from: ReadonlyMap<string, Uint8Array>,
  ): string | null =>
    new RegExp(
      `<w:${name}\\b[^>]*\\sw:(?:id|numId|styleId)="${id.replace(/[^\w-]/g, '\\$&')}"[^>]*?(?:/>|>[^]*?</w:${name}>)`,
    ).exec(decode(from.get(part)))?.[0] ?? null;
  const text = blocks.join('');
  for (const [, kind, id] of text.matchAll(/<w:(footnote|endnote)Reference\b[^>]*\sw:id="([^"]*)"/g)) {
    const part = `word/${kind}s.xml`;
    if (
      element(part, kind as string, id as string, carrier) !==
      element(part, kind as string, id as string, mine)
    )
      return `It has a ${kind} that the latest version has otherwise.`;
  }
  for (const [, id] of text.matchAll(/<w:numId\b[^>]*\sw:val="([^"]*)"/g)) {
    if (
      id !== '0' &&
      element('word/numbering.xml', 'num', id as string, carrier) !==
        element('word/numbering.xml', 'num', id as string, mine)
    )
      return 'It belongs to a list that the latest version numbers otherwise.';
  }
  for (const [, id] of text.matchAll(/<w:(?:pStyle|rStyle|tblStyle)\b[^>]*\sw:val="([^"]*)"/g)) {
    if (
      element('word/styles.xml', 'style', id as string, carrier) === null &&
      element('word/styles.xml', 'style', id as string, mine) !== null
    )
      return `It uses the style ${id}, which the latest version lacks.`;
  }
  const relations = decode(mine.get(mainRelations));
  for (const id of relationIds(text)) {
    const relation = relationOf(relations, id);
    if (relation && !/\/(image|hyperlink|header|footer)$/.test(attribute(relation, 'Type') ?? ''))
      return 'It holds an embedded object, which cannot be taken over by itself.';
  }
  return null;
}

const relationIds = (text: string): string[] => [
  ...new Set([...text.matchAll(/\sr:(?:id|embed|link|pict)="([^"]*)"/g)].map((found) => elementAt(found, 1))),
];
const relationOf = (relations: string, id: string): string | null =>
  [...relations.matchAll(/<Relationship\b[^>]*>/g)]
    .map(([tag]) => tag)
    .find((tag) => attribute(tag, 'Id') === id) ?? null;

/**
 * Relations of the main part (ECMA-376 part 2, 6.5): what blocks of mine name is added to the carrier under a
 * name of its own.
 */
class Relations {
  private readonly added = new Map<string, { tag: string; part: string | null }>();

  private readonly theirTags: string;
  private readonly yourTags: string;

  constructor(
    private readonly parts: Map<string, Uint8Array>,
    private readonly mine: ReadonlyMap<string, Uint8Array>,
  ) {
    [this.theirTags, this.yourTags] = [decode(parts.get(mainRelations)), decode(mine.get(mainRelations))];
  }

  bring(block: string): string {
    return relationIds(block).reduce((text, id) => {
      const relation = relationOf(this.yourTags, id);
      if (!relation || this.alike(relationOf(this.theirTags, id), relation)) return text;
      const own = `mine${id}`;
      const target = attribute(relation, 'Target') ?? '';
      const external = attribute(relation, 'TargetMode') === 'External';
      const name = external ? target : target.replace(/([^/]+)$/, 'mine-$1');
      this.added.set(own, {
        part: external ? null : target,
        tag: relation.replace(`Id="${id}"`, `Id="${own}"`).replace(`Target="${target}"`, `Target="${name}"`),
      });
      return text.replaceAll(new RegExp(`(\\sr:(?:id|embed|link|pict))="${id}"`, 'g'), `$1="${own}"`);
    }, block);
  }

  /** Adds the relations the body names, with the parts they lead to. */
  keepUsed(body: string): void {
    const used = [...this.added].filter(([id]) => body.includes(`="${id}"`));
    if (used.length === 0) return;
    let types = decode(this.parts.get('[Content_Types].xml'));
    for (const [, { part }] of used) {
      const bytes = part === null ? undefined : this.mine.get(`word/${part}`);
      if (part === null || !bytes) continue;
      const name = part.replace(/([^/]+)$/, 'mine-$1');
      this.parts.set(`word/${name}`, bytes);
      const yourTypes = decode(this.mine.get('[Content_Types].xml'));
      const override = [...yourTypes.matchAll(/<Override\b[^>]*>/g)]
        .map(([tag]) => tag)
        .find((tag) => attribute(tag, 'PartName') === `/word/${part}`);
      const ending = /\.(\w+)$/.exec(part)?.[1] ?? '';
      const byEnding = [...yourTypes.matchAll(/<Default\b[^>]*>/g)]
        .map(([tag]) => tag)
        .find((tag) => attribute(tag, 'Extension') === ending);
      if (override)
        types = types.replace('</Types>', `${override.replace(`/word/${part}`, `/word/${name}`)}</Types>`);
      else if (byEnding && !types.includes(`Extension="${ending}"`))
        types = types.replace('</Types>', `${byEnding}</Types>`);
    }
    this.parts.set('[Content_Types].xml', encode(types));
    this.parts.set(
      mainRelations,
      encode(
        this.theirTags.replace(
          '</Relationships>',
          `${used.map(([, { tag }]) => tag).join('')}</Relationships>`,
        ),
      ),
    );
  }

  private alike(present: string | null, mine: string): boolean {
    if (
      !present ||
      ['Type', 'Target', 'TargetMode'].some((name) => attribute(present, name) !== attribute(mine, name))
    )
      return false;
    if (attribute(mine, 'TargetMode') === 'External') return true;
    const part = `word/${attribute(mine, 'Target') ?? ''}`;
    return sameBytes(this.parts.get(part), this.mine.get(part));
  }
}
