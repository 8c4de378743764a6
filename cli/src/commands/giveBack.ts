import { routes } from '@polychron/contract';
import { type Client, Told } from '../client.ts';
import { contentOf, heldAs, note } from '../folder.ts';
import { say } from '../say.ts';

/** Ends a check-out without a version. What was saved in it goes only where that is said. The file stays. */
export async function giveBack(
  client: Client,
  path: string,
  { discard }: { discard?: boolean },
): Promise<void> {
  const { file, held } = await heldAs(path, client.server);
  const params = { id: held.documentId };
  const { saves } = await client.call(routes.readCheckout, { params });
  const isChanged = (await contentOf(file)).sha256 !== held.sha256;
  if (!discard && (saves > 0 || isChanged)) {
    const goes = [saves === 1 ? '1 save' : `${saves} saves`, ...(isChanged ? ['what is not saved'] : [])];
    throw new Told(`${held.number}: ${goes.join(' and ')} would go. Give back all the same: --discard`);
  }
  await client.call(routes.giveBack, { params });
  await note(file, null);
  say(`${held.number} is free again. ${file} stays as it is, and is nothing of the library's.`);
}
