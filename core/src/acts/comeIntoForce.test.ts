import type { Version } from '../document/version.ts';
import { change } from '../testing/acts.ts';
import { author, begin } from '../testing/people.ts';
import { comeIntoForce } from './comeIntoForce.ts';
import { publish } from './publish.ts';

const day = 86_400_000;
const start = Date.UTC(2026, 5, 1);

/** Versions 2.0, 3.0 … that wait above 1.0, each for a day after the first of June. */
function waiting(...days: number[]) {
  const history = begin({}, 'first', 'major');
  for (const [index, at] of days.entries()) {
    change(history, `draft ${index}`);
    const command = { version: history.state.latest, comment: '', inForceFrom: new Date(start + at * day) };
    history.do(publish(history.state, author, command, history.now));
  }
  return history.state;
}
/** What happens by a day, in words. */
function by(state: ReturnType<typeof waiting>, at: number): string[] | null {
  const labels = new Map<string, string>(
    [...state.scheduled, ...(state.inForce ? [state.inForce] : [])].map((one: Version) => [
      one.id,
      `${one.major}.${one.minor}`,
    ]),
  );
  const decision = comeIntoForce(state, new Date(start + at * day));
  return (
    decision && [
      ...decision.changes.map((one) => {
        if (one.kind !== 'supersede' && one.kind !== 'comeIntoForce') throw new Error(one.kind);
        return `${one.kind} ${labels.get(one.versionId)} ${(one.at.getTime() - start) / day}`;
      }),
      JSON.stringify(decision.ledger),
    ]
  );
}
const told = (...versions: string[]): string => JSON.stringify({ act: 'comeIntoForce', facts: { versions } });

test('nothing happens before its moment, and all at it, from then on', () => {
  const state = waiting(3);
  expect(by(state, 2.9)).toBeNull();
  expect(by(state, 3)).toEqual(['supersede 1.0 3', 'comeIntoForce 2.0 3', told('2.0')]);
  expect(by(state, 9)).toEqual(by(state, 3));
  expect(comeIntoForce({ ...state, scheduled: [] }, new Date(start + 9 * day))).toBeNull();
});

test('several that are due come in the order of their moments, each in the place of the one before', () => {
  const state = waiting(3, 5);
  expect(by(state, 4)).toEqual(['supersede 1.0 3', 'comeIntoForce 2.0 3', told('2.0')]);
  const both = ['supersede 1.0 3', 'comeIntoForce 2.0 3', 'supersede 2.0 5', 'comeIntoForce 3.0 5'];
  expect(by(state, 6)).toEqual([...both, told('2.0', '3.0')]);
  expect(by({ ...state, scheduled: state.scheduled.toReversed() }, 6)).toEqual(by(state, 6));
});

test('one that a later version overtakes never comes; of one moment the newest stays', () => {
  const overtaken = waiting(5, 3);
  const come = ['supersede 1.0 3', 'supersede 2.0 3', 'comeIntoForce 3.0 3', told('3.0')];
  expect(by(overtaken, 3)).toEqual(come);
  expect(by(overtaken, 9)).toEqual(come);
  const together = waiting(3, 3);
  expect(by(together, 3)).toEqual([
    ...['supersede 1.0 3', 'comeIntoForce 2.0 3', 'supersede 2.0 3', 'comeIntoForce 3.0 3'],
    told('2.0', '3.0'),
  ]);
});
