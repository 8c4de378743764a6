import type { ApprovalDecision } from '../rules/approvalRun.ts';
import type { Actor } from '../rules/roles.ts';
import type { RulebookChoices } from '../rules/rulebook.ts';
import { code } from '../testing/acts.ts';
import { actor, approver, approver2, author, begin, controller, reader } from '../testing/people.ts';
import { decide } from './decide.ts';
import type { History } from './history.ts';
import { ifApproved } from './outlook.ts';
import { replaceApprover } from './replaceApprover.ts';
import type { Decision, Outcome } from './state.ts';
import { submit } from './submit.ts';

const rules = (approval: RulebookChoices['approval'] = {}): RulebookChoices => ({
  approval: { on: true, ...approval },
});
/** A document whose first draft waits for its two approvers. */
function submitted(approval: RulebookChoices['approval'] = {}): History {
  const history = begin(rules(approval));
  const { latest } = history.state;
  return history.do(
    submit(history.state, author, { version: latest, comment: '', inForceFrom: null }, history.now),
  );
}
const say = (
  history: History,
  who: Actor,
  decision: ApprovalDecision,
  { comment = '', inPlace = false } = {},
): Outcome =>
  decide(history.state, who, { version: history.state.latest, decision, comment, inPlace }, history.now);
const replace = (history: History, who: Actor, from: Actor, to: Actor, reason = 'On leave'): Outcome =>
  replaceApprover(history.state, who, { from, to, reason }, history.now);
const asked = (history: History): string[] => history.approval?.posts.map(({ personId }) => personId) ?? [];
const third = actor('third', 'approver');

describe('one person in the place of another', () => {
  test('is asked in the same turn about the same version, and both are told why', () => {
    const history = submitted();
    const outcome = replace(history, controller, approver, third) as Decision;
    expect(outcome.notices?.map(({ kind, personIds, facts }) => [kind, personIds, facts])).toEqual([
      ['replaced', ['approver'], { by: controller.name, label: '0.1', reason: 'On leave', to: third.name }],
      [
        'putInPlace',
        ['third'],
        { by: controller.name, label: '0.1', reason: 'On leave', from: approver.name, asked: 'now' },
      ],
    ]);
    history.do(outcome);
    expect(asked(history)).toEqual(['third', 'approver2']);
    expect(code(say(history, approver, 'approve'))).toBe('not-asked');
    history.do(say(history, third, 'approve')).do(say(history, approver2, 'approve'));
    expect(history.inForce).toBe('1.0');
  });

  test('later in turn is told that the others come first', () => {
    const history = submitted();
    const outcome = replace(history, controller, approver2, third) as Decision;
    expect(outcome.notices?.[1]?.facts['asked']).toBe('afterwards');
  });

  test.each([
    ['who is no controller', (h: History) => replace(h, author, approver, third), 'role-missing'],
    ['without a reason', (h: History) => replace(h, controller, approver, third, '  '), 'reason-missing'],
    [
      'for somebody who is not asked',
      (h: History) => replace(h, controller, third, third),
      'not-asked-there',
    ],
    [
      'by somebody who is asked',
      (h: History) => replace(h, controller, approver, approver2),
      'asked-already',
    ],
    ['by who may not decide', (h: History) => replace(h, controller, approver, reader), 'cannot-decide'],
    ['by its author', (h: History) => replace(h, controller, approver, author), 'cannot-decide'],
  ])('refused %s', (_, doing, expected) => {
    expect(code(doing(submitted()))).toBe(expected);
  });

  test('what somebody has decided stays, also a word that it is not yet decided', () => {
    const history = submitted().do(say(submitted(), approver, 'approve'));
    expect(code(replace(history, controller, approver, third))).toBe('not-asked-there');
    const waiting = submitted().do(say(submitted(), approver, 'later', { comment: 'After the storm' }));
    waiting.do(replace(waiting, controller, approver, third));
    expect(waiting.approval?.posts[0]).toMatchObject({ personId: 'third', decision: null, comment: '' });
  });

  test('refused where nobody is asked', () => {
    expect(code(replace(begin(rules()), controller, approver, third))).toBe('not-in-approval');
  });
});

describe('a controller in the place of those asked', () => {
  const inPlace = { comment: 'Both are at the towers', inPlace: true };
  test('only where the Rulebook lets them, with a reason, and not about their own version', () => {
    expect(code(say(submitted(), controller, 'approve', inPlace))).toBe('not-in-place');
    const history = submitted({ controllersDecide: true });
    expect(code(say(history, controller, 'approve', { inPlace: true }))).toBe('comment-missing');
    expect(code(say(history, controller, 'later', inPlace))).toBe('later-in-place');
    expect(code(say(history, approver2, 'approve', inPlace))).toBe('role-missing');
    expect(code(say(history, controller, 'approve', { comment: 'x' }))).toBe('not-asked');
    const own = begin(rules({ controllersDecide: true }));
    own.do(submit(own.state, author, { version: own.state.latest, comment: '', inForceFrom: null }, own.now));
    expect(code(say(own, actor('author', 'controller'), 'approve', inPlace))).toBe('own-version');
  });

  test.each(['serial', 'together', 'anyOne'] as const)(
    '%s: approving ends the run and publishes; those asked are told, what they would be asked is not',
    (mode) => {
      const history = submitted({ controllersDecide: true, mode });
      const outlook = ifApproved(history.state, controller, history.now, true);
      expect(outlook).toEqual({ asked: [], published: { label: '1.0', inForceFrom: null } });
      const outcome = say(history, controller, 'approve', inPlace) as Decision;
      const told = mode === 'serial' ? ['approver'] : ['approver', 'approver2'];
      expect(outcome.notices).toMatchObject([
        { kind: 'decidedForYou', personIds: told },
        { kind: 'approved', personIds: ['author'], facts: { label: '0.1', published: '1.0' } },
      ]);
      expect(outcome.ledger).toMatchObject({
        act: 'approve',
        facts: { comment: 'Both are at the towers', published: '1.0' },
      });
      history.do(outcome);
      expect([history.inForce, history.approval]).toEqual(['1.0', null]);
    },
  );

  test('rejecting ends the run; owner, author and those asked are told', () => {
    const history = submitted({ controllersDecide: true });
    const outcome = say(history, controller, 'reject', inPlace) as Decision;
    expect(outcome.notices?.map(({ kind }) => kind)).toEqual(['decidedForYou', 'rejected']);
    history.do(outcome);
    expect(history.version('0.1').state).toBe('rejected');
  });

  test('byOwner: it is left approved', () => {
    const history = submitted({ controllersDecide: true, publishing: 'byOwner' });
    history.do(say(history, controller, 'approve', inPlace));
    expect([history.version('0.1').state, history.inForce]).toEqual(['approved', null]);
  });
});
