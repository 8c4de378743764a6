import type * as contract from '@polychron/contract';
import { namesOnPath, subjectPath } from '@polychron/contract';
import { sightIn } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import { partOf, readCursor, writeCursor } from '../store/cursors.ts';
import { findRegister, findSubjects } from '../store/register.ts';
import { readRegisterAsOf } from './asOf.ts';
import { documentsSeen } from './documentView.ts';

/** A page of the Register, as it is or as it was. */
export async function readRegister(
  asker: Asker,
  libraryId: string,
  query: contract.DocumentQuery,
): Promise<contract.DocumentList> {
  const { context, asOf } = asker;
  if (asOf) return readRegisterAsOf(asker, libraryId, { query, at: asOf });
  const sight = await sightIn(asker, libraryId);
  const asked = { query, now: context.clock() };
  const { ids, next, total, about } = await findRegister(context, libraryId, sight, asked);
  return { items: await documentsSeen(context, sight, ids), next, total, about };
}

/** Subjects that come next on a path, as the caller sees documents. */
export async function readSubjects(
  asker: Asker,
  libraryId: string,
  { path, cursor, limit }: contract.SubjectQuery,
): Promise<contract.SubjectList> {
  const { context } = asker;
  const sight = await sightIn(asker, libraryId);
  const names = path === undefined ? [] : namesOnPath(path);
  const [after = ''] = readCursor(cursor, 1) ?? [];
  const asked = { names, after, limit: limit + 1 };
  const found = await findSubjects(context, libraryId, sight, asked);
  const { shown, next } = partOf(found, limit, (last) => writeCursor([last]));
  return { items: shown.map((name) => ({ name, path: subjectPath([...names, name]) })), next };
}
