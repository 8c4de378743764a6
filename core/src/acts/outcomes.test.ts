import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { isRefusal } from '../document/refusal.ts';
import { author2 } from '../testing/lives.ts';
import { approver, author, controller, reader } from '../testing/people.ts';
import { attempts, situations } from '../testing/situations.ts';
import type { Outcome } from './state.ts';

/**
 * What core answers to every act in every situation, word for word: each refusal with its facts, each
 * decision with its changes, what the Ledger says of it and whom it tells; one answer a line, with where and
 * to whom it is given. POLYCHRON_OUTCOMES=write writes them anew, to be read as a difference.
 */
const file = join(import.meta.dirname ?? 'core/src/acts', 'outcomes.txt');
const people = [reader, author, author2, approver, controller];

function inWords(outcome: Outcome): string {
  if (!isRefusal(outcome)) return JSON.stringify(outcome);
  const { kind, code, reason, facts = {} } = outcome;
  const of = Object.keys(facts).length === 0 ? '' : ` ${JSON.stringify(facts)}`;
  return `${kind} ${code}: ${reason}${of}`;
}

/** The answers to one act: each once, with the situations and people it is given in and to. */
function answersTo(name: string): string[] {
  const alike = new Map<string, string[]>();
  for (const [situation, make] of Object.entries(situations)) {
    const history = make();
    const here = new Map<string, string[]>();
    for (const by of people) {
      const answer = inWords(attempts[name]?.(history, by) as Outcome);
      here.set(answer, [...(here.get(answer) ?? []), by.id]);
    }
    for (const [answer, ids] of here)
      alike.set(answer, [...(alike.get(answer) ?? []), `${situation}: ${ids.join(', ')}`]);
  }
  return [...alike].map(([answer, where]) => `${name} | ${answer} | ${where.join('; ')}`);
}

if (process.env['POLYCHRON_OUTCOMES'] === 'write')
  writeFileSync(file, `${Object.keys(attempts).flatMap(answersTo).join('\n')}\n`);
const known = readFileSync(file, 'utf8').trimEnd().split('\n');

test('every act is known', () => {
  const names = new Set(known.map((line) => line.split(' | ')[0]));
  expect([...names]).toEqual(Object.keys(attempts));
});
test.each(Object.keys(attempts))('%s is answered as it was', (name) =>
  expect(answersTo(name)).toEqual(known.filter((line) => line.startsWith(`${name} | `))),
);
