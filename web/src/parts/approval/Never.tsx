import type { Document } from '@polychron/contract';
import { neverInForce, numberWords } from '@polychron/core';
import { fullTime } from '../../ui/when.ts';

/** Which scheduled versions will never come into force, once another is from a moment on; null: from now. */
export function Never({
  toCome,
  from = null,
}: {
  toCome: Pick<NonNullable<Document['toCome']>, 'scheduled'> | null;
  from?: string | null;
}) {
  return neverInForce(toCome?.scheduled ?? [], from).map(({ label, inForceFrom }) => (
    <strong key={label}>
      {' '}
      {numberWords(label)}, which waits for {fullTime(inForceFrom)}, then never comes into force.
    </strong>
  ));
}
