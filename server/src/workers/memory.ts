import { refuse } from '@polychron/core';
import { Refused } from '../refused.ts';
import { workAccount, workOwner } from './account.ts';

/** What there is of memory, in bytes, and how long is waited for it, in milliseconds. */
interface Bounds {
  ofOne: number;
  ofAll: number;
  patience: number;
}
const usual: Bounds = { ofOne: 256 << 20, ofAll: 1 << 30, patience: 60_000 };

interface Waiting {
  owner: string;
  bytes: number;
  start: () => void;
}

/**
 * Memory that whole files, and answers made of them, may take at once: of one person, and of all. What needs
 * more than that goes by itself. An answer has its memory until it has left, so that whoever reads slowly
 * waits for themselves.
 */
export class Memory {
  private readonly waiting: Waiting[] = [];
  private readonly heldBy = new Map<string, number>();
  private held = 0;

  constructor(private readonly bounds = usual) {}

  /**
   * Does something once there are about so many bytes for it. The first such work of a request has them until
   * its answer has left; what else it does goes with that.
   * @throws Refused `too-much-at-once` where there is no room for it within a minute
   */
  async within<T>(bytes: number, work: () => Promise<T>): Promise<T> {
    const account = workAccount();
    if (account?.holds) return work();
    const release = await this.hold(workOwner(), bytes);
    if (account?.ended) {
      account.holds = true;
      account.ended(release);
      return work();
    }
    try {
      return await work();
    } finally {
      release();
    }
  }

  private async hold(owner: string, bytes: number): Promise<() => void> {
    const one: Waiting = { owner, bytes, start: () => undefined };
    await new Promise<void>((resolve, reject) => {
      const late = setTimeout(() => {
        this.waiting.splice(this.waiting.indexOf(one), 1);
        reject(tooMuch());
        this.next();
      }, this.bounds.patience);
      one.start = () => {
        clearTimeout(late);
        resolve();
      };
      this.waiting.push(one);
      this.next();
    });
    return () => {
      this.take(owner, -bytes);
      this.next();
    };
  }

  private take(owner: string, bytes: number): void {
    const now = (this.heldBy.get(owner) ?? 0) + bytes;
    if (now === 0) this.heldBy.delete(owner);
    else this.heldBy.set(owner, now);
    this.held += bytes;
  }

  /** Starts who may, in their order; nobody goes before one who waits for others to end. */
  private next(): void {
    for (const one of [...this.waiting]) {
      const own = this.heldBy.get(one.owner) ?? 0;
      if (own > 0 && own + one.bytes > this.bounds.ofOne) continue;
      if (this.held > 0 && this.held + one.bytes > this.bounds.ofAll) return;
      this.waiting.splice(this.waiting.indexOf(one), 1);
      this.take(one.owner, one.bytes);
      one.start();
    }
  }
}

const tooMuch = (): Refused =>
  new Refused(
    refuse(
      'conflict',
      'too-much-at-once',
      'You ask for more large files at once than are read for one person. Nothing was changed. Wait until some have come, and try again.',
    ),
  );
