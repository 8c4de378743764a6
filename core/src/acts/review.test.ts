import fc from 'fast-check';
import { change, code, hold } from '../testing/acts.ts';
import { actor, approver, author, begin, controller, reader } from '../testing/people.ts';
import type { Actor } from '../rules/roles.ts';
import type { History } from './history.ts';
import { proposedReview, review, reviewState } from './review.ts';
import type { Outcome, Review } from './state.ts';

const reviewed = (history: History, command: Partial<Review> = {}, who: Actor = author): Outcome =>
  review(history.state, who, { outcome: 'confirmed', comment: '', nextBy: null, ...command }, history.now);
const labels = (history: History): string[] => history.versions.map((version) => history.label(version));

test('what is in force is confirmed: no version is made, those of the document are told', () => {
  const history = begin({}, 'first', 'major');
  const outcome = reviewed(history, { nextBy: '2099-05-01', comment: 'Walked the line' }, controller);
  expect(outcome).toMatchObject({
    changes: [{ kind: 'review', outcome: 'confirmed', nextBy: '2099-05-01' }],
    ledger: { act: 'review', facts: { version: '1.0', outcome: 'confirmed', comment: 'Walked the line' } },
    notices: [{ kind: 'reviewed', personIds: ['author'] }],
  });
  history.do(outcome);
  expect(labels(history)).toEqual(['1.0']);
});

test('opened it is to be changed: the next draft is made of it, where there are drafts and none is open', () => {
  const history = begin({}, 'first', 'major');
  expect(code(reviewed(history, { outcome: 'opened' }))).toBe('comment-missing');
  history.do(reviewed(history, { outcome: 'opened', comment: 'The span table is old' }));
  expect(labels(history)).toEqual(['1.0', '1.1']);
  const { latest, inForce } = history.state;
  expect(latest).toMatchObject({
    state: 'draft',
    comment: 'The span table is old',
    content: inForce?.content,
  });
  // One is open now; a second is not made.
  history.do(reviewed(history, { outcome: 'opened', comment: 'And the towers' }));
  expect(labels(history)).toEqual(['1.0', '1.1']);
  const held = hold(begin({}, 'first', 'major'));
  held.do(reviewed(held, { outcome: 'opened', comment: 'Old' }, controller));
  expect(labels(held)).toEqual(['1.0']);
  const whole = begin({ numbering: 'whole' }, 'first', 'major');
  whole.do(reviewed(whole, { outcome: 'opened', comment: 'Old' }));
  expect(labels(whole)).toEqual(['1']);
});

test('by owner, co-authors and controllers, of what is in force, with a day to come', () => {
  const history = begin({}, 'first', 'major');
  expect(code(reviewed(history, {}, reader))).toBe('role-missing');
  expect(code(reviewed(history, {}, approver))).toBe('role-missing');
  expect(code(reviewed(history, {}, actor('other', 'author')))).toBe('not-in-charge');
  expect(code(reviewed(history, {}, controller))).toBeNull();
  const today = history.now.toISOString().slice(0, 10);
  expect(code(reviewed(history, { nextBy: today }))).toBe('moment-past');
  expect(code(reviewed(begin({}, 'a draft')))).toBe('nothing-to-review');
  change(history, 'second');
  expect(code(reviewed(history))).toBeNull();
});

test('the next date is as far from today as this one was from the last; a year where there was none', () => {
  const now = new Date('2026-08-31T10:00:00Z');
  const since = new Date('2026-02-10T09:00:00Z');
  expect(proposedReview({ since, by: '2026-08-10', now })).toBe('2027-02-28');
  expect(proposedReview({ since, by: '2028-02-10', now })).toBe('2028-08-31');
  expect(proposedReview({ since, by: null, now })).toBe('2027-08-31');
  fc.assert(
    fc.property(
      fc.date({ min: new Date('2000-01-01'), max: new Date('2090-01-01'), noInvalidDate: true }),
      fc.integer({ min: 0, max: 4000 }),
      (from, days) => {
        const by = new Date(from.getTime() + days * 86_400_000).toISOString().slice(0, 10);
        const next = proposedReview({ since: from, by, now: from });
        expect(next > from.toISOString().slice(0, 10)).toBe(true);
        expect(new Date(`${next}T00:00:00Z`).toISOString().slice(0, 10)).toBe(next);
      },
    ),
  );
});

test('a review is due soon for thirty days before its date, and passed from the day after', () => {
  const now = new Date('2026-05-10T23:00:00Z');
  expect(reviewState(null, now)).toBe('none');
  expect(reviewState('2026-06-10', now)).toBe('none');
  expect(reviewState('2026-06-09', now)).toBe('soon');
  expect(reviewState('2026-05-10', now)).toBe('soon');
  expect(reviewState('2026-05-09', now)).toBe('passed');
});
