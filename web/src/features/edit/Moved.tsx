import { linesOf, mergeText, resolve } from '@polychron/core';
import { Button } from 'antd';
import { useMemo, useState } from 'react';
import { type Choices, openIn, Regions } from '../../parts/merging/Regions.tsx';
import type { Autosave } from './useAutosave.ts';

/**
 * A text that was saved from elsewhere while it is open here: both are put together, or one is chosen.
 * Nothing that was typed is left out unless its button says so.
 */
export function Moved({ saving, other }: { saving: Autosave; other: string }) {
  const { text, base } = saving;
  const [looking, setLooking] = useState(false);
  const [choices, setChoices] = useState<Choices>({});
  const typed = text !== base;
  const regions = useMemo(
    () => (typed && linesOf(text).length <= mostLines ? mergeText(base, other, text) : null),
    [typed, base, other, text],
  );
  const open = regions ? openIn(regions, choices) : 0;
  const together = regions && resolve(regions, choices);
  return (
    <section className="consequences edit-moved-here" aria-label="Consequences">
      <p>
        It was saved from elsewhere{typed ? ' while you typed' : ''}.{' '}
        {typed
          ? `Yours has ${text.split('\n').length} lines, the other ${other.split('\n').length}. Yours is kept on this device until you choose.`
          : 'Nothing of yours is unsaved.'}
      </p>
      <div className="acts">
        {regions && (
          <Button
            type="primary"
            disabled={together === null}
            onClick={() => saving.takeBoth((together ?? []).join(''))}
          >
            Put both together
            {open > 0 && `: ${open} ${open === 1 ? 'place needs' : 'places need'} your choice`}
          </Button>
        )}
        {regions && (
          <button
            type="button"
            className="quiet"
            aria-expanded={looking}
            onClick={() => setLooking(!looking)}
          >
            Compare them
          </button>
        )}
        {typed && <Button onClick={saving.keepMine}>Save mine over it</Button>}
        <Button onClick={saving.takeOther}>
          {typed ? 'Use the other, drop mine' : 'Go on with the other'}
        </Button>
      </div>
      {regions && (looking || open > 0) && (
        <div className="edit-regions">
          <Regions
            regions={regions}
            heads={['As you had it', 'As it is saved now', 'As you typed it']}
            unit="line"
            choices={choices}
            onChoose={(index, choice) => setChoices({ ...choices, [index]: choice })}
          />
        </div>
      )}
    </section>
  );
}

/** Texts that are put together in the page, in lines; of longer ones one is chosen. */
const mostLines = 20_000;
