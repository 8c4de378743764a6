import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { NewLibrary, reservedCodes } from '@polychron/contract';

const read = (path: string): string => readFileSync(join(import.meta.dirname, '../../..', path), 'utf8');

/** First parts of addresses, as the page and the server route them, in capitals without signs. */
function routed(): string[] {
  const ofPage = read('web/src/app/App.tsx').matchAll(/path: '\/([^:/'*]+)/g);
  const ofServer = read('server/src/http/app.ts').matchAll(/app\.(?:use|get|post|all)\(\s*'\/([^/']+)/g);
  return [...ofPage, ...ofServer].map(([, part = '']) => part.toUpperCase().replace(/[^A-Z0-9]/g, ''));
}

test('no library has a code that begins an address of the application', () => {
  expect(routed().length).toBeGreaterThan(12);
  expect(routed().filter((part) => !reservedCodes.includes(part))).toEqual([]);
  for (const code of reservedCodes)
    expect(NewLibrary.safeParse({ name: 'A library', code }).success).toBe(false);
  expect(NewLibrary.safeParse({ name: 'A library', code: 'DESKS' }).success).toBe(true);
});
