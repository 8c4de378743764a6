import { routes } from '@polychron/contract';
import { type Client, Told } from '../client.ts';
import { documentCalled } from '../find.ts';
import { contentOf, heldHere, note } from '../folder.ts';
import { say } from '../say.ts';

/**
 * Ends a check-out without a version, named by the document's number or its file here. What was saved in it
 * goes only where that is said. The file stays.
 */
export async function giveBack(
  client: Client,
  name: string,
  { discard }: { discard?: boolean },
): Promise<void> {
  const here = await heldHere(name, client.server);
  const { documentId: id, number } = here ? here.held : await heldElsewhere(client, name);
  const params = { id };
  const { saves } = await client.call(routes.readCheckout, { params });
  const isChanged = here !== null && (await contentOf(here.file)).sha256 !== here.held.sha256;
  if (!discard && (saves > 0 || isChanged)) {
    const goes = [saves === 1 ? '1 save' : `${saves} saves`, ...(isChanged ? ['what is not saved'] : [])];
    throw new Told(`${number}: ${goes.join(' and ')} would go. Give back all the same: --discard`);
  }
  await client.call(routes.giveBack, { params });
  if (here) await note(here.file, null);
  const file = here ? ` ${here.file} stays as it is, and is nothing of the library's.` : '';
  say(`${number} is free again.${file}`);
}

/** A document that one holds without a file of it here. */
async function heldElsewhere(client: Client, name: string): Promise<{ documentId: string; number: string }> {
  const { id, number, custody } = await documentCalled(client, name);
  if (custody?.mine) return { documentId: id, number };
  throw new Told(`${number} is not checked out to you; there is nothing to give back.`);
}
