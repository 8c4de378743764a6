import type { OwnValues } from './fieldValue.ts';

/** The states a version passes through (docs/rules.md, States of a version). */
export const states = ['draft', 'inApproval', 'approved', 'rejected', 'published', 'withdrawn'] as const;
export type State = (typeof states)[number];

/** Where a published version stands; exactly one version of a document stands in force, or none. */
export const standings = ['scheduled', 'inForce', 'superseded'] as const;
export type Standing = (typeof standings)[number];

export const originKinds = [
  'upload',
  'checkIn',
  'restore',
  'fields',
  'publish',
  'renumber',
  'template',
  'import',
  'merge',
  'save',
] as const;
export type OriginKind = (typeof originKinds)[number];

/** `major` asks for publication, `minor` makes a draft. */
export const levels = ['minor', 'major'] as const;
export type Level = (typeof levels)[number];

export const numberings = ['none', 'whole', 'stepped'] as const;
export type Numbering = (typeof numberings)[number];

/** A version's place in the run of numbers: era from 1, major and minor from 0. */
export interface VersionNumber {
  era: number;
  major: number;
  minor: number;
  /** The numbering under which the number was given; it decides how the number is written. */
  numbering: Numbering;
}

/** The content of a version: what was checked in, byte for byte, is found by its hash. */
export interface ContentFacts {
  /** SHA-256 in lower-case hexadecimal (FIPS 180-4). */
  sha256: string;
  /** Size in bytes. */
  size: number;
  fileName: string;
  mediaType: string;
  /** Words in the text, or null where the type has no text we can read. */
  words: number | null;
}

/** The fields a document carries in one version. */
export interface Fields {
  title: string;
  type?: string | undefined;
  subject?: string[] | undefined;
  reviewBy?: string | undefined;
  /** Fields of the library's own, by name. */
  own?: OwnValues | undefined;
}

/** One version as core sees it. Nothing ever rewrites its number, content, author, time or comment. */
export interface Version extends VersionNumber {
  id: string;
  /** Position in the document's history, from 1, rising by one. */
  sequence: number;
  state: State;
  standing: Standing | null;
  authorId: string;
  at: Date;
  comment: string;
  origin: { kind: OriginKind; from: string | null };
  content: ContentFacts;
  fields: Fields;
  /** When it came, or comes, into force; null for one that never does. */
  inForceFrom: Date | null;
  /** When it stopped being in force; null while it is, and for one that never was. */
  supersededAt: Date | null;
  thinned: Thinned | null;
  sheltered: boolean;
  /** When and why it was withdrawn; null for one that was not, or is in force again. */
  withdrawn: Withdrawn | null;
}

/** That a published version was withdrawn: by whom and why in a sentence. */
export interface Withdrawn {
  at: Date;
  why: string;
}

/** A version whose content the keeping rules or a person removed; it can be recovered until `until`. */
export interface Thinned {
  at: Date;
  until: Date;
  why: string;
}

/**
 * From when a version is, was or will be in force; null for one that never is: it was not published, or
 * another took its place before its moment.
 */
export function inForceFrom({
  inForceFrom: from,
  supersededAt,
}: Pick<Version, 'inForceFrom' | 'supersededAt'>): Date | null {
  return from && supersededAt && supersededAt.getTime() < from.getTime() ? null : from;
}
