import { Server } from '@tus/server';
import { refuse } from '@polychron/core';
import type { Request, RequestHandler } from 'express';
import { requireUploader } from '../acts/deskFiles.ts';
import { mostUploadBytes } from '../content/staging.ts';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';

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
    namingFunction: (req) => context.uploads.newId(ownerOf(req)),
  });
  return async (req, res) => {
    await admit(context, req);
    await server.handle(req, res);
  };
}

/** The person an upload is made by, told by the request it came in. */
function ownerOf(req: { runtime?: { node?: { req: unknown } } }): string {
  const caller = (req.runtime?.node?.req as Request | undefined)?.caller;
  if (!caller) throw new Error('an upload without a caller');
  return caller.id;
}

/**
 * Lets through who may begin an upload, or whose it is.
 * @throws Refused `not-signed-in`, `role-missing`, `file-too-large`, `too-many-uploads`, `disk-full`,
 * `upload-not-found`
 */
async function admit(context: Context, req: Request): Promise<void> {
  const { caller } = req;
  if (!caller) throw new Refused(refuse('forbidden', 'not-signed-in', 'Sign in first.'));
  const id = req.path.slice(uploadsPath.length + 1);
  if (id !== '') {
    if (!context.uploads.isOf(caller.id, id)) {
      throw new Refused(refuse('notFound', 'upload-not-found', 'There is no such upload of yours.'));
    }
    if (req.method === 'PATCH') await context.room.require();
    return;
  }
  if (req.method !== 'POST') return;
  await requireUploader({ context, caller });
  await context.room.require();
  const size = Number(req.get('upload-length') ?? 0);
  if (size > mostUploadBytes) {
    const reason = `The file has ${size} bytes; no more than ${mostUploadBytes} are taken in.`;
    throw new Refused(refuse('invalid', 'file-too-large', reason, { size, maxFileBytes: mostUploadBytes }));
  }
  const underWay = await context.uploads.bytesOf(caller.id);
  if (underWay + size > mostUnderWay) {
    const reason = `Your uploads under way have ${underWay} bytes; ${mostUnderWay} may be. Finish or leave one first.`;
    throw new Refused(refuse('conflict', 'too-many-uploads', reason, { underWay, mostUnderWay }));
  }
}
