import { type Document, routes } from '@polychron/contract';
import { useQueryClient } from '@tanstack/react-query';
import { Button } from 'antd';
import { useState } from 'react';
import { sentenceOf, upload } from '../../ui/api.ts';
import { LandingOf } from '../checkIn/LandingOf.tsx';
import type { Meant } from './meantFor.ts';
import type { DroppedWaiting } from './useDropped.ts';
import { returnedAmong, Together } from './Together.tsx';
import { useMessages } from '../../ui/messages.tsx';
import { useEscape } from '../../ui/useEscape.ts';
import './drop.css';

interface Props extends DroppedWaiting {
  /** Registers files as documents of their own; left out where that cannot be done here. */
  onNew?: ((files: File[]) => void) | undefined;
}

/** Dropped files, each with the document it is meant for; asked where that is not clear. */
export function Dropped({ meant: items, onNew, onPlaced, onLeave }: Props) {
  const [only] = items.length === 1 ? items : [];
  const [chosen, setChosen] = useState<{ meant: Meant; document: Document } | null>(() =>
    only?.clear && only.documents[0] ? { meant: only, document: only.documents[0] } : null,
  );
  useEscape(onLeave);
  const returned = returnedAmong(items);
  const done = (one: Meant): void => {
    if (chosen?.meant === one) setChosen(null);
    onPlaced(one);
  };
  const asNew = (one: Meant): void => {
    onNew?.([one.file]);
    done(one);
  };
  return (
    <section className="dropped" aria-label="Dropped files">
      {returned.length > 1 && <Together returned={returned} onPlaced={done} />}
      <ol>
        {items.map((one, index) => (
          <li key={`${index} ${one.file.name}`}>
            <strong>{one.file.name}</strong> <span className="muted">{one.why}</span>
            {chosen?.meant === one ? (
              <LandingOf
                document={chosen.document}
                file={one.file}
                named
                onLeave={() => (one.clear && items.length === 1 ? onLeave() : setChosen(null))}
                onDone={() => done(one)}
              />
            ) : (
              <span className="acts">
                {one.documents.map((document) => (
                  <Button key={document.id} onClick={() => setChosen({ meant: one, document })}>
                    Into {document.number} {document.title}
                  </Button>
                ))}
              </span>
            )}
            <span className="acts">
              {onNew && (
                <button type="button" className="quiet" onClick={() => asNew(one)}>
                  As a new document
                </button>
              )}
              <OnDesk file={one.file} onDone={() => done(one)} />
            </span>
          </li>
        ))}
      </ol>
      {!(items.length === 1 && chosen) && (
        <button type="button" className="quiet" onClick={onLeave}>
          Cancel
        </button>
      )}
    </section>
  );
}

/** Keeps the file on the Desk, from where it can be brought in later. */
function OnDesk({ file, onDone }: { file: File; onDone: () => void }) {
  const client = useQueryClient();
  const message = useMessages();
  const [busy, setBusy] = useState(false);
  const keep = async (): Promise<void> => {
    setBusy(true);
    try {
      await upload(routes.addDeskFile, {}, { file }).done;
      void message.success(`${file.name} is on your Desk.`);
      await client.invalidateQueries({ queryKey: ['desk'] });
      onDone();
    } catch (refusal) {
      void message.error(sentenceOf(refusal), 8);
      setBusy(false);
    }
  };
  return (
    <button type="button" className="quiet" disabled={busy} onClick={() => void keep()}>
      Keep it on the Desk
    </button>
  );
}
