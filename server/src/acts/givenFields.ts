import { type AskedValues, type FieldValue, ownField, type Rulebook } from '@polychron/core';
import { memberId } from '../access/actor.ts';
import type { Context } from '../context.ts';
import { ownAmong, type SentFields } from '../reads/fieldsView.ts';
import type { Tx } from '../store/database.ts';

/**
 * Fields of a library's own as core takes them: people by id, null what is emptied. What does not fit its
 * field is left for core to refuse.
 * @throws Refused `account-unknown`
 */
export async function ownValues(
  context: Context,
  library: { id: string; rules: Rulebook },
  sent: SentFields,
  tx: Tx,
): Promise<AskedValues> {
  const values: Record<string, FieldValue | null> = {};
  for (const [name, value = null] of Object.entries(ownAmong(sent))) {
    const isAccount = ownField(library.rules, name)?.kind === 'person' && typeof value === 'string';
    values[name] =
      isAccount && value.trim() !== '' ? { person: await memberId(context, library.id, value, tx) } : value;
  }
  return values;
}
