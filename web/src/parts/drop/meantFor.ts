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
  /** Documents that are in sight. */
  listed: readonly Document[];
}

/**
 * Which document a dropped file is meant for: its mark says it, else the document it was dropped on, else its
 * name.
 */
export async function meantFor(file: File, place: Place): Promise<Meant> {
  const mark = await markOf(file);
  return decide(file, place.on, {
    mark,
    marked: mark ? await documentNumbered(place.libraryId, mark.number) : null,
    named: mark ? [] : await documentsNamed(file.name, place),
  });
}

/** What is known of a file. */
export interface Known {
  mark: VersionMark | null;
  /** The document of the mark, where it is in the library. */
  marked: Document | null;
  /** Documents whose file has the same name. */
  named: readonly Document[];
}

/** The same, once everything about the file is known. */
export function decide(file: File, on: Document | undefined, { mark, marked, named }: Known): Meant {
  const so = (documents: Document[], clear: boolean, why = ''): Meant => ({ file, documents, clear, why });
  if (mark) {
    const says = `It was taken from ${mark.number} ${mark.label}`;
    if (!marked) return so(on ? [on] : [], false, `${says}, which is not in this library.`);
    if (!on || on.id === marked.id) return so([marked], true, `${says}.`);
    return so([marked, on], false, `${says}, and was dropped on ${on.number}.`);
  }
  const others = named.filter(({ id }) => id !== on?.id);
  const otherNumbers = others.map(({ number }) => number).join(' and ');
  if (on) {
    if (on.fileName === file.name || others.length === 0) return so([on], true);
    return so([on, ...others], false, `It is named like the file of ${otherNumbers}.`);
  }
  if (others.length === 1) return so([...others], true, `It is named like the file of ${otherNumbers}.`);
  return so(
    [...others],
    others.length === 0,
    others.length === 0 ? '' : `${otherNumbers} have files of this name.`,
  );
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

/** Of the documents in sight and those one holds: whose file has the name. */
async function documentsNamed(name: string, { libraryId, listed }: Place): Promise<Document[]> {
  const { items } = await call(routes.listDocuments, {
    params: { id: libraryId },
    query: { heldBy: 'me', limit: 200 },
  });
  const all = new Map([...listed, ...items].map((document) => [document.id, document]));
  return [...all.values()].filter(({ fileName }) => fileName === name);
}
