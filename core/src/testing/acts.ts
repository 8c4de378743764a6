import { checkIn, type CheckIn } from '../acts/checkIn.ts';
import { checkOut } from '../acts/checkOut.ts';
import type { History } from '../acts/history.ts';
import { publish } from '../acts/publish.ts';
import { restore } from '../acts/restore.ts';
import type { Outcome } from '../acts/state.ts';
import { isRefusal } from '../document/refusal.ts';
import type { Level } from '../document/version.ts';
import type { Actor } from '../rules/roles.ts';
import { author, content } from './people.ts';

/** Why an act was refused; null where it was accepted. */
export const code = (outcome: Outcome): string | null => (isRefusal(outcome) ? outcome.code : null);

/** The latest version checked out, without end. */
export const hold = (history: History, who: Actor = author): History =>
  history.do(checkOut(history.state, who, { reason: null, until: null }, history.now));

/** What is checked in: `words`, with a comment about them. */
export const into = (level: Level, words: string, more: Partial<CheckIn> = {}): CheckIn => ({
  level,
  comment: `about ${words}`,
  keepCheckedOut: false,
  confirm: [],
  content: content(words),
  keepFileName: false,
  ...more,
});

/** The author's document checked out, and in again as `words`. */
export const change = (history: History, words: string, level: Level = 'minor'): History =>
  hold(history).do(
    checkIn(history.state, author, into(level, words, { confirm: ['same-bytes'] }), history.now),
  );

export const publishLatest = (history: History): History => {
  const command = { version: history.state.latest, comment: '', inForceFrom: null };
  return history.do(publish(history.state, author, command, history.now));
};

export const restoreFrom = (history: History, from: string, level: Level): Outcome => {
  const command = { from: history.version(from), level, comment: '', fields: false };
  return restore(history.state, author, command, history.now);
};
