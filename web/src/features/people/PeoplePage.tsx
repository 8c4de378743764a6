import { useQuery } from '@tanstack/react-query';
import { Tabs } from 'antd';
import { useState } from 'react';
import { Nowhere } from '../../ui/Nowhere.tsx';
import { ownLibrariesQuery, sessionQuery, waysQuery } from '../../parts/queries.ts';
import { Accounts } from './Accounts.tsx';
import { Groups } from './Groups.tsx';
import { Members } from './Members.tsx';
import { NewLibrary } from './NewLibrary.tsx';
import { ProviderMapping } from './ProviderMapping.tsx';
import { Waiting } from '../../ui/Waiting.tsx';
import './people.css';

/** Libraries with their members, groups, accounts. */
export function PeoplePage() {
  const { data: session } = useQuery(sessionQuery);
  const { data: libraries, error } = useQuery(ownLibrariesQuery);
  const { data: ways } = useQuery(waysQuery);
  const [chosen, setChosen] = useState<string | null>(null);
  const [adding, setAdding] = useState(false);
  if (error) return <Nowhere error={error} />;
  if (!session || !libraries) return <Waiting />;
  const managed = libraries.items.filter(({ acts }) => acts.manageMembers.allowed);
  const library = managed.find(({ id }) => id === chosen) ?? managed[0];
  const mayManage = managed.length > 0 || session.systemAdministrator;
  if (!mayManage) return <Nowhere />;
  const members = (
    <div className="people-members">
      <nav aria-label="Libraries">
        {managed.map((each) => (
          <button
            key={each.id}
            type="button"
            className={each.id === library?.id && !adding ? 'chosen' : ''}
            aria-current={each.id === library?.id && !adding}
            onClick={() => {
              setChosen(each.id);
              setAdding(false);
            }}
          >
            <span className="number">{each.code}</span> {each.name}
          </button>
        ))}
        {session.systemAdministrator && (
          <button type="button" className={adding ? 'chosen new' : 'new'} onClick={() => setAdding(true)}>
            New library
          </button>
        )}
      </nav>
      {adding && (
        <NewLibrary
          onLeave={() => setAdding(false)}
          onMade={(id) => {
            setChosen(id);
            setAdding(false);
          }}
        />
      )}
      {!adding && library && <Members key={library.id} library={library} />}
      {!adding && !library && <p className="muted">There is no library yet. Create the first.</p>}
    </div>
  );
  return (
    <main className="people">
      <h1>People and libraries</h1>
      <Tabs
        items={[
          { key: 'members', label: 'Libraries and members', children: members },
          {
            key: 'groups',
            label: 'Groups',
            children: <Groups mayChange={session.systemAdministrator} />,
          },
          {
            key: 'accounts',
            label: 'Accounts',
            children: <Accounts mayAdd={session.systemAdministrator} own={session.account} />,
          },
          ...(session.systemAdministrator && ways?.provider
            ? [{ key: 'provider', label: 'Sign-in', children: <ProviderMapping name={ways.provider} /> }]
            : []),
        ]}
      />
    </main>
  );
}
