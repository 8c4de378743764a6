import { readAll, writeAll } from '../formats/zipWrite.ts';
import { isRefusal, refuse, type Refusal } from '../versions/refusal.ts';
import { type MergeChoices, type MergeRegion, resolve } from './text.ts';
import { threeWay } from './threeWay.ts';

/** The merge of three word-processing files: regions as a person looks at them, and what is needed to put the file together. */
export interface DocxPlan {
  /** Body first, block by block (ECMA-376 part 1, 17.2.2), then parts that both sides changed, one region each. */
  regions: MergeRegion[];
  raw: { regions: MergeRegion[]; head: string; tail: string };
  /** The package the merge is carried by: theirs, with what only yours changed beside the body. */
  carrier: Map<string, Uint8Array>;
  yours: Map<string, Uint8Array>;
  /** Names of the parts that the last regions are about. */
  parts: string[];
}

const main = 'word/document.xml';
const mainRelations = 'word/_rels/document.xml.rels';
const decode = (bytes: Uint8Array | undefined): string => (bytes ? new TextDecoder().decode(bytes) : '');
const encode = (text: string): Uint8Array => new TextEncoder().encode(text);
const sameBytes = (a: Uint8Array | undefined, b: Uint8Array | undefined): boolean => a === b || (a !== undefined && b !== undefined && a.length === b.length && a.every((byte, index) => byte === b[index]));
/** Parts that blocks all over the body name things of: one cannot be swapped for another. */
const shared = /^word\/(footnotes|endnotes|numbering|styles|comments)\.xml$/;
/** Parts that tell of the writing, not of what is written: theirs are taken where both sides changed them. */
const aside = /^(docProps\/|word\/(settings|fontTable|webSettings|theme\/)|customXml\/|\[Content_Types\]\.xml$|_rels\/|word\/_rels\/document\.xml\.rels$)/;

/**
 * Lays two changed .docx over the one they come from. The body is merged by blocks; a part beside it that only one side changed is that
 * side's; one that both changed is a conflict.
 * @returns a refusal where a file cannot be read
 */
export function planDocx(base: Uint8Array, theirs: Uint8Array, yours: Uint8Array): DocxPlan | Refusal {
  const packages = [base, theirs, yours].map(readAll);
  const damaged = packages.find(isRefusal);
  if (damaged) return damaged;
  const [a, b, c] = packages as [Map<string, Uint8Array>, Map<string, Uint8Array>, Map<string, Uint8Array>];
  const bodies = [a, b, c].map((parts) => splitBody(decode(parts.get(main))));
  if (bodies.some((body) => body === null)) return refuse('invalid', 'not-a-docx', 'One of the files has no body of text that could be merged.');
  const [bodyA, bodyB, bodyC] = bodies as [Body, Body, Body];

  const carrier = new Map(b);
  const inBoth: string[] = [];
  for (const name of new Set([...a.keys(), ...b.keys(), ...c.keys()])) {
    if (name === main || name === mainRelations || name === '[Content_Types].xml') continue;
    const [was, their, your] = [a.get(name), b.get(name), c.get(name)];
    // A part that only yours has comes with the block that names it.
    if (!their || !your || sameBytes(your, was) || sameBytes(your, their)) continue;
    if (sameBytes(their, was)) carrier.set(name, your);
    else if (!aside.test(name)) inBoth.push(name);
  }

  const keys = [bodyA, bodyB, bodyC].map(({ blocks }) => blocks.map(blockKey));
  const raw = threeWay(keys[0] as string[], keys[1] as string[], keys[2] as string[], 'apart').map((region): MergeRegion => {
    const sides = {
      base: bodyA.blocks.slice(region.base.start, region.base.end), theirs: bodyB.blocks.slice(region.theirs.start, region.theirs.end),
      yours: bodyC.blocks.slice(region.yours.start, region.yours.end),
    };
    const yoursStays = region.kind === 'yours' || region.kind === 'conflict' ? firstReason(sides.yours, carrier, c) : null;
    if (region.kind === 'yours' && yoursStays) return { kind: 'conflict', ...sides, merged: null, yoursStays };
    return {
      kind: region.kind, ...sides, merged: region.kind === 'conflict' ? null : region.kind === 'yours' ? sides.yours : sides.theirs,
      ...(yoursStays ? { yoursStays } : {}),
    };
  });
  const partRegions = inBoth.map((name): MergeRegion => ({
    kind: 'conflict', base: [partText(a, name)], theirs: [partText(b, name)], yours: [partText(c, name)], merged: null,
    ...(shared.test(name) ? { yoursStays: 'Both sides changed it, and the text of the latest version depends on its own. Bring your change in by hand afterwards.' } : {}),
  }));
  return {
    regions: [...raw.map(inWords), ...partRegions], raw: { regions: raw, head: bodyB.head, tail: bodyB.tail }, carrier, yours: c, parts: inBoth,
  };
}

/**
 * The file as it was chosen: yours blocks bring the pictures and links they name along.
 * @returns null where a conflict has no choice, or one asks for blocks that cannot be taken over
 */
