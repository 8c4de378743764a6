import type * as contract from '@polychron/contract';
import type { Asker } from '../access/caller.ts';
import { readMailChoice } from '../reads/outbox.ts';
import { keepMailChoice } from '../store/mail.ts';

/** Keeps how notices come to the caller by mail; an address that is left out stays. */
export async function performChooseMail(
  asker: Asker,
  { mail, address }: { mail: contract.MailChoice['mail']; address?: string | null | undefined },
): Promise<contract.MailChoice> {
  const { context, caller } = asker;
  const present = await readMailChoice(asker);
  const mailAddress = address === undefined ? present.address : address;
  await keepMailChoice(context, caller.id, { mail, mailAddress });
  return readMailChoice(asker);
}
