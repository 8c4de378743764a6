import { CaretDownIcon, CheckCircleIcon, ListDashesIcon, QuestionIcon } from '@phosphor-icons/react';
import { routes } from '@polychron/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Dropdown, Popover } from 'antd';
import { type FormEvent, useRef } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { Link, Navigate, NavLink, Outlet, useLocation, useNavigate, useSearchParams } from 'react-router-dom';
import { call, ProblemError } from '../shared/api.ts';
import { librariesQuery, sessionQuery } from '../shared/queries.ts';
import { Help } from './Help.tsx';
import { Nowhere } from './Nowhere.tsx';
import { usePreferences } from './preferences.ts';
import { useLibrary } from './useLibrary.ts';

/** The frame around every screen: the slim bar, the narrow spine. Whoever is not signed in is led to sign in, and back. */
export function Shell() {
  const { data: session, error } = useQuery(sessionQuery);
  const location = useLocation();
  if (error instanceof ProblemError && error.problem.status === 401) {
    return <Navigate to="/sign-in" replace state={{ from: `${location.pathname}${location.search}` }} />;
  }
  if (error) return <Nowhere error={error} />;
  if (!session) return null;
  return (
    <div className="frame">
      <a href="#screen" className="skip">Skip to the screen</a>
      <TopBar name={session.name} />
      <Spine />
      <div id="screen" className="screen"><Outlet /></div>
    </div>
  );
}

function TopBar({ name }: { name: string }) {
  const library = useLibrary();
  const { data: libraries } = useQuery(librariesQuery);
  const navigate = useNavigate();
  const others = libraries?.items.filter((each) => each.id !== library?.id && each.roles.length > 0) ?? [];
  return (
    <header className="top">
      <Link to="/" className="mark" aria-label="Polychron"><Mark /></Link>
      {others.length > 0 ? (
        <Dropdown trigger={['click']} menu={{ items: others.map((each) => ({ key: each.code, label: each.name })), onClick: ({ key }) => void navigate(`/${key}`) }}>
          <button type="button" className="library-name">{library?.name ?? 'Libraries'}<CaretDownIcon size={12} weight="bold" /></button>
        </Dropdown>
      ) : <span className="library-name">{library?.name}</span>}
      {library && <Find code={library.code} />}
      <span className="top-gap" />
      <Person name={name} />
    </header>
  );
}

/** The find field; `/` leads to it. It filters the Register. */
function Find({ code }: { code: string }) {
  const [search] = useSearchParams();
  const navigate = useNavigate();
  const field = useRef<HTMLInputElement>(null);
  useHotkeys('slash', (event) => { event.preventDefault(); field.current?.select(); });
  const find = (event: FormEvent): void => {
    event.preventDefault();
    const next = new URLSearchParams(search);
    const text = field.current?.value.trim() ?? '';
    if (text) next.set('q', text); else next.delete('q');
    void navigate(`/${code}?${next.toString()}`);
  };
  return (
    <form className="find" role="search" onSubmit={find}>
      <input key={search.get('q') ?? ''} ref={field} name="q" defaultValue={search.get('q') ?? ''} placeholder="Find a document by number, title or comment"
        aria-label="Find a document" maxLength={200} />
      <kbd>/</kbd>
    </form>
  );
}

function Person({ name }: { name: string }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const { scheme, setScheme } = usePreferences();
  const leave = async (): Promise<void> => {
    await call(routes.signOut);
    client.clear();
    void navigate('/sign-in');
  };
  const items = [
    { key: 'light', label: 'Light paper' }, { key: 'dark', label: 'Dark paper' }, { key: 'system', label: 'As the system' },
    { type: 'divider' as const }, { key: 'leave', label: 'Sign out' },
  ];
  return (
    <Dropdown trigger={['click']} menu={{
      items, selectedKeys: [scheme ?? 'system'],
      onClick: ({ key }) => { if (key === 'leave') void leave(); else setScheme(key === 'system' ? null : key as 'light' | 'dark'); },
    }}>
      <button type="button" className="person">{name}</button>
    </Dropdown>
  );
}

function Spine() {
  const library = useLibrary();
  return (
    <nav className="spine" aria-label="Main">
      {library && (
        <>
          <NavLink to={`/${library.code}`} end={false} className={({ isActive }) => (isActive && !location.pathname.endsWith('/in-force') ? 'active' : '')}><ListDashesIcon size={20} />Register</NavLink>
          <NavLink to={`/${library.code}/in-force`}><CheckCircleIcon size={20} />In force</NavLink>
        </>
      )}
      <span className="spine-gap" />
      <Popover trigger="click" placement="rightBottom" content={<Help />}>
        <button type="button" className="spine-help"><QuestionIcon size={20} />Help</button>
      </Popover>
    </nav>
  );
}

/** The mark: a draft rising to a published version. */
export function Mark() {
  return (
    <svg width="30" height="30" viewBox="0 0 32 32" aria-hidden="true">
      <path d="M3 23h6c7 0 6-14 13-14h7" fill="none" stroke="var(--published)" strokeWidth="2.4" />
      <circle cx="10" cy="23" r="4" fill="var(--paper)" stroke="var(--draft)" strokeWidth="2.4" />
      <circle cx="22" cy="9" r="4.6" fill="var(--published)" />
    </svg>
  );
}
