import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { NewLibrary, reservedCodes } from '@polychron/contract';

const read = (path: string): string => readFileSync(join(import.meta.dirname, '../../..', path), 'utf8');

/** First parts of addresses, as the page and the server route them, that could be codes of libraries. */
function routed(): string[] {
  const ofPage = read('web/src/app/App.tsx').matchAll(/path: '\/([^:/'*]+)/g);
  const ofServer = read('server/src/http/app.ts').matchAll(/app\.(?:use|get|post|all)\(\s*'\/([^/']+)/g);
  const parts = [...ofPage, ...ofServer].map(([, part = '']) => part.toUpperCase());
  return parts.filter((part) => /^[A-Z][A-Z0-9]{0,9}$/.test(part));
}

test('no library has a code that begins an address of the application', () => {
  expect(new Set(routed())).toEqual(new Set(reservedCodes));
  for (const code of reservedCodes)
    expect(NewLibrary.safeParse({ name: 'A library', code }).success).toBe(false);
  expect(NewLibrary.safeParse({ name: 'A library', code: 'DESKS' }).success).toBe(true);
});
