import type { HouseWord } from './glossary.ts';
import { useHelp } from './help.ts';
import './Word.css';

/** A word of the house where it heads something; pressed, the glossary says what it means. */
export function Word({ of, children = of }: { of: HouseWord; children?: string }) {
  const ask = useHelp((state) => state.ask);
  return (
    <button type="button" className="word" title={`What “${of}” means`} onClick={() => ask(of)}>
      {children}
    </button>
  );
}
