import { isTemporaryName, liveLock, refuse } from '@polychron/core';
import type { Readable } from 'node:stream';
import { type OwnAct, performPutOwn } from '../../acts/ownPlaces.ts';
import { admitSave, performSave } from '../../acts/save.ts';
import { admitUpload, performUpload } from '../../acts/uploadVersion.ts';
import { stageFile, type StagedFile } from '../../content/staging.ts';
import type { DriveFile } from '../../reads/drive.ts';
import { Refused } from '../../refused.ts';
import { badRequest, notHere, requireFolder, type Visit } from './visit.ts';
import { fileTag } from './tags.ts';

/** PUT (RFC 4918, 9.7): what a document's holder saves, a new version, or a file of one's own. */
export async function put(visit: Visit): Promise<void> {
  const { place, names, req, res } = visit;
  if (req.get('content-range') !== undefined)
    throw badRequest('malformed-request', 'A part of a file is not taken in. Send all of it.');
  if (place?.kind === 'file') {
    const tag = await putDocument(visit, place, req);
    res.status(204).set('ETag', tag).end();
    return;
  }
  if (place?.kind === 'version') throw notHere('Changing a version');
  if (place && !(place.kind === 'own' && place.own.file)) throw noFile();
  if (!place) await requireFolder(visit, names);
  const { isNew, tag } = await putOwn(visit, visit, req);
  res
    .status(isNew ? 201 : 204)
    .set('ETag', tag)
    .end();
}

/** Keeps a content as a file of one's own. */
export async function putOwn(
  visit: Visit,
  act: OwnAct,
  stream: Readable,
): Promise<{ isNew: boolean; tag: string }> {
  const kept = { isNew: false, tag: '' };
  await staged(visit, { name: act.names.at(-1) ?? '', stream, own: true }, async (file) => {
    kept.isNew = await performPutOwn(visit.asker, act, file);
    kept.tag = fileTag(file.facts.sha256);
  });
  return kept;
}

const noFile = (): Refused =>
  new Refused(refuse('conflict', 'is-a-folder', 'A folder stands there, no file.'));

/** Takes the body in, and removes it from where it waited once it is used. */
async function staged(
  { asker: { context } }: Visit,
  { name, stream, own }: { name: string; stream: Readable; own: boolean },
  use: (file: StagedFile) => Promise<void>,
): Promise<void> {
  const file = await stageFile(context, stream, name, { empty: own, read: !own || !isTemporaryName(name) });
  try {
    await use(file);
  } finally {
    await file.remove();
  }
}

/** Keeps a content for a document, as its rules have it; returns the entity tag it has then. */
export async function putDocument(visit: Visit, { file }: DriveFile, stream: Readable): Promise<string> {
  const { asker } = visit;
  const { documentId, custody, sha256 } = file;
  requireOwnLock(visit, file);
  let tag = fileTag(sha256);
  if (custody?.holderId === asker.caller.id) {
    const name = await admitSave(asker, documentId);
    await staged(visit, { name, stream, own: false }, async (given) => {
      // A program that writes what is there saves nothing.
      if (given.facts.sha256 !== sha256) await performSave(asker, documentId, given);
      tag = fileTag(given.facts.sha256);
    });
    return tag;
  }
  const admitted = await admitUpload(asker, documentId);
  const { rules, latest } = admitted.document;
  const level = rules.numbering === 'stepped' ? ('minor' as const) : undefined;
  const command = { level, comment: '', confirm: [], keepFileName: true, basedOn: file.versionId };
  const { fileName: name } = latest.content;
  await staged(visit, { name, stream, own: false }, async (given) => {
    if (given.facts.sha256 !== sha256) await performUpload(asker, admitted, command, given);
    tag = fileTag(given.facts.sha256);
  });
  return tag;
}

/** What one program of the caller's has open takes nothing from another. @throws Refused `locked` */
export function requireOwnLock({ asker, tokens }: Visit, { custody, number }: DriveFile['file']): void {
  const lock = custody?.holderId === asker.caller.id ? liveLock(custody, asker.context.clock()) : null;
  if (!lock || tokens.has(lock.token)) return;
  const reason = `A program of yours has ${number} open. Save it there, or take the lock back in the page.`;
  throw new Refused(refuse('conflict', 'locked', reason));
}
