import { change, code, into } from '../testing/acts.ts';
import { publishedAfter, publishedBefore } from '../testing/lives.ts';
import { approver, author, begin, content, controller, reader } from '../testing/people.ts';
import type { Actor } from '../rules/roles.ts';
import { checkIn } from './checkIn.ts';
import { baseToCheckOut, checkOut } from './checkOut.ts';
import type { History } from './history.ts';
import { neverInForce } from './publication.ts';
import { publish } from './publish.ts';
import { reinstate } from './reinstate.ts';
import { reschedule, takeBack } from './schedule.ts';
import { explainVersion } from './refusals.ts';
import { submit } from './submit.ts';
import type { Outcome } from './state.ts';
import { thin } from './thin.ts';
import { withdraw } from './withdraw.ts';

const reason = 'The wind limits are wrong';
function withdrawn(history: History, label: string, who: Actor = controller, why = reason): Outcome {
  const version = history.version(label);
  const previous = publishedBefore(history.versions, version);
  return withdraw(history.state, who, { version, reason: why, previous }, history.now);
}
function reinstated(history: History, label: string, who: Actor = controller, why = reason): Outcome {
  const version = history.version(label);
  const later = publishedAfter(history.versions, version);
  return reinstate(history.state, who, { version, reason: why, later }, history.now);
}
/** Whole numbers 1, 2, 3, the last in force. */
const three = (): History => {
  const history = begin({ numbering: 'whole' }, 'first', 'major');
  change(history, 'second', 'major');
  change(history, 'third', 'major');
  return history;
};
const states = (history: History): string[] =>
  history.versions.map((version) => `${history.label(version)} ${version.standing ?? version.state}`);
/** A draft above what is in force, scheduled for tomorrow. */
function scheduled(): History {
  const history = begin({}, 'first', 'major');
  change(history, 'second', 'minor');
  const inForceFrom = new Date(history.now.getTime() + 86_400_000);
  const { latest } = history.state;
  return history.do(
    publish(history.state, author, { version: latest, comment: '', inForceFrom }, history.now),
  );
}

describe('withdrawing', () => {
  test('brings the published version before it back in force, and keeps why', () => {
    const history = three();
    history.do(withdrawn(history, '3'));
    expect(states(history)).toEqual(['1 superseded', '2 inForce', '3 withdrawn']);
    expect(history.version('3').withdrawn?.why).toBe(`Withdrawn by CONTROLLER: “${reason}”.`);
    expect(history.version('2')).toMatchObject({ supersededAt: null, content: content('second') });
    const sight = (label: string, who: Actor): boolean =>
      explainVersion(history.state, who, history.version(label)).sees;
    expect([sight('2', reader), sight('3', reader), sight('3', author)]).toEqual([true, false, true]);
    history.do(withdrawn(history, '2'));
    expect(states(history)).toEqual(['1 inForce', '2 withdrawn', '3 withdrawn']);
    history.do(withdrawn(history, '1'));
    expect(history.inForce).toBeNull();
    // The next number is above the highest used.
    change(history, 'fourth', 'major');
    expect(history.inForce).toBe('4');
  });

  test('what was superseded is withdrawn and nothing else changes', () => {
    const history = three();
    history.do(withdrawn(history, '1'));
    expect(states(history)).toEqual(['1 withdrawn', '2 superseded', '3 inForce']);
    history.do(withdrawn(history, '3'));
    expect(states(history)).toEqual(['1 withdrawn', '2 inForce', '3 withdrawn']);
  });

  test('nothing comes back whose content was thinned', () => {
    const history = three();
    const { state, now } = history;
    history.do(thin(state, controller, { version: history.version('2'), reason }, now));
    history.do(withdrawn(history, '3'));
    expect(states(history)).toEqual(['1 superseded', '2 superseded', '3 withdrawn']);
    expect(history.inForce).toBeNull();
  });

  test('goes while somebody holds the document', () => {
    const history = three();
    history.do(checkOut(history.state, author, { reason: null, until: null }, history.now));
    history.do(withdrawn(history, '3'));
    expect(history.inForce).toBe('2');
  });

  test.each([
    ['by who is no controller', () => withdrawn(three(), '3', author), 'role-missing'],
    ['without a reason', () => withdrawn(three(), '3', controller, ' '), 'reason-missing'],
    ['of a draft', () => withdrawn(begin(), '0.1'), 'not-published'],
    ['before it is in force', () => withdrawn(scheduled(), '2.0'), 'scheduled-already'],
  ])('refused %s', (_, doing, expected) => {
    expect(code(doing())).toBe(expected);
  });

  test('refused twice', () => {
    const history = three();
    history.do(withdrawn(history, '3'));
    expect(code(withdrawn(history, '3'))).toBe('withdrawn-already');
  });
});

