import type { Account } from './people.ts';

/** One thing that happened to a document, so many days before the demo is loaded. */
export type Event = { daysAgo: number; by: Account } & (
  | { act: 'checkIn'; level: 'minor' | 'major'; comment: string; edits: Edit[] }
  | { act: 'publish'; comment?: string }
  | { act: 'restore'; from: string; level: 'minor' | 'major'; comment?: string }
  | { act: 'fields'; fields: { title?: string; reviewBy?: string; subject?: string[] }; comment: string }
  | { act: 'hold'; reason: string; days: number; saves: Edit[][] }
);
/** A passage and what takes its place; the passage must be there. */
export type Edit = [passage: string, replacement: string];

/** A controlled document and its life up to now. */
export interface Story {
  number: string;
  title: string;
  kind: string;
  subject: string[];
  owner: Account;
  reviewInDays: number;
  first: { daysAgo: number; by: Account; comment: string };
  text: string;
  events: Event[];
}

/** Applies edits to a text; one that does not fit is a slip in the story. */
export function applyEdits(text: string, edits: readonly Edit[]): string {
  return edits.reduce((now, [passage, replacement]) => {
    if (!now.includes(passage)) throw new Error(`the story edits a passage that is not there: ${passage}`);
    return now.replace(passage, () => replacement);
  }, text);
}
