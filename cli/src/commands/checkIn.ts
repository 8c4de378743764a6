import { routes } from '@polychron/contract';
import { isCheckInQuestion, type Level } from '@polychron/core';
import { basename } from 'node:path';
import { type Client, Refused, Told } from '../client.ts';
import { contentOf, heldAs, note } from '../folder.ts';
import { say } from '../say.ts';

/** Makes a file the next version of its document; an open question is asked back, and answered by --yes. */
export async function checkIn(
  client: Client,
  path: string,
  wish: { comment?: string; level?: Level; keep?: boolean; yes?: string[] },
): Promise<void> {
  const { file, held } = await heldAs(path, client.server);
  const { blob, sha256 } = await contentOf(file);
  const form = new FormData();
  form.append('comment', wish.comment ?? '');
  if (wish.level) form.append('level', wish.level);
  form.append('keepCheckedOut', String(wish.keep ?? false));
  form.append('confirm', (wish.yes ?? []).join(','));
  form.append('file', blob, basename(file));
  const params = { id: held.documentId };
  const version = await client.call(routes.checkIn, { params, form }).catch((error: unknown) => {
    if (!(error instanceof Refused) || !isCheckInQuestion(error.code)) throw error;
    throw new Told(`${error.message}\nTo go on all the same: --yes ${error.code}`);
  });
  await note(file, wish.keep ? { ...held, base: version.label, sha256 } : null);
  const stands = version.standing === 'inForce' ? ', in force' : `, ${version.state}`;
  say(`${held.number} is checked in as ${version.label}${stands}.`);
  if (version.notRead) say(version.notRead);
}
