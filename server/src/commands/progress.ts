import type { Hear, Progress } from '../store/migrationRun.ts';

/** How often something is told on the terminal after the first, in milliseconds. */
const often = 2_000;

/** What is being done, in a line. */
export function sayProgress({ migration, step, steps, within }: Progress): string {
  if (migration === null) return 'Another program brings the database up to date; waiting for it ...';
  const far = within ? `, ${within.done} of ${within.of}` : '';
  return `Bringing the database up to date: ${migration}, step ${step} of ${steps}${far}`;
}

/** Tells on the terminal that migrations run, and from time to time how far they have come. */
export function tellOnTerminal(say: (line: string) => void = console.log): Hear {
  let last = 0;
  return (progress) => {
    if (progress.state === 'done') return;
    const now = Date.now();
    if (now - last < often) return;
    last = now;
    say(sayProgress(progress));
  };
}
