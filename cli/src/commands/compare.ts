import { type Comparison, routes } from '@polychron/contract';
import type { Client } from '../client.ts';
import { documentCalled } from '../find.ts';
import { say } from '../say.ts';

/** Tells what changed between two versions: where, what was there and what is there now, and how many. */
export async function compare(client: Client, name: string, from: string, to: string): Promise<void> {
  const { id, number } = await documentCalled(client, name);
  const comparison = await client.call(routes.compareVersions, { params: { id }, query: { from, to } });
  say(`${number} ${comparison.from} -> ${comparison.to}: ${countsOf(comparison)}`);
  for (const { kind, what, place, before, after, how } of comparison.changes) {
    say(`\n${[kind, what].join(' ')}${place && ` in ${place}`}${how && ` (${how})`}`);
    if (before) say(prefixed('-', before));
    if (after && kind !== 'restyled') say(prefixed('+', after));
  }
}

const prefixed = (sign: string, text: string): string =>
  text
    .split('\n')
    .map((line) => `${sign} ${line}`)
    .join('\n');

function countsOf({ changes, counts }: Comparison): string {
  if (changes.length === 0) return 'nothing changed';
  const { wordsDeleted, wordsInserted, ...kinds } = counts;
  const told = Object.entries(kinds).flatMap(([kind, count]) => (count > 0 ? [`${count} ${kind}`] : []));
  return `${told.join(', ')}; ${wordsDeleted} words gone, ${wordsInserted} new`;
}
