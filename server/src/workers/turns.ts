/** Up to so many bytes a task is taken for a short one. */
const shortBytes = 1 << 20;
/**
 * How long a short one may take, in milliseconds; one that takes longer is done again among the long ones.
 */
const shortLimit = 1500;
/** How long a long one may take from its start, in milliseconds; a real file takes seconds at most. */
const longLimit = 60_000;

interface Turn {
  owner: string;
  isShort: boolean;
  start: () => void;
}

/**
 * Whose task comes next. Of each person at most one long task is at work, one place is never taken by a long
 * one, and nobody's tasks take all places: so a short task does not wait for what one other person sends,
 * however much. Who has fewest at work comes first, then what is short, then who has waited longest.
 */
export class Turns {
  private readonly waiting: Turn[] = [];
  private readonly working: Turn[] = [];

  constructor(private readonly places: number) {}

  /**
   * Runs a task when its turn comes.
   * @param run is given how long it may take, in milliseconds, from then on; it is called twice where a task
   * taken for short was not
   */
  async take<T>(task: { owner: string; bytes: number }, run: (limit: number) => Promise<T>): Promise<T> {
    if (task.bytes <= shortBytes) {
      try {
        return await this.inTurn({ owner: task.owner, isShort: true }, () => run(shortLimit));
      } catch (error) {
        if (!isCutShort(error)) throw error;
      }
    }
    return this.inTurn({ owner: task.owner, isShort: false }, () => run(longLimit));
  }

  /** Where somebody's tasks stand: at work, waiting, and how many come before the first that waits. */
  placeOf(by: string): { working: number; waiting: number; ahead: number | null } {
    const waiting = this.waiting.filter((turn) => turn.owner === by);
    const inOrder = [...this.waiting].sort((a, b) => this.rank(a) - this.rank(b));
    const first = inOrder.findIndex((turn) => turn.owner === by);
    return {
      working: this.workingFor(by),
      waiting: waiting.length,
      ahead: first < 0 ? null : first + this.working.length,
    };
  }

  private async inTurn<T>(of: Pick<Turn, 'owner' | 'isShort'>, work: () => Promise<T>): Promise<T> {
    const turn: Turn = { ...of, start: () => undefined };
    await new Promise<void>((resolve) => {
      turn.start = resolve;
      this.waiting.push(turn);
      this.next();
    });
    try {
      return await work();
    } finally {
      this.working.splice(this.working.indexOf(turn), 1);
      this.next();
    }
  }

  private next(): void {
    const [first] = this.waiting
      .filter((turn) => this.mayStart(turn))
      .sort((a, b) => this.rank(a) - this.rank(b));
    if (!first) return;
    this.waiting.splice(this.waiting.indexOf(first), 1);
    this.working.push(first);
    first.start();
    this.next();
  }

  private mayStart({ owner: by, isShort }: Turn): boolean {
    if (this.working.length >= this.places || this.workingFor(by) >= this.places - 1) return false;
    if (isShort) return true;
    const long = this.working.filter((turn) => !turn.isShort);
    return long.length < this.places - 1 && !long.some((turn) => turn.owner === by);
  }

  private rank({ owner: by, isShort }: Turn): number {
    return 2 * this.workingFor(by) + (isShort ? 0 : 1);
  }

  private workingFor(by: string): number {
    return this.working.filter((turn) => turn.owner === by).length;
  }
}

/** Whether a task was ended because it took longer than it may. */
export const isCutShort = (error: unknown): boolean =>
  ['AbortError', 'TimeoutError'].includes((error as { name?: string } | null)?.name ?? '');
