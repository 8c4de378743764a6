import { type ReactNode, useState } from 'react';

interface Props {
  /** What there is more of, for whoever hears it: "More to do while you hold it". */
  name: `More ${string}`;
  /** Whether it stands open at first. */
  open?: boolean;
  children: ReactNode;
}

/** What is seldom wanted, behind one word. */
export function More({ name, open = false, children }: Props) {
  const [isOpen, setOpen] = useState(open);
  return (
    <>
      <button
        type="button"
        className="quiet more-acts"
        aria-label={name}
        aria-expanded={isOpen}
        onClick={() => setOpen(!isOpen)}
      >
        {isOpen ? 'More:' : 'More …'}
      </button>
      {isOpen && children}
    </>
  );
}
