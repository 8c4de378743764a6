import type { Document } from '@polychron/contract';
import { Consequences } from '../../ui/Consequences.tsx';
import { dayTime, saves } from '../../ui/when.ts';
import { useGiveBack } from './useGiveBack.ts';

/** What goes when a check-out is given back in which something was saved. */
export function GivingBack({
  document,
  custody,
  onLeave,
}: {
  document: Document;
  custody: NonNullable<Document['custody']>;
  onLeave: () => void;
}) {
  const giveBack = useGiveBack();
  return (
    <Consequences
      outcomes={[{ label: `Give back without ${saves(custody.saves)}`, act: () => giveBack(document) }]}
      onLeave={onLeave}
    >
      {saves(custody.saves)}, the last {custody.lastSavedAt && dayTime(custody.lastSavedAt)},{' '}
      {custody.saves === 1 ? 'goes' : 'go'}. {document.number} stands at {document.latest.label} as before and
      is free for others.
    </Consequences>
  );
}
