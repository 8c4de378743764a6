import { createHash } from 'node:crypto';
import { canonicalEntry, chainText, type LedgerEntry } from './chain.ts';

const entry = (facts: Record<string, unknown>): LedgerEntry => ({
  documentId: 'd',
  libraryId: 'l',
  sequence: 1,
  at: new Date('2026-01-05T08:00:00Z'),
  personId: 'p',
  act: 'checkIn',
  facts,
});
const hash = (text: string): string => createHash('sha256').update(text).digest('hex');

test('the order in which facts are written does not matter, their values do', () => {
  expect(canonicalEntry(entry({ a: 1, b: ['x', null] }))).toBe(
    canonicalEntry(entry({ b: ['x', null], a: 1 })),
  );
  expect(canonicalEntry(entry({ a: 1 }))).not.toBe(canonicalEntry(entry({ a: 2 })));
});

test('a changed entry changes every chain value after it', () => {
  const values = (first: LedgerEntry): string[] => {
    const one = hash(chainText('', first));
    return [one, hash(chainText(one, entry({ next: true })))];
  };
  const [sound, forged] = [values(entry({ label: '1.0' })), values(entry({ label: '1.1' }))];
  expect(sound[0]).not.toBe(forged[0]);
  expect(sound[1]).not.toBe(forged[1]);
});
