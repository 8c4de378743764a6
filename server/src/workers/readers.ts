import { once } from 'node:events';
import { stat } from 'node:fs/promises';
import { LRUCache } from 'lru-cache';
import { Piscina } from 'piscina';
import {
  type Comparison,
  type ContentFacts,
  type ControlValues,
  type Fields,
  type MergeChoices,
  type Reading,
  type Refusal,
  type VersionMark,
  type ZipEntry,
  isRefusal,
  layoutOf,
  mediaTypeOf,
  readerOf,
  refuse,
  sizeOfReading,
  surelyLaidOut,
  tooLargeToLayOut,
} from '@polychron/core';
import { Refused } from '../refused.ts';
import { largestChecked, longestCounted } from './largest.ts';
import { timeLimit } from './timeLimit.ts';
import { workOwner } from './account.ts';
import { Memory } from './memory.ts';
import { isCutShort, Turns } from './turns.ts';
import { workerFile } from './workerFile.ts';
import type { Answer, Laid, Look, Merge, Task } from './readerWorker.ts';

/** One more than there are for long work, so that there is always a place for a short one. */
const threads = 3;
/** How long is waited to be told whether a content is read in the page, in milliseconds. */
const longestAnswer = 15_000;
/** What readings, and comparisons, that are kept for the next who asks may take of memory each, in bytes. */
const cached = 32 << 20;

/**
 * The memory a reading takes, about, in bytes: two a character, and what a block with its runs takes by
 * itself.
 */
function bytesOf(reading: Reading): number {
  const { blocks, characters } = sizeOfReading(reading);
  return 2 * characters + 400 * blocks + 1000;
}

/**
 * Memory of one reading thread, in megabytes: enough for a file as large as is read, and for comparing two of
 * several hundred thousand words. What is young is kept small, since threads are many and mostly idle.
 */
const memory = { maxOldGenerationSizeMb: 300, maxYoungGenerationSizeMb: 8 };

/**
 * Reads and compares files in threads of their own, so that a heavy file holds up nobody else. Results are
 * cached by hash.
 */
export class Readers {
  private readonly pool: Piscina;
  private readonly turns = new Turns(threads);
  private readonly memory = new Memory();
  private readonly readings = new LRUCache<string, Reading>({
    maxSize: cached,
    sizeCalculation: (reading) => bytesOf(reading),
  });
  private readonly comparisons = new LRUCache<string, Comparison>({ maxSize: cached });
  /**
   * Why a content is not read, or two are not compared: to find it out may take as long as is allowed, and
   * would each time it is asked. For a while, since a busy machine may have been the reason.
   */
  private readonly refusals = new LRUCache<string, Refused>({ max: 5000, ttl: 30 * 60_000 });
  private readonly looks = new LRUCache<string, Look>({ max: 2000 });

  constructor() {
    this.pool = new Piscina({
      filename: workerFile('readerWorker'),
      minThreads: 0,
      maxThreads: threads,
      idleTimeout: 30_000,
      resourceLimits: memory,
    });
  }

  /** Reads a staged file through; refuses one that is not what its name says. */
  async inspect(path: string, mediaType: string): Promise<{ words: number | null }> {
    const reader = readerOf(mediaType);
    if (!reader) return { words: null };
    const { size } = await stat(path);
    if (reader === 'text' && size > longestCounted) return { words: null };
    // XML may be of any kind: what is too large to be a document that is read is kept as it is.
    if (size > largestChecked && mediaType === mediaTypeOf('a.xml')) return { words: null };
    if (size > largestChecked) throw new Refused(tooLargeToCheck(size));
    return this.run<{ words: number | null }>(size, () => ({ kind: 'inspect', path, reader, mediaType }));
  }

  /** Reads a content into blocks. */
  read(content: ReadContent, bytes: () => Promise<Buffer>): Promise<Reading> {
    return this.memory.within(weightOf(content), () => this.readOne(content, bytes));
  }

  private async readOne(
    { sha256, mediaType, size }: ReadContent,
    bytes: () => Promise<Buffer>,
  ): Promise<Reading> {
    const layout = layoutOf(mediaType);
    if (!layout) {
      throw new Refused(
        refuse(
          'invalid',
          'no-reading',
          'Files of this type cannot be read in the page yet. Download the file to open it.',
          { mediaType },
        ),
      );
    }
    const tooLarge = tooLargeToLayOut(layout, size);
    if (tooLarge) throw new Refused(tooLarge);
    const key = `${layout} ${sha256}`;
    const known = this.readings.get(key);
    if (known) return known;
    const reading = await this.unlessRefused(key, () =>
      this.run<Reading>(size, async () => ({ kind: 'read', bytes: await bytes(), layout })),
    );
    this.readings.set(key, reading);
    return reading;
  }

