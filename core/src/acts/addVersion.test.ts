import { isRefusal } from '../document/refusal.ts';
import { originKinds } from '../document/version.ts';
import { hold } from '../testing/acts.ts';
import { author, begin, content, fields } from '../testing/people.ts';
import { addVersion } from './addVersion.ts';

/** Of 12 bytes 10 are kept, 4 of them saves of the present check-out; 4 more are asked for. */
test.each(originKinds)('%s: whether it takes the room of the saves it ends, or none', (kind) => {
  const { state, now } = hold(begin({ allowanceBytes: 12, saves: 'drafts' }, 'firsts'));
  if (!state.custody) throw new Error('it is held');
  const full = { ...state, bytesKept: 10, custody: { ...state.custody, bytesSaved: 4 } };
  const making = {
    level: 'minor' as const,
    comment: 'x',
    origin: { kind, from: null },
    content: content('four'),
    fields,
  };
  const refused = addVersion(full, author, making, now);
  const hasRoom = ['checkIn', 'save', 'restore', 'fields'].includes(kind);
  expect([kind, isRefusal(refused) ? refused.code : null]).toEqual([kind, hasRoom ? null : 'library-full']);
  // With no saves of one's own a check-in has no more room than anything else.
  const { custody: _, ...rest } = full;
  const free = addVersion({ ...rest, custody: null }, author, making, now);
  const addsNothing = ['restore', 'fields'].includes(kind);
  expect([kind, isRefusal(free)]).toEqual([kind, !addsNothing]);
});
