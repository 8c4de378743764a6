import type * as contract from '@polychron/contract';
import type { Asker } from '../access/caller.ts';
import { leaptFrom } from '../store/clock.ts';
import { mayAnywhere } from '../store/members.ts';
import { instant } from './versionView.ts';

/** Whether somebody may say that the time is right: who answers for what is removed, or for the site. */
export const mayConfirmTime = async ({ context, caller }: Asker): Promise<boolean> =>
  caller.systemAdministrator || mayAnywhere(context, caller.id, 'recover');

/** What time it is here, and whether it is believed. */
export async function readClock(asker: Asker): Promise<contract.Clock> {
  const { context } = asker;
  return {
    now: context.clock().toISOString(),
    leaptFrom: instant(await leaptFrom(context)),
    mayConfirm: await mayConfirmTime(asker),
  };
}
