import { type Refusal, refuse } from '../document/refusal.ts';
import type { ContentFacts, Version } from '../document/version.ts';
import { type DocumentState, labelIn } from './state.ts';

/** Questions a check-in can ask; each is answered by confirming its code. */
export const checkInQuestions = [
  'same-bytes',
  'other-name',
  'other-type',
  'stale-base',
  'other-document',
] as const;
export type CheckInQuestion = (typeof checkInQuestions)[number];

/** Whether a refusal's code is a question that can be answered yes. */
export const isCheckInQuestion = (code: string): code is CheckInQuestion =>
  (checkInQuestions as readonly string[]).includes(code);

/** What a file says of itself: the version it was taken from, by the mark written into it. */
export interface Taken {
  /** The number of its document; null: this one, by what the file holds. */
  number: string | null;
  label: string;
  versionId: string;
  /** That version's content, where it is one of this document's. */
  sha256: string | null;
  /** Nothing in the file says so: it reads more like that version than like the base. */
  isGuess?: boolean;
}

/** What every act that takes a file in is told of it. */
export interface Incoming {
  /** Questions answered yes. */
  confirm: readonly CheckInQuestion[];
  /** Keep the registered file name though the file comes under another. */
  keepFileName: boolean;
  /** What the file's mark says; null for one without. */
  taken?: Taken | null;
  /** The file differs from the base in its mark only. */
  sameButForMark?: boolean;
}

/** The content as it is registered: under its own name, or the one the document has. */
export const underName = (
  given: ContentFacts,
  registered: ContentFacts,
  { keepFileName }: Pick<Incoming, 'keepFileName'>,
): ContentFacts => (keepFileName ? { ...given, fileName: registered.fileName } : given);

type Named = Pick<DocumentState, 'number' | 'presentEra'>;

/**
 * The questions a new content raises against the version it is based on; the first that is not answered yet.
 */
export function askAboutContent(
  state: Named,
  base: Version,
  given: ContentFacts,
  incoming: Incoming,
): Refusal | null {
  const label = labelIn(state, base);
  const questions = [
    // Equal bytes settle what a file was taken from, whatever is written into it.
    ...(given.sha256 === base.content.sha256 ? [] : askAboutMark(state, base, label, incoming.taken ?? null)),
    ...askAboutFile(base.content, given, incoming.keepFileName),
    ...askAboutBytes(base.content, given, label, incoming.sameButForMark ?? false),
  ];
  const open = questions.find(({ code }) => !(incoming.confirm as readonly string[]).includes(code));
  return open ?? null;
}

function askAboutMark(state: Named, base: Version, label: string, taken: Taken | null): Refusal[] {
  if (!taken) return [];
  if (taken.number !== null && taken.number !== state.number) {
    const from = `${taken.number} ${taken.label}`;
    const question = `The file was taken from ${from}; this is ${state.number}. Check it in here all the same?`;
    return [refuse('question', 'other-document', question, { taken: from, here: state.number })];
  }
  // A publication has the content of its draft: a file taken from either is of both.
  if (taken.versionId === base.id || taken.sha256 === base.content.sha256) return [];
  const guess = `The file seems to be an edit of ${taken.label}, which it reads more like than ${label}, the latest. Check it in all the same, without what came after ${taken.label}?`;
  if (taken.isGuess)
    return [refuse('question', 'stale-base', guess, { base: taken.label, latest: label, guess: true })];
  const question = `The file was taken from ${taken.label}; the latest is ${label}. Check it in all the same, without what came after ${taken.label}?`;
  return [refuse('question', 'stale-base', question, { base: taken.label, latest: label })];
}

function askAboutFile(registered: ContentFacts, given: ContentFacts, keepFileName: boolean): Refusal[] {
  const questions: Refusal[] = [];
  if (given.mediaType !== registered.mediaType) {
    const question = `${given.fileName} is not of the same type as the registered ${registered.fileName}. Check in the other type?`;
    const facts = { given: given.mediaType, registered: registered.mediaType };
    questions.push(refuse('question', 'other-type', question, facts));
  }
  if (given.fileName !== registered.fileName && !keepFileName) {
    const question = `The file is named ${given.fileName}; the document is registered as ${registered.fileName}. Take the new name?`;
    const facts = { given: given.fileName, registered: registered.fileName };
    questions.push(refuse('question', 'other-name', question, facts));
  }
  return questions;
}

function askAboutBytes(
  registered: ContentFacts,
  given: ContentFacts,
  label: string,
  sameButForMark: boolean,
): Refusal[] {
  const same = given.sha256 === registered.sha256;
  if (!same && !sameButForMark) return [];
  const butForMark = same ? '' : ' but for the version written into it';
  const question = `The file is the same, byte for byte${butForMark}, as ${label}. Check it in all the same?`;
  return [refuse('question', 'same-bytes', question, { base: label, sha256: given.sha256 })];
}
