import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

/**
 * Where a thread's code is: it runs compiled, also when the rest runs from its sources.
 * @throws Error where the server was not built
 */
export function workerFile(name: string): string {
  const found = [`./${name}.js`, `../../dist/workers/${name}.js`]
    .map((path) => fileURLToPath(new URL(path, import.meta.url)))
    .find(existsSync);
  if (!found) throw new Error('The server is not built: run the build before starting it.');
  return found;
}