  /**
   * Why a content is not read in the page, in a sentence; null where it is, or where none of its type are.
   * It is read for that, if it is large enough to be more than a page holds; nobody waits for that for long.
   */
  async whyNotRead(content: ContentFacts, bytes: () => Promise<Buffer>): Promise<string | null> {
    const layout = layoutOf(content.mediaType);
    if (!layout || surelyLaidOut(layout, content)) return null;
    const reading = this.read(content, bytes).then(
      () => null,
      (error: unknown) => {
        if (error instanceof Refused) return error.refusal.reason;
        throw error;
      },
    );
    const enough = AbortSignal.timeout(longestAnswer);
    const late = once(enough, 'abort').then(
      () => 'It takes long to read: whether it can be read in the page is not known yet.',
    );
    return Promise.race([reading, late]);
  }

  /** Does what is refused for good, or for a while, once: the next who asks is told at once. */
  private async unlessRefused<T>(key: string, work: () => Promise<T>): Promise<T> {
    const known = this.refusals.get(key);
    if (known) throw known;
    try {
      return await work();
    } catch (error) {
      if (error instanceof Refused) this.refusals.set(key, error);
      throw error;
    }
  }

  /** Words in the text of a content; null where its type has none. */
  async countWords(bytes: Uint8Array, mediaType: string): Promise<number | null> {
    const reader = readerOf(mediaType);
    if (!reader) return null;
    const count = (): Task => ({ kind: 'count', bytes, reader, mediaType });
    return (await this.run<{ words: number | null }>(bytes.length, count)).words;
  }

  /** A picture that can be shown, out of its entry in a .zip; null for one that cannot. */
  picture(packed: PackedPart): Promise<Uint8Array | null> {
    const { size, compressedSize } = packed.entry;
    return this.memory.within(size + compressedSize, () =>
      this.run<Uint8Array | null>(size, async () => ({
        kind: 'picture',
        entry: packed.entry,
        bytes: await packed.bytes(),
      })),
    );
  }

  /** Compares two readings and their fields. */
  compare(older: ComparedContent, newer: ComparedContent): Promise<Comparison> {
    const weight = weightOf(older.content) + weightOf(newer.content);
    return this.memory.within(weight, () => this.compareTwo(older, newer));
  }

  private async compareTwo(older: ComparedContent, newer: ComparedContent): Promise<Comparison> {
    const key = JSON.stringify(
      [older, newer].flatMap(({ content, fields }) => [layoutOf(content.mediaType), content.sha256, fields]),
    );
    const known = this.comparisons.get(key);
    if (known) return known;
    const [a, b] = [
      await this.readOne(older.content, older.bytes),
      await this.read(newer.content, newer.bytes),
    ];
    const size = bytesOf(a) + bytesOf(b);
    const sides = {
      older: { reading: a, fields: older.fields },
      newer: { reading: b, fields: newer.fields },
    };
    const comparison = await this.unlessRefused(key, () =>
      this.run<Comparison>(size, () => ({ kind: 'compare', ...sides })),
    );
    this.comparisons.set(key, comparison, { size });
    return comparison;
  }

  /** The file with the version it was taken from written into it. */
  mark(file: Fetched, mark: VersionMark): Promise<Uint8Array> {
    return this.memory.within(2 * file.size, () =>
      this.run<Uint8Array>(file.size, async () => ({ kind: 'mark', bytes: await file.bytes(), mark })),
    );
  }

  /** An issued copy of the file. @throws Refused `not-to-be-issued` */
  issue(content: Issued, bytes: () => Promise<Buffer>, control: ControlValues): Promise<Uint8Array> {
    const { sha256, size, fileName } = content;
    const task = async (): Promise<Task> => ({ kind: 'issue', bytes: await bytes(), fileName, control });
    return this.memory.within(2 * size, () =>
      // Why it cannot be is in the file, and in what is to be written into it.
      this.unlessRefused(`issue ${fileName} ${sha256} ${control.line}`, () =>
        this.run<Uint8Array>(size, task),
      ),
    );
  }

  /** What a file says of itself. */
  async look(sha256: string, file: Fetched): Promise<Look> {
    const known = this.looks.get(sha256);
    if (known) return known;
    const look = await this.run<Look>(file.size, async () => ({ kind: 'look', bytes: await file.bytes() }));
    this.looks.set(sha256, look);
    return look;
  }

