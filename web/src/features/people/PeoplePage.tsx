import { useQuery } from '@tanstack/react-query';
import { Input, Tabs } from 'antd';
import { useState } from 'react';
import { Nowhere } from '../../ui/Nowhere.tsx';
import { ownLibrariesQuery, sessionQuery, waysQuery } from '../../parts/queries.ts';
import { Accounts } from './Accounts.tsx';
import { FirstSteps } from './FirstSteps.tsx';
import { Groups } from './Groups.tsx';
import { Members } from './Members.tsx';
import { NewLibrary } from './NewLibrary.tsx';
import { ProviderMapping } from './ProviderMapping.tsx';
import { Waiting } from '../../ui/Waiting.tsx';
import { has } from '../../ui/has.ts';
import './people.css';

/** So many libraries are found by looking. */
const fewLibraries = 6;

/** Libraries with their members, groups, accounts. */
export function PeoplePage() {
  const { data: session } = useQuery(sessionQuery);
  const { data: libraries, error } = useQuery(ownLibrariesQuery);
  const { data: ways } = useQuery(waysQuery);
  const [chosen, setChosen] = useState<string | null>(null);
  const [adding, setAdding] = useState(false);
  const [sought, setSought] = useState('');
  const [tab, setTab] = useState('members');
  // Whoever comes to an empty site is led on while they stay here.
  const [isLed, setLed] = useState(false);
  if (error) return <Nowhere error={error} />;
  if (!session || !libraries) return <Waiting screen />;
  const managed = libraries.items.filter(({ acts }) => acts.manageMembers.allowed);
  const library = managed.find(({ id }) => id === chosen) ?? managed[0];
  const found = managed.filter(({ code, name }) => has([code, name], sought));
  const mayManage = managed.length > 0 || session.systemAdministrator;
  if (!mayManage) return <Nowhere />;
  if (!isLed && session.systemAdministrator && libraries.items.length === 0) setLed(true);
  const members = (
    <div className="people-members">
      <nav aria-label="Libraries">
        {managed.length > fewLibraries && (
          <Input
            allowClear
            aria-label="Find a library"
            placeholder="Find by name or code"
            value={sought}
            onChange={(event) => setSought(event.target.value)}
          />
        )}
        {found.length === 0 && managed.length > 0 && <p className="muted">No library is called so.</p>}
        {found.map((each) => (
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
            {each.closed && <span className="muted"> closed</span>}
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
      {isLed && (
        <FirstSteps
          library={libraries.items[0] ?? null}
          onAccounts={() => setTab('accounts')}
          onLibrary={() => {
            setTab('members');
            setAdding(true);
          }}
        />
      )}
      <Tabs
        activeKey={tab}
        onChange={setTab}
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
