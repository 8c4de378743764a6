import type { Actor, Role } from '../rules/roles.ts';
import type { RulebookChoices } from '../rules/rulebook.ts';
import { History } from '../acts/history.ts';
import type { ContentFacts, Fields, Level } from '../document/version.ts';

/** Somebody for tests. */
export function actor(id: string, ...roles: Role[]): Actor {
  return { id, name: id.toUpperCase(), roles: new Set(roles) };
}

/** Content for tests; the same words are the same bytes. */
export function content(words: string, fileName = 'op-001.docx'): ContentFacts {
  return {
    sha256: `hash of ${words}`,
    size: words.length,
    fileName,
    mediaType: 'application/test',
    words: words.split(' ').length,
  };
}

export const fields: Fields = { title: 'Opening the line' };
export const author = actor('author', 'author');
export const approver = actor('approver', 'approver');
export const approver2 = actor('approver2', 'approver');
export const controller = actor('controller', 'controller');
export const reader = actor('reader', 'reader');

/** A document of the author with a first version that says `words`. */
export function begin(
  rules: RulebookChoices = {},
  words = 'first',
  level?: Level,
  owner: Actor = author,
): History {
  return new History(rules, owner, { approvers: [approver, approver2] }).create(
    content(words),
    fields,
    level,
  );
}
