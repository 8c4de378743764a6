/** The latest act there was: no later one is dated before it, whatever the machine's clock says. */
export class LatestAct {
  private at = 0;

  /** Notes when an act was. */
  raise(at: Date): void {
    this.at = Math.max(this.at, at.getTime());
  }

  /** The present moment, or that of the latest act where the clock has gone back behind it. */
  floor(now: Date): Date {
    return now.getTime() < this.at ? new Date(this.at) : now;
  }
}