describe('reinstating', () => {
  test('11: whole 1, 2, 3: reinstate 2: 2 in force, 3 withdrawn; next check-in 4', () => {
    const history = three();
    history.do(reinstated(history, '2'));
    expect(states(history)).toEqual(['1 superseded', '2 inForce', '3 withdrawn']);
    expect(history.version('3').withdrawn?.why).toBe(`Withdrawn by CONTROLLER for 2: “${reason}”.`);
    change(history, 'fourth', 'major');
    expect(states(history)).toEqual(['1 superseded', '2 superseded', '3 withdrawn', '4 inForce']);
  });

  test('a withdrawn one is published again, and what is in force below it is superseded', () => {
    const history = three();
    history.do(reinstated(history, '1')).do(reinstated(history, '3'));
    expect(states(history)).toEqual(['1 superseded', '2 withdrawn', '3 inForce']);
    expect(history.version('3').withdrawn).toBeNull();
  });

  test('a scheduled one after it is withdrawn too', () => {
    const history = scheduled();
    change(history, 'third', 'major');
    expect(states(history)).toEqual(['1.0 superseded', '1.1 draft', '2.0 superseded', '3.0 inForce']);
    history.do(reinstated(history, '1.0'));
    expect(states(history)).toEqual(['1.0 inForce', '1.1 draft', '2.0 withdrawn', '3.0 withdrawn']);
  });

  test('refused: by others, of a draft, of what is in force or scheduled, of thinned content, while held or in approval', () => {
    const history = three();
    expect(code(reinstated(history, '2', author))).toBe('role-missing');
    expect(code(reinstated(history, '2', controller, ''))).toBe('reason-missing');
    expect(code(reinstated(history, '3'))).toBe('in-force-already');
    const { state, now } = history;
    history.do(thin(state, controller, { version: history.version('1'), reason }, now));
    expect(code(reinstated(history, '1'))).toBe('content-thinned');
    history.do(checkOut(history.state, author, { reason: null, until: null }, history.now));
    expect(code(reinstated(history, '2'))).toBe('held');
    const waiting = scheduled();
    expect(code(reinstated(waiting, '1.1'))).toBe('not-published');
    expect(code(reinstated(waiting, '2.0'))).toBe('scheduled-already');
    const asked = begin({ approval: { on: true, approvers: [approver.id] } }, 'first');
    const { latest } = asked.state;
    asked.do(submit(asked.state, author, { version: latest, comment: '', inForceFrom: null }, asked.now));
    expect(code(reinstated(asked, '0.1'))).toBe('not-published');
  });
});

describe('a moment to come', () => {
  test('is changed, or made now; what is in force stays so until then', () => {
    const history = scheduled();
    const version = history.version('2.0');
    const inForceFrom = new Date(history.now.getTime() + 3 * 86_400_000);
    history.do(reschedule(history.state, author, { version, inForceFrom }, history.now));
    expect(history.version('2.0')).toMatchObject({ standing: 'scheduled', inForceFrom });
    const past = new Date(history.now.getTime() - 1000);
    const again = history.version('2.0');
    expect(code(reschedule(history.state, author, { version: again, inForceFrom: past }, history.now))).toBe(
      'moment-past',
    );
    expect(code(reschedule(history.state, reader, { version: again, inForceFrom }, history.now))).toBe(
      'role-missing',
    );
    history.do(reschedule(history.state, author, { version: again, inForceFrom: null }, history.now));
    expect(states(history)).toEqual(['1.0 superseded', '1.1 draft', '2.0 inForce']);
    const inForce = history.version('2.0');
    expect(code(reschedule(history.state, author, { version: inForce, inForceFrom }, history.now))).toBe(
      'not-scheduled',
    );
  });

  test('is taken back: withdrawn before it ever was in force', () => {
    const history = scheduled();
    const version = history.version('2.0');
    history.do(takeBack(history.state, author, { version, reason: 'The roster moved' }, history.now));
    expect(states(history)).toEqual(['1.0 inForce', '1.1 draft', '2.0 withdrawn']);
    expect(history.version('2.0').withdrawn?.why).toBe(
      'Taken back by AUTHOR before it came into force: “The roster moved”.',
    );
    expect(history.state.scheduled).toEqual([]);
  });

  test.each([null, 12, 24, 36])(
    'what is said never to come into force does not, where a newer one does %s hours from now',
    (hours) => {
      const history = scheduled();
      change(history, 'third', 'minor');
      const { state, now } = history;
      const inForceFrom = hours === null ? null : new Date(now.getTime() + hours * 3_600_000);
      const said = neverInForce(state.scheduled, inForceFrom).map((version) => history.label(version));
      history.do(publish(state, author, { version: state.latest, comment: '', inForceFrom }, now));
      let everInForce = false;
      for (let hour = 0; hour < 60; hour += 1) {
        history.pass(3_600_000);
        everInForce ||= history.inForce === '2.0';
      }
      expect(said).toEqual(everInForce ? [] : ['2.0']);
      expect(states(history).at(-1)).toBe('3.0 inForce');
    },
  );
});

describe('checking out after a withdrawal', () => {
  const taken = (base?: 'inForce' | 'latest'): History => {
    const history = three();
    history.do(withdrawn(history, '3'));
    return history.do(checkOut(history.state, author, { reason: null, until: null, base }, history.now));
  };
  const baseLabel = (history: History): string => {
    const { custody } = history.state;
    return custody
      ? history.label(history.version(custody.base.id === history.version('3').id ? '3' : '2'))
      : '';
  };

  test('goes on from what is in force, its fields too, unless the withdrawn one is asked for', () => {
    const history = taken();
    expect(baseLabel(history)).toBe('2');
    history.do(
      checkIn(
        history.state,
        author,
        { ...into('major', ''), content: null, confirm: ['same-bytes'] },
        history.now,
      ),
    );
    expect(history.version('4')).toMatchObject({
      content: content('second'),
      origin: { from: history.version('2').id },
    });
    expect(baseLabel(taken('latest'))).toBe('3');
    const all = taken('inForce');
    expect(baseLabel(all)).toBe('2');
  });

  test('where nothing is in force the latest is the base, withdrawn as it is', () => {
    const history = begin({ numbering: 'whole' }, 'first', 'major');
    history.do(withdrawn(history, '1'));
    expect(baseToCheckOut(history.state)).toBe(history.state.latest);
  });
});
