import { createHash, randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { cleanFileName, type ContentFacts, mediaTypeOf, refuse } from '@polychron/core';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import { layDown } from './contents.ts';
import { diskFull, saysDiskFull } from './room.ts';

/** Most bytes of any upload, whatever a library allows. */
export const mostUploadBytes = 2 * 2 ** 30;

/** Bytes from which on a file is laid down before its act: more than an act writes in passing. */
export const laidDownFrom = 1 << 20;

/** An uploaded file, read and found sound, on its way into the database. */
export interface StagedFile {
  facts: ContentFacts;
  path: string;
  /** Removes the file from the staging folder. */
  remove(): Promise<void>;
}

/**
 * Takes a stream of bytes in: writes it to the staging folder while hashing it, then reads the file through
 * as its type asks. A large one is laid down in the database at once, for the act that is to keep it.
 * @param options.empty whether one without a byte is taken: some programs send that first
 * @param options.read whether it is read through; what programs keep for a while need be no sound file
 * @throws Refused `empty-file`, `file-too-large`, or what the reader of its type found
 */
export async function stageFile(
  context: Context,
  stream: Readable,
  givenName: string,
  { empty = false, read = true }: { empty?: boolean; read?: boolean } = {},
): Promise<StagedFile> {
  const path = join(context.stagingFolder, randomUUID());
  const remove = () => rm(path, { force: true });
  await context.room.require();
  try {
    const fileName = cleanFileName(givenName);
    const hash = createHash('sha256');
    let size = 0;
    await pipeline(
      stream,
      async function* measure(source: AsyncIterable<Buffer>) {
        for await (const part of source) {
          size += part.length;
          if (size > mostUploadBytes) {
            throw new Refused(
              refuse(
                'invalid',
                'file-too-large',
                `The file is larger than ${mostUploadBytes} bytes, the most that is taken in.`,
                { maxFileBytes: mostUploadBytes },
              ),
            );
          }
          await context.room.require();
          hash.update(part);
          yield part;
        }
      },
      createWriteStream(path, { flags: 'wx' }),
    );
    if (size === 0 && !empty)
      throw new Refused(refuse('invalid', 'empty-file', `${fileName} is empty. Choose a file with content.`));
    const mediaType = mediaTypeOf(fileName);
    const { words } = size > 0 && read ? await context.readers.inspect(path, mediaType) : { words: null };
    const facts = { sha256: hash.digest('hex'), size, fileName, mediaType, words };
    if (size > laidDownFrom) {
      const proceed = () => context.room.require();
      await layDown(context, { path, facts }, { hash: facts.sha256, now: context.clock(), proceed });
    }
    return { facts, path, remove };
  } catch (error) {
    await remove();
    throw saysDiskFull(error) ? diskFull(null) : error;
  }
}
