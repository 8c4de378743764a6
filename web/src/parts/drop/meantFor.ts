import { type Document, routes } from '@polychron/contract';
import { carriesMark, largestMarked, readMark, type VersionMark } from '@polychron/core';
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
}

/**
 * Which document a dropped file is meant for: its mark says it, else the document it was dropped on, else a
 * name that a document's file has, had, or was given here; with any doubt it is asked.
 */
export async function meantFor(file: File, place: Place): Promise<Meant> {
  const mark = await markOf(file);
  return decide(file, place.on, {
    mark,
    marked: mark ? await documentNumbered(place.libraryId, mark.number) : null,
    ...(mark ? { named: [], numbered: [], many: false } : await documentsNamed(file.name, place)),
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
  /** Whether there are more of these than can be told. */
  many: boolean;
}

/** Signs of a file's name: file systems have no longer ones (255 bytes, common practice). */
const longestName = 255;

/** The same, once everything about the file is known. */
export function decide(
  file: File,
  on: Document | undefined,
  { mark, marked, named, numbered, many }: Known,
): Meant {
  const so = (documents: Document[], clear: boolean, why = ''): Meant => ({ file, documents, clear, why });
  if (mark) {
    const says = `It was taken from ${mark.number} ${mark.label}`;
    if (!marked) return so(on ? [on] : [], false, `${says}, which is not in this library.`);
    if (!on || on.id === marked.id) return so([marked], true, `${says}.`);
    return so([marked, on], false, `${says}, and was dropped on ${on.number}.`);
  }
  if (on && named.some(({ id }) => id === on.id)) return so([on], true);
  if (many) return so(on ? [on] : [], false, 'Many documents here have files of this name.');
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

/** Documents of the library whose file is called so, was, or got the name from here; or by their number. */
async function documentsNamed(
  name: string,
  { libraryId, on }: Place,
): Promise<Pick<Known, 'named' | 'numbered' | 'many'>> {
  const { matches, more } = await call(routes.findByFileName, {
    params: { id: libraryId },
    query: { name: name.slice(0, longestName) },
  });
  const read = async (how: 'exactly' | 'number'): Promise<Document[]> =>
    Promise.all(
      matches
        .filter((match) => match.how === how)
        .map(({ document: { id } }) => (on?.id === id ? on : call(routes.readDocument, { params: { id } }))),
    );
  const [named, numbered] = await Promise.all([read('exactly'), read('number')]);
  return { named, numbered, many: more };
}
