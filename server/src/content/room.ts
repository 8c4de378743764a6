import { statfs } from 'node:fs/promises';
import { refuse } from '@polychron/core';
import { Refused } from '../refused.ts';

/**
 * Bytes of the disk that new content never takes: the database needs room for its own logs to go on
 * reading, and to keep what people do besides.
 */
export const reserve = 512 << 20;
/**
 * Below this nothing is changed at all: a database that cannot let a table grow may abort itself, and then
 * nobody reads either. Signing in, which adds a few hundred bytes, is let in for longer.
 */
export const lastReserve = 64 << 20;
const signInReserve = 8 << 20;
/** How long a look at the disk is good for, in milliseconds. */
const fresh = 500;
const megabyte = 1_000_000;

/** Bytes free for us in a folder's file system. */
async function freeIn(folder: string): Promise<number> {
  const { bavail, bsize } = await statfs(folder);
  return bavail * bsize;
}

/** Whether there is room for new content on the disks it goes to. */
export class Room {
  private looked: { at: number; free: Promise<number> } | null = null;

  /** @param folders where uploads are staged, and where the database lies if that is here */
  constructor(
    private readonly folders: readonly string[],
    private readonly freeBytes: (folder: string) => Promise<number> = freeIn,
  ) {}

  /** @throws Refused `disk-full` where less than the reserve is free */
  async require(): Promise<void> {
    const free = await this.free();
    if (free < reserve) throw diskFull(free);
  }

  /** @throws Refused `disk-full` where so little is free that nothing is changed any more */
  async requireForChange(isSignIn: boolean): Promise<void> {
    const free = await this.free();
    if (free < (isSignIn ? signInReserve : lastReserve)) throw diskFull(free);
  }

  /** Whether there is room for what is done without being asked for. */
  async isEnough(): Promise<boolean> {
    return (await this.free()) >= lastReserve;
  }

  private free(): Promise<number> {
    const now = performance.now();
    if (!this.looked || now - this.looked.at > fresh) {
      const least = Promise.all(this.folders.map(this.freeBytes)).then((all) => Math.min(...all));
      this.looked = { at: now, free: least };
    }
    return this.looked.free;
  }
}

/** Says that no new content is taken in, and that everything else goes on. */
export function diskFull(free: number | null): Refused {
  const left = free === null ? '' : ` (${Math.floor(free / megabyte)} MB are left)`;
  const reason = `The server's disk is almost full${left}: no new file is taken in until there is room. Everything that is stored can be read, and nothing was changed. Tell your administrator.`;
  return new Refused(refuse('conflict', 'disk-full', reason, { free }));
}

/** Whether the operating system said that a disk is full (POSIX ENOSPC, or a quota: EDQUOT). */
export const saysDiskFull = (error: unknown): boolean =>
  ['ENOSPC', 'EDQUOT'].includes((error as { code?: string } | null)?.code ?? '');
