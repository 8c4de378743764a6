import { type DeskFile, routes } from '@polychron/contract';
import { useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { Link } from 'react-router-dom';
import { Sending } from '../../parts/Sending.tsx';
import { addressOf, call, download, upload, type Upload } from '../../ui/api.ts';
import { Consequences } from '../../ui/Consequences.tsx';
import { Refusal } from '../../ui/Refusal.tsx';
import { bytes, dayTime } from '../../ui/when.ts';
import { useMessages } from '../../ui/messages.tsx';

/** What can be done with a file of one's own. */
export function FileActs({ file }: { file: DeskFile }) {
  const client = useQueryClient();
  const message = useMessages();
  const [throwing, setThrowing] = useState(false);
  const [steps, setSteps] = useState(false);
  const [share, setShare] = useState<number | null>(null);
  const [error, setError] = useState<unknown>(null);
  const sending = useRef<Upload<DeskFile> | null>(null);
  const writeBack = async (edited: File | undefined): Promise<void> => {
    if (!edited) return;
    setError(null);
    setShare(0);
    sending.current = upload(routes.saveDeskFile, { id: file.id }, { file: edited }, setShare);
    try {
      await sending.current.done;
      void message.success(`${edited.name} is saved; what the copy said before is gone.`);
      await client.invalidateQueries({ queryKey: ['desk'] });
    } catch (refusal) {
      setError(refusal);
    } finally {
      setShare(null);
    }
  };
  const remove = async (): Promise<void> => {
    await call(routes.removeDeskFile, { params: { id: file.id } });
    void message.success(`${file.fileName} is thrown away.`);
    await client.invalidateQueries({ queryKey: ['desk'] });
  };
  if (throwing) {
    return (
      <Consequences
        outcomes={[{ label: `Throw ${file.fileName} away`, act: remove }]}
        onLeave={() => setThrowing(false)}
      >
        {file.fileName} ({bytes(file.size)}
        {file.saves.length > 0 &&
          `, with ${file.saves.length} earlier ${file.saves.length === 1 ? 'save' : 'saves'}`}
        ) goes for good{file.document ? `; the versions of ${file.document.number} stay as they are` : ''}.
      </Consequences>
    );
  }
  return (
    <>
      {file.editable && <Link to={`/desk/files/${file.id}/edit`}>Edit</Link>}
      <Link to={`/desk/files/${file.id}/bring-in`}>Bring in</Link>
      {file.kind === 'looseCopy' && (
        <label className="quiet">
          Save the edited file
          <input
            type="file"
            className="unseen"
            disabled={share !== null}
            onChange={(event) => {
              void writeBack(event.target.files?.[0]);
              event.target.value = '';
            }}
          />
        </label>
      )}
      <button
        type="button"
        className="quiet"
        onClick={() => download(addressOf(routes.deskFileContent, { params: { id: file.id } }))}
      >
        Download
      </button>
      {file.saves.length > 0 && (
        <button type="button" className="quiet" aria-expanded={steps} onClick={() => setSteps(!steps)}>
          Earlier saves
        </button>
      )}
      <button type="button" className="quiet" onClick={() => setThrowing(true)}>
        Throw away
      </button>
      <Sending share={share} onCancel={() => sending.current?.cancel()} />
      <Refusal error={error} onLeave={() => setError(null)} />
      {steps && (
        <ol className="steps" aria-label="Earlier saves">
          {file.saves.map((save) => (
            <li key={save.position}>
              <span>{dayTime(save.at)}</span> <span className="muted">{bytes(save.size)}</span>
              <button
                type="button"
                className="quiet"
                onClick={() =>
                  download(
                    addressOf(routes.deskSaveContent, { params: { id: file.id, position: save.position } }),
                  )
                }
              >
                Download
              </button>
            </li>
          ))}
        </ol>
      )}
    </>
  );
}
