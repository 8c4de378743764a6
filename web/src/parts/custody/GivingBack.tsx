import type { Document } from '@polychron/contract';
import { Consequences } from '../../ui/Consequences.tsx';
import { dayTime, saves } from '../../ui/when.ts';
import { useTypedInto } from '../../ui/unfinished.ts';
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
  const typed = useTypedInto(document.id).at(-1)?.typed;
  return (
    <Consequences
      outcomes={[
        {
          label: custody.saves > 0 ? `Give back without ${saves(custody.saves)}` : 'Give back',
          act: () => giveBack(document),
        },
      ]}
      onLeave={onLeave}
    >
      {custody.saves > 0 && (
        <>
          {saves(custody.saves)}, the last {custody.lastSavedAt && dayTime(custody.lastSavedAt)},{' '}
          {custody.saves === 1 ? 'goes' : 'go'}.{' '}
        </>
      )}
      {typed && <>What you typed in the editor and could not be saved stays on this device: “{typed}”. </>}
      {document.number} stands at {document.latest.label} as before and is free for others.
    </Consequences>
  );
}