  /** Which of some versions a file reads most like, by its place; the first unless another is it clearly. */
  async nearest(given: Fetched, versions: readonly Fetched[], clearly = false): Promise<number> {
    const size = versions.reduce((sum, one) => sum + one.size, given.size);
    const task = async (): Promise<Task> => {
      const read: Uint8Array[] = [];
      for (const version of versions) read.push(await version.bytes());
      return { kind: 'nearest', given: await given.bytes(), versions: read, clearly };
    };
    return (await this.run<{ nearest: number }>(size, task)).nearest;
  }

  /** Lays two changed files over the one they come from. */
  merge(files: MergedFiles): Promise<Laid> {
    return this.mergeAs<Laid>(files, null);
  }

  /** The merged file with what was chosen for its conflicts; null where one has no choice. */
  async resolve(files: MergedFiles, choices: MergeChoices): Promise<Uint8Array | null> {
    const answer = await this.mergeAs<Merge>(files, choices);
    return 'bytes' in answer ? answer.bytes : null;
  }

  private mergeAs<T>(files: MergedFiles, choices: MergeChoices | null): Promise<T> {
    const { reader, base, present, mine } = files;
    const size = base.size + present.size + mine.size;
    return this.memory.within(4 * size, () =>
      this.run<T>(size, async () => ({
        ...{ kind: 'merge', reader, choices },
        base: await base.bytes(),
        present: await present.bytes(),
        mine: await mine.bytes(),
      })),
    );
  }

  /** Where somebody's files stand that are to be read. */
  placeOf(personId: string): ReturnType<Turns['placeOf']> {
    return this.turns.placeOf(personId);
  }

  async close(): Promise<void> {
    await this.pool.destroy();
  }

  private async within(milliseconds: number, task: Task): Promise<Answer> {
    const { signal, begun, clear } = timeLimit(milliseconds);
    try {
      return (await this.pool.run({ task, begun }, { signal })) as Answer;
    } finally {
      clear();
    }
  }

  /**
   * Runs a task in its turn; `bytes` tells about how much there is to do. What it is about is fetched then,
   * so that what waits takes no memory.
   */
  private async run<T>(bytes: number, task: () => Task | Promise<Task>): Promise<T> {
    try {
      const answer = await this.turns.take({ owner: workOwner(), bytes }, async (limit) =>
        this.within(limit, await task()),
      );
      if (isRefusal(answer)) throw new Refused(answer);
      return answer as T;
    } catch (error) {
      const heavy = tooHeavy(error);
      if (heavy) throw new Refused(heavy);
      throw error;
    }
  }
}

type ReadContent = Pick<ContentFacts, 'sha256' | 'mediaType' | 'size'>;

export interface ComparedContent {
  content: ReadContent;
  fields: Fields;
  bytes: () => Promise<Buffer>;
}

/** A file that is fetched when its turn comes. */
export interface Fetched {
  size: number;
  bytes: () => Promise<Uint8Array>;
}

type Issued = Pick<ContentFacts, 'sha256' | 'size' | 'fileName'>;

/** One entry of a .zip, from its own header on. */
export interface PackedPart {
  entry: ZipEntry;
  bytes: () => Promise<Uint8Array>;
}

/** Three files of one kind. */
export type MergedFiles = { reader: 'docx' | 'text' } & Record<'base' | 'present' | 'mine', Fetched>;

/** A .docx unfolds to some twenty times its bytes of text; no reading takes more than this, in bytes. */
const heaviest = 128 << 20;

/** About what a content takes of memory while it is read, in bytes. */
const weightOf = ({ mediaType, size }: ReadContent): number =>
  Math.max(size, Math.min(heaviest, (readerOf(mediaType) === 'docx' ? 20 : 4) * size));

const tooLargeToCheck = (size: number): Refusal =>
  refuse(
    'invalid',
    'file-too-large',
    `The file has ${size} bytes; of its type no more than ${largestChecked} are taken in, since it is checked whole.`,
    { size, maxFileBytes: largestChecked },
  );

function tooHeavy(error: unknown): Refusal | null {
  if (!isCutShort(error) && (error as { code?: string }).code !== 'ERR_WORKER_OUT_OF_MEMORY') return null;
  return refuse(
    'invalid',
    'too-complex',
    'The file takes more time or memory to read than a document may. It was left as it is.',
  );
}
