import { useState } from 'react';

/** So many names are read at a glance. */
const atAGlance = 8;

/** Names of people: a few stand there, many are a number that unfolds. */
export function Names({ names, none = 'nobody' }: { names: readonly string[]; none?: string }) {
  const [isOpen, setOpen] = useState(false);
  if (names.length === 0) return <span className="muted">{none}</span>;
  if (names.length <= atAGlance) return <bdi>{names.join(', ')}</bdi>;
  return (
    <>
      <button type="button" className="quiet" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
        {names.length} people
      </button>
      {isOpen && <bdi>: {names.join(', ')}</bdi>}
    </>
  );
}
