import type * as contract from '@polychron/contract';
import { accessLibrary } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import { findRegister } from '../store/register.ts';
import { loadRules } from '../store/rules.ts';
import { documentsSeen } from './documentView.ts';

/** A page of the Register. */
export async function readRegister(
  asker: Asker,
  libraryId: string,
  query: contract.DocumentQuery,
): Promise<contract.DocumentList> {
  const { context } = asker;
  const { actor } = await accessLibrary(asker, libraryId);
  const rules = await loadRules(context, libraryId);
  const asked = { query, now: context.clock() };
  const { ids, next, total, about } = await findRegister(context, libraryId, { actor, rules }, asked);
  return { items: await documentsSeen(context, { actor, rules }, ids), next, total, about };
}
