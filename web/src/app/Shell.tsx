import { CaretDownIcon } from '@phosphor-icons/react';
import { routes } from '@polychron/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Dropdown, Popover } from 'antd';
import { type FormEvent, useRef, useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { Link, Navigate, NavLink, Outlet, useLocation, useNavigate, useSearchParams } from 'react-router-dom';
import { call, ProblemError } from '../ui/api.ts';
import { librariesQuery, ownLibrariesQuery, sessionQuery, unreadQuery } from '../parts/queries.ts';
import { useSeenAs } from '../ui/seenAs.ts';
import { Help } from './Help.tsx';
import { LostLine } from './LostLine.tsx';
import { Mark } from '../ui/Mark.tsx';
import { Nowhere } from '../ui/Nowhere.tsx';
import { usePreferences } from './preferences.ts';
import { SeenAsBanner, SeenAsChoice } from './SeenAsBar.tsx';
import { useLibrary } from '../parts/useLibrary.ts';
import { TimeLine } from './TimeLine.tsx';
import { UploadsLine } from './UploadsLine.tsx';
import { useLive } from './useLive.ts';
import './Shell.css';

/**
 * The frame around every screen: the slim bar, the narrow spine. Whoever is not signed in is led to sign in,
 * and back.
 */
export function Shell() {
  const { data: session, error } = useQuery(sessionQuery);
  const location = useLocation();
  const as = useSeenAs((state) => state.as);
  useLive(Boolean(session));
  if (error instanceof ProblemError && error.problem.status === 401) {
    return <Navigate to="/sign-in" replace state={{ from: `${location.pathname}${location.search}` }} />;
  }
  if (error) return <Nowhere error={error} />;
  if (!session) return <LostLine />;
  return (
    <div className={as === null ? 'frame' : 'frame frame-seen-as'}>
      <a href="#screen" className="skip">
        Skip to the screen
      </a>
      <TopBar name={session.name} systemAdministrator={session.systemAdministrator} />
      <Spine />
      <div id="screen" className="screen">
        <LostLine />
        <TimeLine />
        <UploadsLine />
        <SeenAsBanner />
        <Outlet />
      </div>
    </div>
  );
}

function TopBar({ name, systemAdministrator }: { name: string; systemAdministrator: boolean }) {
  const library = useLibrary();
  const { data: libraries } = useQuery(librariesQuery);
  const navigate = useNavigate();
  const others = libraries?.items.filter((each) => each.id !== library?.id && each.roles.length > 0) ?? [];
  return (
    <header className="top">
      <Link to="/" className="mark" aria-label="Polychron">
        <Mark />
      </Link>
      {others.length > 0 ? (
        <Dropdown
          trigger={['click']}
          menu={{
            items: others.map((each) => ({ key: each.code, label: each.name })),
            onClick: ({ key }) => void navigate(`/${key}`),
          }}
        >
          <button type="button" className="library-name">
            <span>{library?.name ?? 'Libraries'}</span>
            <CaretDownIcon size={12} weight="bold" />
          </button>
        </Dropdown>
      ) : (
        <span className="library-name">
          <span>{library?.name}</span>
        </span>
      )}
      {library && <Find code={library.code} />}
      <span className="top-gap" />
      {library && <SeenAsChoice library={library} />}
      <Person name={name} systemAdministrator={systemAdministrator} />
    </header>
  );
}

/** The find field; `/` leads to it. It filters the Register. */
function Find({ code }: { code: string }) {
  const [search] = useSearchParams();
  const navigate = useNavigate();
  const field = useRef<HTMLInputElement>(null);
  // By what the key says, not where it lies: on many keyboards `/` is elsewhere.
  useHotkeys('/', () => field.current?.select(), { useKey: true, preventDefault: true });
  const find = (event: FormEvent): void => {
    event.preventDefault();
    const next = new URLSearchParams(search);
    const text = field.current?.value.trim() ?? '';
    if (text) next.set('q', text);
    else next.delete('q');
    void navigate(`/${code}?${next.toString()}`);
  };
  return (
    <form className="find" role="search" onSubmit={find}>
      <input
        key={search.get('q') ?? ''}
        ref={field}
        name="q"
        defaultValue={search.get('q') ?? ''}
        placeholder="Find a document by number, title or comment … press /"
        aria-label="Find a document"
        maxLength={200}
      />
    </form>
  );
}

function Person({ name, systemAdministrator }: { name: string; systemAdministrator: boolean }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const { scheme, setScheme } = usePreferences();
  const { data: own } = useQuery(ownLibrariesQuery);
  const managesPeople = systemAdministrator || own?.items.some(({ acts }) => acts.manageMembers.allowed);
  const leave = async (): Promise<void> => {
    await call(routes.signOut);
    client.clear();
    useSeenAs.getState().look(null);
    void navigate('/sign-in');
  };
  const items = [
    ...(managesPeople ? [{ key: 'people', label: 'People and libraries' }] : []),
    { key: 'account', label: 'My account' },
    { type: 'divider' as const },
    { key: 'light', label: 'Light' },
    { key: 'dark', label: 'Dark' },
    { key: 'system', label: 'As on this computer' },
    { type: 'divider' as const },
    { key: 'leave', label: 'Sign out' },
  ];
  return (
    <Dropdown
      trigger={['click']}
      menu={{
        items,
        selectedKeys: [scheme ?? 'system'],
        onClick: ({ key }) => {
          if (key === 'leave') void leave();
          else if (key === 'people' || key === 'account') void navigate(`/${key}`);
          else setScheme(key === 'system' ? null : (key as 'light' | 'dark'));
        },
      }}
    >
      <button type="button" className="person">
        {name}
      </button>
    </Dropdown>
  );
}

function Spine() {
  const library = useLibrary();
  const { pathname } = useLocation();
  const [helping, setHelping] = useState(false);
  const unread = useQuery(unreadQuery).data?.unread ?? 0;
  useHotkeys('?', () => setHelping((open) => !open), { useKey: true, preventDefault: true });
  return (
    <nav className="spine" aria-label="Main">
      <NavLink to="/desk">
        Desk
        {unread > 0 && (
          <>
            , <span className="spine-new">{unread} new</span>
          </>
        )}
      </NavLink>
      {library && (
        <>
          <NavLink
            to={`/${library.code}`}
            end={false}
            className={() => (/\/(in-force|shelf)$/.test(pathname) ? '' : 'active')}
          >
            Register
          </NavLink>
          <NavLink to={`/${library.code}/in-force`}>In force</NavLink>
        </>
      )}
      <span className="spine-gap" />
      <Popover
        trigger="click"
        placement="rightBottom"
        open={helping}
        onOpenChange={setHelping}
        content={<Help />}
      >
        <button type="button" className="spine-help">
          Help
        </button>
      </Popover>
    </nav>
  );
}
