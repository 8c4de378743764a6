import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { isRefusal } from '../document/refusal.ts';
import type { Version } from '../document/version.ts';
import { author2 } from '../testing/lives.ts';
import { actor, approver, author, controller, reader } from '../testing/people.ts';
import { attempts, situations } from '../testing/situations.ts';
import { audienceOf } from './audience.ts';
import type { History } from './history.ts';
import { reduce } from './reduce.ts';
import { type Decision, labelIn, type Outcome } from './state.ts';

/**
 * What core answers to every act in every situation, word for word: each refusal with its facts, each
 * decision with its changes, what the Ledger says of it and whom it tells; one answer a line, with where and
 * to whom it is given. POLYCHRON_OUTCOMES=write writes them anew, to be read as a difference.
 */
const file = join(import.meta.dirname ?? 'core/src/acts', 'outcomes.txt');
const people = {
  reader,
  author,
  author2,
  approver,
  controller,
  'author, an approver too': actor('author', 'author', 'approver'),
  'approver, a reader now': actor('approver', 'reader'),
  'author, no member now': actor('author'),
};

/** How a document stands after a decision, and who hears of it. */
function after(history: History, decision: Decision): string {
  let ids = 0;
  const newId = (): string => `new${(ids += 1)}`;
  const before = history.state;
  const reduced = reduce(before, decision.changes, { newId, versions: history.versions });
  const { state, versions } = reduced;
  const named = (version: Version | null): string => (version ? labelIn(state, version) : 'nothing');
  const { sees, personIds, everyone } = audienceOf(before, decision, reduced);
  const asked = state.approval?.posts.map(({ personId, decision: said }) => `${personId} ${said ?? '?'}`);
  return [
    `latest ${named(state.latest)} ${state.latest.state}`,
    `in force ${named(state.inForce)}`,
    `scheduled ${state.scheduled.map(named).join()}`,
    `highest ${state.highest.major}.${state.highest.minor}`,
    `held ${JSON.stringify(state.custody && { ...state.custody, base: named(state.custody.base) })}`,
    `asked ${asked?.join()}`,
    `of ${state.ownerId} ${state.coAuthorIds.join()} ${state.templateFor} ${state.setAsideBaseIds.join()}`,
    `to ${JSON.stringify([state.limit, state.distribution, state.administrative])}`,
    ...(state.voided ? [`void ${JSON.stringify(state.voided)}`] : []),
    `changed ${versions.map(({ after: one }) => `${named(one)} ${one.state} ${one.standing}`).join()}`,
    `bytes ${state.bytesKept}`,
    `heard by ${everyone ? 'everyone' : ''} ${personIds.join()}`,
    `who see ${sees.map((facts) => facts.map(({ label, state: as }) => `${label} ${as}`).join('+')).join()}`,
  ].join('; ');
}

function inWords(history: History, outcome: Outcome): string {
  if (!isRefusal(outcome)) return `${JSON.stringify(outcome)} → ${after(history, outcome)}`;
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
    for (const [who, by] of Object.entries(people)) {
      const answer = inWords(history, attempts[name]?.(history, by) as Outcome);
      here.set(answer, [...(here.get(answer) ?? []), who]);
    }
    const all = Object.keys(people).length;
    for (const [answer, ids] of here)
      alike.set(answer, [
        ...(alike.get(answer) ?? []),
        `${situation}: ${ids.length === all ? 'everyone' : ids.join(' + ')}`,
      ]);
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
