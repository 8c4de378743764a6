import type { Desk } from '@polychron/contract';
import { Link } from 'react-router-dom';
import { Consequences } from '../ui/Consequences.tsx';

interface Props {
  /** What is still held. */
  held: Desk['held'];
  onSignOut: () => Promise<void>;
  onLeave: () => void;
}

/** Signing out while one holds documents: what that means for others, said before. */
export function Leaving({ held, onSignOut, onLeave }: Props) {
  return (
    <Consequences
      outcomes={[{ label: 'Sign out and keep them', act: onSignOut, primary: true }]}
      onLeave={onLeave}
    >
      You hold {held.map(({ number }) => number).join(', ')}: nobody else can change{' '}
      {held.length === 1 ? 'it' : 'them'} until you check in or give back. What you saved stays.{' '}
      <Link to="/desk">Go to the Desk</Link>
    </Consequences>
  );
}
