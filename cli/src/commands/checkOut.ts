import { routes } from '@polychron/contract';
import { cleanFileName } from '@polychron/core';
import { createWriteStream } from 'node:fs';
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { type Client, Told } from '../client.ts';
import { documentCalled } from '../find.ts';
import { contentOf, note, notesName } from '../folder.ts';
import { say } from '../say.ts';

/** Checks a document out, unless it is held already, and puts its working copy into a folder. */
export async function checkOut(
  client: Client,
  name: string,
  { folder, ...wish }: { folder: string; reason?: string; until?: string },
): Promise<void> {
  const document = await documentCalled(client, name);
  const params = { id: document.id };
  if (!document.custody?.mine) await client.call(routes.checkOut, { params, body: wish });
  const { base, until } = await client.call(routes.readCheckout, { params });
  const content = await client.ask(routes.workingCopy, { params });
  const fileName = cleanFileName(document.latest.fileName);
  // The server says it; the notes of this folder say which files are sent where.
  if (fileName.toLowerCase().startsWith(notesName))
    throw new Told(`A file cannot be called ${fileName} here.`);
  const path = join(folder, fileName);
  // What stands there already may be somebody's work.
  const parts = content.body as unknown as AsyncIterable<Uint8Array>;
  await pipeline(bounded(parts), createWriteStream(path, { flags: 'wx' })).catch(async (error: unknown) => {
    if ((error as { code?: string }).code === 'EEXIST')
      throw new Told(
        `${document.number} is checked out to you, but ${path} is there already. Move it, and check out again.`,
      );
    // What came by halves is no working copy.
    await rm(path, { force: true });
    throw error;
  });
  const held = { server: client.server, documentId: document.id, number: document.number, base: base ?? '' };
  await note(path, { ...held, sha256: (await contentOf(path)).sha256 });
  const end = until === null ? '' : `, to ${until.slice(0, 10)}`;
  say(`${document.number} is checked out to you at ${base}${end}: ${path}`);
  const { label, withdrawn } = document.latest;
  if (withdrawn && base !== label)
    say(`${label}, the latest, was withdrawn (${withdrawn.why}); you work on ${base}, which is in force.`);
}

/** No file that Polychron keeps has more bytes. */
const mostBytes = 2 * 2 ** 30;

async function* bounded(parts: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  let size = 0;
  for await (const part of parts) {
    size += part.length;
    if (size > mostBytes) throw new Told(`The server sends more than ${mostBytes} bytes, which no file has.`);
    yield part;
  }
}