export function buildDocx(plan: DocxPlan, choices: MergeChoices): Uint8Array | null {
  const { regions } = plan.raw;
  if (plan.regions.some((region, index) => region.yoursStays && (choices[index] === 'yours' || choices[index] === 'both'))) return null;
  const parts = new Map(plan.carrier);
  for (const [index, name] of plan.parts.entries()) {
    const choice = choices[regions.length + index];
    if (choice !== 'theirs' && choice !== 'yours') return null;
    const [part, relations] = [plan.yours.get(name), plan.yours.get(relationsOf(name))];
    if (choice === 'yours' && part) parts.set(name, part);
    if (choice === 'yours' && relations) parts.set(relationsOf(name), relations);
  }
  const links = new Relations(parts, plan.yours);
  const ready = regions.map((region) => {
    const yours = region.yours.map((block) => links.bring(block));
    return { ...region, yours, merged: region.merged === region.yours ? yours : region.merged };
  });
  const blocks = resolve(ready, choices, (pieces) => pieces);
  if (!blocks) return null;
  // Blocks nobody chose brought nothing along: only now is it known which those are.
  links.keepUsed(blocks.join(''));
  parts.set(main, encode(plan.raw.head + blocks.join('') + plan.raw.tail));
  return writeAll(parts);
}

interface Body { head: string; blocks: string[]; tail: string }

