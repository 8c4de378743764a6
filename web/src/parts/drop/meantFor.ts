import { type Document, routes } from '@polychron/contract';
import {
  carriesMark,
  isNamedAs,
  largestMarked,
  numbersIn,
  readMark,
  type VersionMark,
} from '@polychron/core';
import { call } from '../../ui/api.ts';

/** A file that was dropped, and which document it is meant for. */
export interface Meant {
  file: File;
  /** None: it is new here. Several, or one that is not `clear`: it has to be asked. */
  documents: Document[];
  clear: boolean;
  /** How that is known, in a sentence; empty where there is nothing to say. */
  why: string;
}

interface Place {
  libraryId: string;
  /** The document it was dropped on. */
  on?: Document | undefined;
  /** Documents that are in sight. */
  listed: readonly Document[];
}

/**
 * Which document a dropped file is meant for: its mark says it, else the document it was dropped on, else a
 * name that a document has or was given here; with any doubt it is asked.
 */
export async function meantFor(file: File, place: Place): Promise<Meant> {
  const mark = await markOf(file);
  return decide(file, place.on, {
    mark,
    marked: mark ? await documentNumbered(place.libraryId, mark.number) : null,
    ...(mark ? { named: [], numbered: [] } : await documentsNamed(file.name, place)),
  });
}

/** What is known of a file. */
export interface Known {
  mark: VersionMark | null;
  /** The document of the mark, where it is in the library. */
  marked: Document | null;
  /** Documents whose file has the same name, or had it from here. */
  named: readonly Document[];
  /** Documents whose number stands in the name. */
  numbered: readonly Document[];
}

/** The same, once everything about the file is known. */
export function decide(
  file: File,
  on: Document | undefined,
  { mark, marked, named, numbered }: Known,
): Meant {
  const so = (documents: Document[], clear: boolean, why = ''): Meant => ({ file, documents, clear, why });
  if (mark) {
    const says = `It was taken from ${mark.number} ${mark.label}`;
    if (!marked) return so(on ? [on] : [], false, `${says}, which is not in this library.`);
    if (!on || on.id === marked.id) return so([marked], true, `${says}.`);
    return so([marked, on], false, `${says}, and was dropped on ${on.number}.`);
  }
  if (on && isNamedAs(file.name, on) === 'exactly') return so([on], true);
  const others = named.filter(({ id }) => id !== on?.id);
  const isNew = (each: Document): boolean => ![on, ...others].some((one) => one?.id === each.id);
  const perhaps = [...others, ...numbered.filter(isNew)];
  if (perhaps.length === 0) return on ? so([on], true) : so([], true);
  const numbers = perhaps.map(({ number }) => number).join(' and ');
  const says = others.length > 0 ? `It is named like the file of ${numbers}.` : `Its name holds ${numbers}.`;
  if (on) return so([on, ...perhaps], false, says);
  // A number alone may stand in the name of another file.
  if (others.length === 1) return so([...others], true, says);
  return so(perhaps, false, perhaps.length === 1 ? says : `${numbers} have files of this name.`);
}

async function markOf(file: File): Promise<VersionMark | null> {
  if (!carriesMark(file.name) || file.size > largestMarked) return null;
  return readMark(new Uint8Array(await file.arrayBuffer()));
}

async function documentNumbered(libraryId: string, number: string): Promise<Document | null> {
  const { items } = await call(routes.listDocuments, {
    params: { id: libraryId },
    query: { q: number, limit: 50 },
  });
  return items.find((document) => document.number === number) ?? null;
}

/** Of the documents in sight, those one holds and those whose number stands in it: which the name says. */
async function documentsNamed(
  name: string,
  { libraryId, listed }: Place,
): Promise<Pick<Known, 'named' | 'numbered'>> {
  const { items } = await call(routes.listDocuments, {
    params: { id: libraryId },
    query: { heldBy: 'me', limit: 200 },
  });
  const found = await Promise.all(numbersIn(name).map((word) => documentNumbered(libraryId, word)));
  const all = new Map(
    [...listed, ...items, ...found.flatMap((one) => one ?? [])].map((document) => [document.id, document]),
  );
  const saying = (how: ReturnType<typeof isNamedAs>): Document[] =>
    [...all.values()].filter((document) => isNamedAs(name, document) === how);
  return { named: saying('exactly'), numbered: saying('number') };
}
