import { createHash } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { disableTypes, imageSize, types } from 'image-size';
import {
  buildDocx,
  buildText,
  compare,
  type ControlValues,
  countWords,
  isRefusal,
  issueCopy,
  type Layout,
  type MergeChoices,
  type MergeRegion,
  flatParts,
  isXml,
  mediaTypeOf,
  openDocx,
  mostLines,
  nearestTo,
  plainText,
  planDocx,
  planText,
  readDocx,
  readEntry,
  readMark,
  layOut,
  refuse,
  textOfReading,
  type VersionMark,
  type ZipEntry,
  verifyParts,
  withoutMark,
  writeMark,
  type Comparison,
  type Reading,
  type Refusal,
  type Side,
} from '@polychron/core';
import { longestCounted } from './largest.ts';

type Reader = 'docx' | 'text';
export type Task =
  | { kind: 'inspect'; path: string; reader: Reader; mediaType: string }
  | { kind: 'read'; bytes: Uint8Array; layout: Layout }
  | { kind: 'compare'; older: Side; newer: Side }
  | { kind: 'count'; bytes: Uint8Array; reader: Reader; mediaType: string }
  | { kind: 'picture'; bytes: Uint8Array; entry: ZipEntry }
  | { kind: 'mark'; bytes: Uint8Array; mark: VersionMark }
  | { kind: 'issue'; bytes: Uint8Array; fileName: string; control: ControlValues }
  | { kind: 'look'; bytes: Uint8Array }
  | { kind: 'nearest'; given: Uint8Array; versions: readonly Uint8Array[]; clearly: boolean }
  | ({ kind: 'merge'; reader: Reader; choices: MergeChoices | null } & Record<
      'base' | 'present' | 'mine',
      Uint8Array
    >);
export type Answer =
  | { words: number | null }
  | Reading
  | Comparison
  | Refusal
  | Uint8Array
  | Look
  | Merge
  | { nearest: number }
  | null;

/**
 * What a file says of itself: the version it was taken from, and a hash of all it holds beside that mark;
 * null where it cannot carry one.
 */
export interface Look {
  mark: VersionMark | null;
  substance: string | null;
}
/** The regions of a merge, or the merged bytes: null where a conflict has no choice. */
export type Merge = Laid | { bytes: Uint8Array | null };
/** Regions of a merge; whether all three files are of one program. */
export interface Laid {
  regions: MergeRegion[];
  sameWriter: boolean;
  /** What both changed beside the text, as a person calls it; the latest's is kept. */
  kept: string[];
}

/** The font of lines that are written into files. */
const typeface = (): Promise<Uint8Array> =>
  readFile(new URL(import.meta.resolve('dejavu-fonts-ttf/ttf/DejaVuSans.ttf')));

/** What runs in a reading thread: computation only, no database. It tells when it begins. */
export default async function work({ task, begun }: { task: Task; begun: Float64Array }): Promise<Answer> {
  begun[0] = Date.now();
  if (task.kind === 'compare') return compare(task.older, task.newer);
  if (task.kind === 'read') return layOut(task.bytes, task.layout);
  if (task.kind === 'count') return countIn(task.bytes, task);
  if (task.kind === 'picture') return picture(task.bytes, task.entry);
  if (task.kind === 'mark') return writeMark(task.bytes, task.mark);
  if (task.kind === 'issue')
    return issueCopy(task.bytes, task.fileName, { control: task.control, typeface: await typeface() });
  if (task.kind === 'look') return look(task.bytes);
  if (task.kind === 'nearest') return { nearest: nearestTo(task.given, task.versions, task.clearly) };
  if (task.kind === 'merge') return merge(task);
  const bytes = await readFile(task.path);
  if (task.reader === 'docx' && !isOtherXml(bytes, task.mediaType)) {
    const pack = openDocx(bytes);
    const damage = isRefusal(pack) ? pack : verifyParts(pack);
    if (damage) return damage;
  }
  return countIn(bytes, task);
}

/** Whether a file is XML that holds no document: it is taken in, and not read in the page. */
const isOtherXml = (bytes: Uint8Array, mediaType: string): boolean =>
  mediaType === mediaTypeOf('a.xml') && !flatParts(bytes);

/** Words of a file; null where it is taken in, but holds more than is read in a page. */
function countIn(
  bytes: Uint8Array,
  { reader, mediaType }: { reader: Reader; mediaType: string },
): { words: number | null } | Refusal {
  if (reader === 'text') {
    return { words: bytes.length > longestCounted ? null : countWords(plainText(bytes)) };
  }
  if (isOtherXml(bytes, mediaType)) return { words: null };
  const reading = readDocx(bytes);
  if (!isRefusal(reading)) return { words: countWords(textOfReading(reading)) };
  return reading.code === 'too-complex' ? { words: null } : reading;
}

/** Pictures that pages show. */
const shown = ['gif', 'jpg', 'png', 'webp'];
disableTypes(types.filter((type) => !shown.includes(type)));

/** The most points a picture may have that is shown in a page, which takes four bytes of memory for each. */
const mostPoints = 50_000_000;

/** One part, whose own header comes first; null for what is no picture, or would fill a page's memory. */
function picture(bytes: Uint8Array, entry: ZipEntry): Uint8Array | null {
  const unfolded = readEntry(bytes, { ...entry, offset: 0 });
  if (isRefusal(unfolded)) return null;
  try {
    const { width, height } = imageSize(unfolded);
    return width * height > mostPoints ? null : unfolded;
  } catch (error) {
    // What it is given is not of a type it knows, or is broken.
    if (error instanceof TypeError || error instanceof RangeError) return null;
    throw error;
  }
}

function look(bytes: Uint8Array): Look {
  const parts = withoutMark(bytes);
  if (!parts) return { mark: null, substance: null };
  const hash = createHash('sha256');
  for (const [name, part] of parts) hash.update(`${name}\n${part.length}\n`).update(part);
  return { mark: readMark(bytes), substance: hash.digest('hex') };
}

/** Lines, or blocks: more than this would take minutes to lay over each other. */
const maximumPieces = 200_000;

function merge({ reader, base, present, mine, choices }: Extract<Task, { kind: 'merge' }>): Merge | Refusal {
  if (reader === 'docx' && isXml(present)) {
    const reason = 'Documents in one XML file are compared, not merged in the page. Save yours as .docx.';
    return refuse('invalid', 'too-complex', reason);
  }
  if (reader === 'docx') {
    const plan = planDocx(base, present, mine);
    if (isRefusal(plan)) return plan;
    if (!choices) return { regions: plan.regions, sameWriter: plan.sameWriter, kept: plan.definitions.kept };
    const bytes = buildDocx(plan, choices);
    return bytes && isRefusal(bytes) ? bytes : { bytes };
  }
  if (mostLines([base, present, mine]) > maximumPieces)
    return refuse(
      'invalid',
      'too-complex',
      `A text of more than ${maximumPieces} lines is not merged in the page.`,
    );
  const plan = planText(base, present, mine);
  if (!choices) return { regions: plan.regions, sameWriter: true, kept: [] };
  const bytes = buildText(plan, choices);
  return bytes && isRefusal(bytes) ? bytes : { bytes };
}
