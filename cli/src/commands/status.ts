import { routes } from '@polychron/contract';
import { join } from 'node:path';
import type { Client } from '../client.ts';
import { contentOf, heldIn } from '../folder.ts';
import { ifMissing } from '../signIn.ts';
import { say } from '../say.ts';

/** What one holds: base, number to come, saves, end; and what of it lies in this folder, changed or not. */
export async function status(client: Client, { folder }: { folder: string }): Promise<void> {
  const [{ held, totals }, here] = await Promise.all([client.call(routes.desk), heldIn(folder)]);
  if (held.length === 0) say('You hold nothing.');
  for (const { id, number, title, custody, toCome } of held) {
    if (!custody) continue;
    const becomes = [toCome?.minor, toCome?.major].filter(Boolean).join(' or ');
    const until =
      custody.until === null
        ? ''
        : `, ${custody.overdue ? 'OVERDUE since' : 'to'} ${custody.until.slice(0, 10)}`;
    say(`${number}\t${custody.base} -> ${becomes}\t${custody.saves} saved${until}\t${title}`);
    for (const [name, note] of Object.entries(here)) {
      if (note.documentId !== id) continue;
      const present = await contentOf(join(folder, name)).catch(ifMissing);
      say(`\t${name}: ${stateOf(present, { noted: note.sha256, theirs: custody.workingCopy?.sha256 })}`);
    }
  }
  if (totals.held > held.length) say(`… and ${totals.held - held.length} more.`);
}

function stateOf(
  present: { sha256: string } | null,
  { noted, theirs }: { noted: string; theirs: string | undefined },
): string {
  if (!present) return 'not here any more';
  if (theirs !== undefined && theirs !== noted) return 'saved from elsewhere since';
  return present.sha256 === noted ? 'as it was saved' : 'changed, not saved';
}
