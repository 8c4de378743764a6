/**
 * Lets many stories be lived in the order of time: each waits until its next moment is the earliest of all,
 * so that what is numbered as it happens (notices, entries of the Ledger) stands by date.
 */
export class Turns {
  private readonly waiting: { at: Date; goOn: () => void }[] = [];
  private living = 0;

  /** Lives a story among the others; all that live together are begun before the first of them waits. */
  async live(story: () => Promise<void>): Promise<void> {
    this.living += 1;
    // Not before every other is counted too.
    await Promise.resolve();
    try {
      await story();
    } finally {
      this.living -= 1;
      this.next();
    }
  }

  /** Waits until no other story has anything before that moment. */
  async until(at: Date): Promise<void> {
    await new Promise<void>((goOn) => {
      this.waiting.push({ at, goOn });
      this.next();
    });
  }

  private next(): void {
    // While one goes on, what it does next is not known.
    if (this.waiting.length === 0 || this.waiting.length < this.living) return;
    const earliest = this.waiting.reduce((first, each) => (each.at < first.at ? each : first));
    this.waiting.splice(this.waiting.indexOf(earliest), 1);
    earliest.goOn();
  }
}