/** Cuts a main part into what stands before its body's blocks, the blocks as they are written, and the rest; null without a body. */
function splitBody(xml: string): Body | null {
  const open = /<w:body(?:\s[^>]*)?>/.exec(xml);
  const close = xml.lastIndexOf('</w:body>');
  if (!open || close < 0) return null;
  const start = open.index + open[0].length;
  const blocks: string[] = [];
  let depth = 0;
  let from = start;
  for (const tag of xml.slice(start, close).matchAll(/<!--[^]*?-->|<!\[CDATA\[[^]*?\]\]>|<\?[^]*?\?>|<\/?[^>"']*(?:"[^"]*"[^>"']*|'[^']*'[^>"']*)*>/g)) {
    if (tag[0].startsWith('<!') || tag[0].startsWith('<?')) continue;
    const end = start + tag.index + tag[0].length;
    if (tag[0].startsWith('</')) depth -= 1; else if (!tag[0].endsWith('/>')) depth += 1;
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
    .replace(/>\s+</g, '><').trim();
}

/** A region with its blocks as plain text. */
function inWords(region: MergeRegion): MergeRegion {
  const words = (blocks: string[]): string[] => blocks.map(blockText).filter((text) => text !== '');
  return { ...region, base: words(region.base), theirs: words(region.theirs), yours: words(region.yours), merged: region.merged && words(region.merged) };
}

function blockText(block: string): string {
  return block
    .replace(/<w:(?:tab|ptab)\b[^>]*\/>|<\/w:tc>(?=.*<w:tc[ >])/g, '\t').replace(/<w:(?:br|cr)\b[^>]*\/>|<\/w:p>(?=[^]*<\/w:p>)/g, '\n')
    .replace(/<w:(?:instrText|delText)\b[^>]*>[^<]*<\/w:(?:instrText|delText)>/g, '').replace(/<[^>]*>/g, '')
    .replace(/&lt;/g, '<').replace(/&gt;/g, '>').replace(/&quot;/g, '"').replace(/&apos;/g, "'").replace(/&#(\d+);/g, (_, code: string) => String.fromCodePoint(Number(code))).replace(/&amp;/g, '&').trim();
}
const partText = (parts: ReadonlyMap<string, Uint8Array>, name: string): string => {
  const [what] = /([^/]+?)\d*\.xml$/.exec(name)?.slice(1) ?? [name];
  return `${what}: ${/\.xml$/.test(name) ? blockText(decode(parts.get(name)).replace(/^<\?[^>]*>/, '')) : `${parts.get(name)?.length ?? 0} bytes`}`;
};

const relationsOf = (name: string): string => name.replace(/([^/]+)$/, '_rels/$1.rels');
const attribute = (tag: string, name: string): string | null => new RegExp(`\\s${name}="([^"]*)"`).exec(tag)?.[1] ?? null;

/** Why blocks of yours cannot stand in the carrier: they name what it lacks, or has otherwise. */
function firstReason(blocks: readonly string[], carrier: ReadonlyMap<string, Uint8Array>, yours: ReadonlyMap<string, Uint8Array>): string | null {
  const element = (part: string, name: string, id: string, from: ReadonlyMap<string, Uint8Array>): string | null =>
    new RegExp(`<w:${name}\\b[^>]*\\sw:(?:id|numId|styleId)="${id.replace(/[^\w-]/g, '\\$&')}"[^>]*?(?:/>|>[^]*?</w:${name}>)`).exec(decode(from.get(part)))?.[0] ?? null;
  const text = blocks.join('');
  for (const [, kind, id] of text.matchAll(/<w:(footnote|endnote)Reference\b[^>]*\sw:id="([^"]*)"/g)) {
    const part = `word/${kind}s.xml`;
    if (element(part, kind as string, id as string, carrier) !== element(part, kind as string, id as string, yours)) return `It has a ${kind} that the latest version has otherwise.`;
  }
  for (const [, id] of text.matchAll(/<w:numId\b[^>]*\sw:val="([^"]*)"/g)) {
    if (id !== '0' && element('word/numbering.xml', 'num', id as string, carrier) !== element('word/numbering.xml', 'num', id as string, yours)) return 'It belongs to a list that the latest version numbers otherwise.';
  }
  for (const [, id] of text.matchAll(/<w:(?:pStyle|rStyle|tblStyle)\b[^>]*\sw:val="([^"]*)"/g)) {
    if (element('word/styles.xml', 'style', id as string, carrier) === null && element('word/styles.xml', 'style', id as string, yours) !== null) return `It uses the style ${id}, which the latest version lacks.`;
  }
  const relations = decode(yours.get(mainRelations));
  for (const id of relationIds(text)) {
    const relation = relationOf(relations, id);
    if (relation && !/\/(image|hyperlink|header|footer)$/.test(attribute(relation, 'Type') ?? '')) return 'It holds an embedded object, which cannot be taken over by itself.';
  }
  return null;
}

const relationIds = (text: string): string[] => [...new Set([...text.matchAll(/\sr:(?:id|embed|link|pict)="([^"]*)"/g)].map((found) => found[1] as string))];
const relationOf = (relations: string, id: string): string | null => [...relations.matchAll(/<Relationship\b[^>]*>/g)].map(([tag]) => tag).find((tag) => attribute(tag, 'Id') === id) ?? null;

/** Relations of the main part (ECMA-376 part 2, 6.5): what blocks of yours name is added to the carrier under a name of its own. */
class Relations {
  private readonly added = new Map<string, { tag: string; part: string | null }>();

  private readonly theirTags: string;
  private readonly yourTags: string;

  constructor(private readonly parts: Map<string, Uint8Array>, private readonly yours: ReadonlyMap<string, Uint8Array>) {
    [this.theirTags, this.yourTags] = [decode(parts.get(mainRelations)), decode(yours.get(mainRelations))];
  }

  bring(block: string): string {
    return relationIds(block).reduce((text, id) => {
      const relation = relationOf(this.yourTags, id);
      if (!relation || this.alike(relationOf(this.theirTags, id), relation)) return text;
      const own = `mine${id}`;
      const target = attribute(relation, 'Target') ?? '';
      const external = attribute(relation, 'TargetMode') === 'External';
      const name = external ? target : target.replace(/([^/]+)$/, 'mine-$1');
      this.added.set(own, { part: external ? null : target, tag: relation.replace(`Id="${id}"`, `Id="${own}"`).replace(`Target="${target}"`, `Target="${name}"`) });
      return text.replaceAll(new RegExp(`(\\sr:(?:id|embed|link|pict))="${id}"`, 'g'), `$1="${own}"`);
    }, block);
  }

  /** Adds the relations the body names, with the parts they lead to. */
  keepUsed(body: string): void {
    const used = [...this.added].filter(([id]) => body.includes(`="${id}"`));
    if (used.length === 0) return;
    let types = decode(this.parts.get('[Content_Types].xml'));
    for (const [, { part }] of used) {
      const bytes = part === null ? undefined : this.yours.get(`word/${part}`);
      if (part === null || !bytes) continue;
      const name = part.replace(/([^/]+)$/, 'mine-$1');
      this.parts.set(`word/${name}`, bytes);
      const yourTypes = decode(this.yours.get('[Content_Types].xml'));
      const override = [...yourTypes.matchAll(/<Override\b[^>]*>/g)].map(([tag]) => tag).find((tag) => attribute(tag, 'PartName') === `/word/${part}`);
      const ending = /\.(\w+)$/.exec(part)?.[1] ?? '';
      const byEnding = [...yourTypes.matchAll(/<Default\b[^>]*>/g)].map(([tag]) => tag).find((tag) => attribute(tag, 'Extension') === ending);
      if (override) types = types.replace('</Types>', `${override.replace(`/word/${part}`, `/word/${name}`)}</Types>`);
      else if (byEnding && !types.includes(`Extension="${ending}"`)) types = types.replace('</Types>', `${byEnding}</Types>`);
    }
    this.parts.set('[Content_Types].xml', encode(types));
    this.parts.set(mainRelations, encode(this.theirTags.replace('</Relationships>', `${used.map(([, { tag }]) => tag).join('')}</Relationships>`)));
  }

  private alike(theirs: string | null, yours: string): boolean {
    if (!theirs || ['Type', 'Target', 'TargetMode'].some((name) => attribute(theirs, name) !== attribute(yours, name))) return false;
    if (attribute(yours, 'TargetMode') === 'External') return true;
    const part = `word/${attribute(yours, 'Target') ?? ''}`;
    return sameBytes(this.parts.get(part), this.yours.get(part));
  }
}
