import { mkdirSync, mkdtempSync, readdirSync, rmSync, statSync, utimesSync } from 'node:fs';
import { join } from 'node:path';

const stagingName = 'polychron-staging-';
/** Of this release and of earlier ones. */
const isStaging = (name: string): boolean => name.startsWith(stagingName) || /^polychron-\d+-/.test(name);

/** How often a server says that it still uses its folder, in milliseconds. */
const signEvery = 10 * 60_000;
/** A folder about which nothing was said for so long is nobody's, in milliseconds. */
const silentFor = 2 * 3_600_000;

/** A server's own folder for what comes in, in one that several servers may share. */
export interface StagingFolder {
  path: string;
  remove(): void;
}

/**
 * Makes a server's folder, and removes those of servers that were killed: the ones of which nobody has said
 * for two hours that they are used. By age, since a number of a process says nothing on another machine.
 */
export function makeStagingFolder(shared: string, now = Date.now()): StagingFolder {
  mkdirSync(shared, { recursive: true });
  removeLeftovers(shared, now);
  const path = mkdtempSync(join(shared, stagingName));
  const timer = setInterval(() => {
    // A machine that slept may find its own removed by another that woke before.
    mkdirSync(path, { recursive: true });
    utimesSync(path, new Date(), new Date());
    removeLeftovers(shared, Date.now());
  }, signEvery).unref();
  const remove = (): void => {
    clearInterval(timer);
    rmSync(path, { recursive: true, force: true });
  };
  return { path, remove };
}

function removeLeftovers(shared: string, now: number): void {
  for (const name of readdirSync(shared)) {
    if (!isStaging(name)) continue;
    const path = join(shared, name);
    // Another server may have removed it meanwhile.
    const used = statSync(path, { throwIfNoEntry: false })?.mtimeMs;
    if (used !== undefined && now - used > silentFor) rmSync(path, { recursive: true, force: true });
  }
}
