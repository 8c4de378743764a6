import { LRUCache } from 'lru-cache';
import { Piscina } from 'piscina';
import {
  type Comparison,
  type Fields,
  type MergeChoices,
  type MergeRegion,
  type Reading,
  type Refusal,
  type VersionMark,
  countWords,
  isRefusal,
  readerOf,
  refuse,
  textOfReading,
} from '@polychron/core';
import { Refused } from '../refused.ts';
import { workerFile } from './workerFile.ts';
import type { Answer, Look, Merge, Task } from './readerWorker.ts';

/**
 * Longest time one file may take to be read or compared, in milliseconds; a real one takes seconds at most.
 */
const longest = 60_000;
/** Memory of one reading thread, in megabytes. */
const memory = 1500;

/**
 * Reads and compares files in threads of their own, so that a heavy file holds up nobody else. Results are
 * cached by hash.
 */
export class Readers {
  private readonly pool: Piscina;
  private readonly readings = new LRUCache<string, Reading>({ max: 200 });
  private readonly comparisons = new LRUCache<string, Comparison>({ max: 200 });
  private readonly looks = new LRUCache<string, Look>({ max: 2000 });

  constructor() {
    this.pool = new Piscina({
      filename: workerFile('readerWorker'),
      minThreads: 0,
      maxThreads: 2,
      idleTimeout: 30_000,
      resourceLimits: { maxOldGenerationSizeMb: memory },
    });
  }

  /** Reads a staged file through; refuses one that is not what its name says. */
  async inspect(path: string, mediaType: string): Promise<{ words: number | null }> {
    const reader = readerOf(mediaType);
    if (!reader) return { words: null };
    return this.run<{ words: number }>({ kind: 'inspect', path, reader });
  }

  /** Reads a content into blocks. */
  async read(sha256: string, mediaType: string, bytes: () => Promise<Buffer>): Promise<Reading> {
    const reader = readerOf(mediaType);
    if (!reader) {
      throw new Refused(
        refuse(
          'invalid',
          'no-reading',
          'Files of this type cannot be read in the page yet. Download the file to open it.',
          { mediaType },
        ),
      );
    }
    const key = `${reader} ${sha256}`;
    const known = this.readings.get(key);
    if (known) return known;
    const reading = await this.run<Reading>({ kind: 'read', bytes: await bytes(), reader });
    this.readings.set(key, reading);
    return reading;
  }

  /** Words in the text of a content; null where its type has none. */
  async countWords(bytes: Uint8Array, mediaType: string): Promise<number | null> {
    const reader = readerOf(mediaType);
    return reader && countWords(textOfReading(await this.run<Reading>({ kind: 'read', bytes, reader })));
  }

  /** Compares two readings and their fields. */
  async compare(older: ComparedContent, newer: ComparedContent): Promise<Comparison> {
    const key = JSON.stringify([older.sha256, older.fields, newer.sha256, newer.fields]);
    const known = this.comparisons.get(key);
    if (known) return known;
    const [a, b] = [
      await this.read(older.sha256, older.mediaType, older.bytes),
      await this.read(newer.sha256, newer.mediaType, newer.bytes),
    ];
    const comparison = await this.run<Comparison>({
      kind: 'compare',
      older: { reading: a, fields: older.fields },
      newer: { reading: b, fields: newer.fields },
    });
    this.comparisons.set(key, comparison);
    return comparison;
  }

  /** The file with the version it was taken from written into it. */
  mark(bytes: Uint8Array, mark: VersionMark): Promise<Uint8Array> {
    return this.run<Uint8Array>({ kind: 'mark', bytes, mark });
  }

  /** What a file says of itself. */
  async look(sha256: string, bytes: () => Promise<Uint8Array>): Promise<Look> {
    const known = this.looks.get(sha256);
    if (known) return known;
    const look = await this.run<Look>({ kind: 'look', bytes: await bytes() });
    this.looks.set(sha256, look);
    return look;
  }

  /** Lays two changed files over the one they come from. */
  async merge(files: MergedFiles): Promise<MergeRegion[]> {
    const answer = await this.run<Merge>({ kind: 'merge', ...files, choices: null });
    return 'regions' in answer ? answer.regions : [];
  }

  /** The merged file with what was chosen for its conflicts; null where one has no choice. */
  async resolve(files: MergedFiles, choices: MergeChoices): Promise<Uint8Array | null> {
    const answer = await this.run<Merge>({ kind: 'merge', ...files, choices });
    return 'bytes' in answer ? answer.bytes : null;
  }

  async close(): Promise<void> {
    await this.pool.destroy();
  }

  private async run<T>(task: Task): Promise<T> {
    try {
      const answer = (await this.pool.run(task, { signal: AbortSignal.timeout(longest) })) as Answer;
      if (isRefusal(answer)) throw new Refused(answer);
      return answer as T;
    } catch (error) {
      const heavy = tooHeavy(error);
      if (heavy) throw new Refused(heavy);
      throw error;
    }
  }
}

export interface ComparedContent {
  sha256: string;
  mediaType: string;
  fields: Fields;
  bytes: () => Promise<Buffer>;
}

/** Three files of one kind. */
export type MergedFiles = { reader: 'docx' | 'text' } & Record<'base' | 'present' | 'mine', Uint8Array>;

function tooHeavy(error: unknown): Refusal | null {
  const { name, code } = error as { name?: string; code?: string };
  if (name !== 'AbortError' && name !== 'TimeoutError' && code !== 'ERR_WORKER_OUT_OF_MEMORY') return null;
  return refuse(
    'invalid',
    'too-complex',
    'The file takes more time or memory to read than a document may. It was left as it is.',
  );
}
