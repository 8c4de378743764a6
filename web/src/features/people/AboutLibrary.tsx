import { type Library, routes } from '@polychron/contract';
import { useQueryClient } from '@tanstack/react-query';
import { Button, Input } from 'antd';
import { useState } from 'react';
import { Link } from 'react-router-dom';
import { call } from '../../ui/api.ts';
import { Consequences } from '../../ui/Consequences.tsx';
import { useMessages } from '../../ui/messages.tsx';
import { Refusal } from '../../ui/Refusal.tsx';
import { date } from '../../ui/when.ts';
import { useUnfinished } from '../../ui/unfinished.ts';

type Doing = 'renaming' | 'closing' | null;

/** What a library is called and for, and whether it is open; for those who may, how to change that. */
export function AboutLibrary({ library }: { library: Library }) {
  const client = useQueryClient();
  const message = useMessages();
  const [doing, setDoing] = useState<Doing>(null);
  const [error, setError] = useState<unknown>(null);
  const { id, name, closed, acts } = library;
  const setClosed = async (to: boolean): Promise<void> => {
    await call(routes.changeLibrary, { params: { id }, body: { closed: to } });
    void message.success(to ? `${name} is closed.` : `${name} is open again.`);
    await client.invalidateQueries();
  };
  if (doing === 'renaming') return <Renaming library={library} onLeave={() => setDoing(null)} />;
  return (
    <header className="people-head">
      <h2>{name}</h2>
      <p className="muted">{library.purpose}</p>
      {closed && <p>Closed since {date(closed)}: its documents can be read, nothing in it changes.</p>}
      <p className="acts">
        {library.roles.length > 0 && (
          <>
            <Link to={`/${library.code}`}>Register</Link>
            <Link to={`/${library.code}/rulebook`}>Rulebook</Link>
          </>
        )}
        {acts.changeLibrary.allowed && (
          <>
            <button type="button" className="quiet" onClick={() => setDoing('renaming')}>
              Change name, code and purpose
            </button>
            {closed ? (
              <button
                type="button"
                className="quiet"
                onClick={() => void setClosed(false).catch((refusal: unknown) => setError(refusal))}
              >
                Open it again
              </button>
            ) : (
              <button type="button" className="quiet" onClick={() => setDoing('closing')}>
                Close the library
              </button>
            )}
          </>
        )}
      </p>
      <Refusal error={error} onLeave={() => setError(null)} />
      {doing === 'closing' && (
        <Consequences
          outcomes={[{ label: `Close ${name}`, act: () => setClosed(true) }]}
          onLeave={() => setDoing(null)}
        >
          Whoever sees documents of {name} still does. Nobody can check out, save, decide or set rules here
          until it is opened again; nothing is lost.
        </Consequences>
      )}
    </header>
  );
}

function Renaming({ library, onLeave }: { library: Library; onLeave: () => void }) {
  const client = useQueryClient();
  const form = useUnfinished(
    { key: `library ${library.id}`, words: `Name, code and purpose of ${library.name}` },
    { name: library.name, code: library.code, purpose: library.purpose },
  );
  const { name, code, purpose } = form.value;
  const [error, setError] = useState<unknown>(null);
  const save = async (): Promise<void> => {
    try {
      await call(routes.changeLibrary, { params: { id: library.id }, body: { name, code, purpose } });
      form.done();
      await client.invalidateQueries();
      onLeave();
    } catch (refusal) {
      setError(refusal);
    }
  };
  return (
    <form
      className="people-head"
      aria-label={`Name, code and purpose of ${library.name}`}
      onSubmit={(event) => {
        event.preventDefault();
        void save();
      }}
    >
      <label>
        Name
        <Input
          autoFocus
          value={name}
          maxLength={300}
          onChange={(event) => form.change({ name: event.target.value })}
        />
      </label>
      <label>
        Code
        <Input
          className="number"
          value={code}
          maxLength={10}
          onChange={(event) => form.change({ code: event.target.value.toUpperCase() })}
        />
      </label>
      {code !== library.code && (
        <p className="muted">
          Links with {library.code} will lead on here; no other library can have that code. Numbers that were
          given stay.
        </p>
      )}
      <label>
        Purpose
        <Input.TextArea
          autoSize
          value={purpose}
          maxLength={2000}
          onChange={(event) => form.change({ purpose: event.target.value })}
        />
      </label>
      <div className="acts">
        <Button htmlType="submit" disabled={name.trim() === '' || code === ''}>
          {code === library.code ? 'Save' : `Save, with the code ${code}`}
        </Button>
        <button type="button" className="quiet" onClick={onLeave}>
          Cancel
        </button>
      </div>
      <Refusal error={error} onLeave={() => setError(null)} />
    </form>
  );
}
