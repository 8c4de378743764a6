import { type AskedValues, type FieldValue, type OwnField, ownField, type Rulebook } from '@polychron/core';
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
    const account = accountIn(value, ownField(library.rules, name));
    values[name] =
      account === null
        ? (value as FieldValue | null)
        : { person: await memberId(context, library.id, account, tx) };
  }
  return values;
}

/** The account of a person that is named; null where none is. */
function accountIn(value: SentFields[string], field: OwnField | undefined): string | null {
  if (value !== null && typeof value === 'object' && 'account' in value) return value.account;
  const isAccount = field?.kind === 'person' && typeof value === 'string' && value.trim() !== '';
  return isAccount ? value : null;
}
