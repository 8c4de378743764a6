import { Server } from '@tus/server';
import { refuse } from '@polychron/core';
import type { Request, RequestHandler } from 'express';
import { requireUploader } from '../acts/deskFiles.ts';
import { mostUploadBytes } from '../content/staging.ts';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import { transact } from '../store/database.ts';
import { lockPerson } from '../store/people.ts';

export const uploadsPath = '/api/v1/uploads';
/** Bytes of uploads under way that one person may have. */
const mostUnderWay = 2 * mostUploadBytes;

/**
 * Uploads in parts, by the protocol tus 1.0 (creation, termination, expiration): begun with `POST
 * /uploads`, gone on with after a lost connection, and named as `upload` in place of the file of a form.
 */
export function uploads(context: Context): RequestHandler {
  const server = new Server({
    path: uploadsPath,
    datastore: context.uploads.store,
    maxSize: mostUploadBytes,
    relativeLocation: true,
    // Pages of other sites have no business here.
    allowedOrigins: () => false,
    namingFunction: (req) => context.uploads.begun(requestOf(req)),
  });
  return async (req, res) => {
    const begun = await admit(context, req);
    await server.handle(req, res);
    // Its place was taken before its head was read through.
    if (begun !== null && res.statusCode >= 400) await context.uploads.remove(begun);
  };
}

/** The request as it came to us. */
function requestOf(req: { runtime?: { node?: { req: unknown } } }): object {
  const own = req.runtime?.node?.req;
  if (typeof own !== 'object' || own === null) throw new Error('an upload without a request');
  return own;
}

/**
 * Lets through who may begin an upload, or whose it is. Answers the name of one that begins.
 * @throws Refused `not-signed-in`, `role-missing`, `file-too-large`, `too-many-uploads`, `disk-full`,
 * `upload-not-found`, `upload-length-missing`
 */
async function admit(context: Context, req: Request): Promise<string | null> {
  const { caller } = req;
  if (!caller) throw new Refused(refuse('forbidden', 'not-signed-in', 'Sign in first.'));
  const id = req.path.slice(uploadsPath.length + 1);
  if (id !== '') {
    if (!context.uploads.isOf(caller.id, id)) {
      throw new Refused(refuse('notFound', 'upload-not-found', 'There is no such upload of yours.'));
    }
    if (req.method === 'PATCH') await context.room.require();
    return null;
  }
  if (req.method !== 'POST') return null;
  await requireUploader({ context, caller });
  await context.room.require();
  const size = lengthOf(req);
  if (size > mostUploadBytes) {
    const reason = `The file has ${size} bytes; no more than ${mostUploadBytes} are taken in.`;
    throw new Refused(refuse('invalid', 'file-too-large', reason, { size, maxFileBytes: mostUploadBytes }));
  }
  // One after another for each person, whichever server they come to: each counts those before.
  return transact(context.db, async (tx) => {
    await lockPerson(context, caller.id, tx);
    const underWay = await context.uploads.bytesOf(caller.id);
    if (underWay + size > mostUnderWay) {
      const reason = `Your uploads under way have ${underWay} bytes; ${mostUnderWay} may be. Finish or leave one first.`;
      throw new Refused(refuse('conflict', 'too-many-uploads', reason, { underWay, mostUnderWay }));
    }
    return context.uploads.begin(req, caller.id, size);
  });
}

/** How long an upload will be: it is said when it begins, since room is kept for it. */
function lengthOf(req: Request): number {
  const told = req.get('upload-length') ?? '';
  if (/^\d{1,15}$/.test(told)) return Number(told);
  const reason = 'Say how many bytes the upload will have, as Upload-Length.';
  throw new Refused(refuse('invalid', 'upload-length-missing', reason));
}
