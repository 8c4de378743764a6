import { publish } from './publish.ts';
import { comeIntoForce } from './comeIntoForce.ts';
import { change } from '../testing/acts.ts';
import { author, begin, controller } from '../testing/people.ts';
import { refuseVoided, refuseVoiding, takenBackWithin, unvoidDocument, voidDocument } from './voiding.ts';

const reason = 'Registered twice; OP-014 is the one.';
const mine = (now: Date, more: object = {}) => ({
  byId: author.id,
  at: now,
  published: false,
  touched: false,
  ...more,
});

test('whoever registered a document takes that back within the hour, while nobody built on it', () => {
  const { state, now } = begin();
  const refusedAt = (registration: Parameters<typeof refuseVoiding>[2], at = now) =>
    refuseVoiding(state, author, registration, at)?.reason ?? null;
  const inAnHour = new Date(now.getTime() + takenBackWithin);
  expect(refusedAt(mine(now), inAnHour)).toBeNull();
  expect(refusedAt(mine(now), new Date(inAnHour.getTime() + 1))).toMatch('more than an hour ago');
  expect(refusedAt(mine(now, { published: true }))).toMatch('It was published');
  expect(refusedAt(mine(now, { touched: true }))).toMatch('Somebody else did something with it');
  expect(refusedAt(mine(now, { byId: 'another' }))).toMatch('is for controllers');
  expect(refusedAt(null)).toMatch('is for controllers');
  // A controller may at any time.
  expect(refuseVoiding(state, controller, null, new Date(now.getTime() + 1e12))).toBeNull();
});

test('what is void stands again as it was, and nothing else can be done with it', () => {
  const history = begin({}, 'first', 'major');
  const before = history.state;
  history.do(voidDocument(before, controller, { reason, registration: null }, history.now));
  expect(refuseVoided(history.state)?.reason).toMatch(reason);
  expect(refuseVoiding(history.state, controller, null, history.now)).toMatchObject({ code: 'voided' });
  history.do(unvoidDocument(history.state, controller, { reason }));
  expect(history.state).toEqual(before);
});

test('what was to come into force while the document is void comes when it stands again', () => {
  const history = change(begin({}, 'first', 'major'), 'second');
  const inForceFrom = new Date(history.now.getTime() + 30 * 86_400_000);
  history.do(
    publish(history.state, author, { version: history.state.latest, comment: '', inForceFrom }, history.now),
  );
  history.do(voidDocument(history.state, controller, { reason, registration: null }, history.now));
  const later = new Date(inForceFrom.getTime() + 1);
  expect(comeIntoForce(history.state, later)).toBeNull();
  history.do(unvoidDocument(history.state, controller, { reason }));
  expect(comeIntoForce(history.state, later)?.changes.at(-1)).toMatchObject({ at: inForceFrom });
});
