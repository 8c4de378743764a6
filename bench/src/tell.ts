/** The value in the middle of an ordered row of measurements. */
export const median = (values: readonly number[]): number =>
  [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? NaN;

/** Prints a benchmark's closing line; one over its limit makes the process end with 1. */
export function tell(name: string, ratio: number, limit: number): void {
  console.log(`${name} ratio ${ratio.toFixed(2)} at most ${limit}`);
  if (!(ratio <= limit)) process.exitCode = 1;
}
