import type { Role, RulebookChoices } from '@polychron/core';
import type { Account } from './people.ts';

/** One thing that happened to a document, so many days before the demo is loaded. */
export type Event = { daysAgo: number; by: Account } & (
  | { act: 'checkIn'; level: 'minor' | 'major'; comment: string; edits: Edit[] }
  /** A new version without a check-out, where the library allows it. */
  | { act: 'upload'; level: 'minor' | 'major'; comment: string; edits: Edit[] }
  /** `inDays`: comes into force that many days after the demo is loaded. */
  | { act: 'publish'; comment?: string; inDays?: number }
  | { act: 'submit'; comment?: string; inDays?: number }
  | { act: 'decide'; decision: 'approve' | 'reject' | 'later'; comment?: string }
  | { act: 'shelter'; version: string; reason: string }
  | { act: 'thin'; version: string; reason: string }
  | { act: 'restore'; from: string; level: 'minor' | 'major'; comment?: string }
  | {
      act: 'fields';
      fields: {
        title?: string;
        reviewBy?: string;
        subject?: string[];
        [own: string]: string | string[] | undefined;
      };
      comment: string;
    }
  | { act: 'hold'; reason: string; days: number; saves: Edit[][] }
  /** Ends somebody's check-out; what they saved goes to their Desk, and the document stands as before. */
  | { act: 'lift'; reason: string }
  /** What is in force is what new documents of a type can begin with. */
  | { act: 'template'; type: string }
  /** Who is to read it from then on. */
  | { act: 'distribute'; people: Account[]; groups?: string[] }
  /** Says that one has read the version named. */
  | { act: 'read'; version: string }
  /** Kept to these, and there for nobody else. */
  | { act: 'limit'; people: Account[]; groups?: string[]; reason: string }
  /** A private copy of a version on somebody's Desk. */
  | { act: 'looseCopy'; version: string }
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
  /** Fields of the library's own; a person by account. */
  own?: Record<string, string | number | boolean | string[]>;
  first: { daysAgo: number; by: Account; comment: string };
  text: string;
  /** The text itself is the file; without it a .docx is made of it. */
  ending?: 'md' | 'csv';
  events: Event[];
}

/**
 * A document that lives by small changes, day by day: so many versions, made from a text that depends on
 * their place.
 */
export interface Series extends Omit<Story, 'events' | 'first' | 'text'> {
  versions: number;
  /** Days from the first version to the last. */
  days: number;
  by: Account;
  /** Every so many versions one is published. */
  publishEvery: number;
  textAt: (place: number) => string;
  commentAt: (place: number) => string;
}

/** A library of the demo with its rules and documents. */
export interface DemoLibrary {
  name: string;
  code: string;
  purpose: string;
  rulebook: RulebookChoices;
  /** Groups that are members beside everybody. */
  groups?: { group: string; roles: Role[] }[];
  /** Set once the documents are there. */
  later?: RulebookChoices & { reason: string };
  stories: Story[];
  series?: Series[];
}

/** Applies edits to a text; one that does not fit is a slip in the story. */
export function applyEdits(text: string, edits: readonly Edit[]): string {
  return edits.reduce((now, [passage, replacement]) => {
    if (!now.includes(passage)) throw new Error(`the story edits a passage that is not there: ${passage}`);
    return now.replace(passage, () => replacement);
  }, text);
}
