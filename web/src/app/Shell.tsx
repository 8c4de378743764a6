import { CaretDownIcon } from '@phosphor-icons/react';
import { type Desk, routes } from '@polychron/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Dropdown, Popover } from 'antd';
import { type FormEvent, lazy, Suspense, useEffect, useRef, useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { Link, Navigate, NavLink, Outlet, useLocation, useNavigate, useSearchParams } from 'react-router-dom';
import { call, isSignedOut } from '../ui/api.ts';
import {
  deskQuery,
  librariesQuery,
  ownLibrariesQuery,
  sessionQuery,
  waitingQuery,
} from '../parts/queries.ts';
import { FindMenu } from '../ui/FindMenu.tsx';
import { useHelp } from '../ui/help.ts';
import { useSession } from '../ui/session.ts';
import { readUnfinished, useUnfinishedForms } from '../ui/unfinished.ts';
import { ScreenTitle } from './ScreenTitle.tsx';
import { useLooking, useOnlyLooks } from '../ui/looking.ts';
import { AsOfChoice } from './AsOfBar.tsx';
import { LostLine } from './LostLine.tsx';
import { MessageRoom } from '../ui/messages.tsx';
import { Mark } from '../ui/Mark.tsx';
import { Nowhere } from '../ui/Nowhere.tsx';
import { usePreferences } from './preferences.ts';
import { SeenAsChoice } from './SeenAsBar.tsx';
import { useAddressSince, useLastLibrary, useLibrary } from '../parts/useLibrary.ts';
import { TimeLine } from './TimeLine.tsx';
import { useUploads } from './uploads.ts';
import { useLive } from './useLive.ts';
import { Waiting } from '../ui/Waiting.tsx';
import './Shell.css';
import './narrow.css';

// None of these is there at once.
const Help = lazy(async () => ({ default: (await import('./Help.tsx')).Help }));
const SignInAgain = lazy(async () => ({ default: (await import('./SignInAgain.tsx')).SignInAgain }));
const Leaving = lazy(async () => ({ default: (await import('./Leaving.tsx')).Leaving }));
const AsOfBanner = lazy(async () => ({ default: (await import('./AsOfBanner.tsx')).AsOfBanner }));
const SeenAsBanner = lazy(async () => ({ default: (await import('./SeenAsBanner.tsx')).SeenAsBanner }));
const UnfinishedHere = lazy(async () => ({
  default: (await import('./UnfinishedHere.tsx')).UnfinishedHere,
}));
const UploadsLine = lazy(async () => ({ default: (await import('./UploadsLine.tsx')).UploadsLine }));

/**
 * The frame around every screen: the slim bar, the narrow spine. Whoever is not signed in is led to sign in,
 * and back.
 */
export function Shell() {
  const { data: session, error } = useQuery(sessionQuery);
  const location = useLocation();
  const onlyLooks = useOnlyLooks();
  const sends = useUploads(({ items }) => items.length > 0);
  const [leaving, setLeaving] = useState<Desk['held']>([]);
  const signOut = useSignOut();
  const addressSince = useAddressSince();
  const isSeenAs = useLooking(({ as }) => as !== null);
  const isPast = useLooking(({ at }) => at !== null);
  const hasUnfinished = useUnfinishedForms(({ forms, keepsNothing }) => forms.size > 0 || keepsNothing);
  const ended = useSession((here) => here.ended);
  const account = session?.account;
  const isRead = useUnfinishedForms((store) => store.account !== null && store.account === account);
  useEffect(() => {
    if (account === undefined) return;
    useSession.getState().begin(account);
    void readUnfinished(account);
  }, [account]);
  useLive(Boolean(session) && !ended);
  if (isSignedOut(error)) {
    return <Navigate to="/sign-in" replace state={{ from: `${location.pathname}${location.search}` }} />;
  }
  if (error) return <Nowhere error={error} />;
  if (addressSince !== null) return <Navigate to={addressSince} replace />;
  if (!session || !isRead) return <LostLine />;
  return (
    <div className={onlyLooks ? 'frame frame-seen-as' : 'frame'}>
      <a href="#screen" className="skip">
        Skip to the screen
      </a>
      <TopBar
        name={session.name}
        systemAdministrator={session.systemAdministrator}
        onLeave={(held) => (held.length > 0 ? setLeaving(held) : void signOut())}
      />
      <Spine />
      <div id="screen" className="screen">
        {ended && (
          <Suspense>
            <SignInAgain account={session.account} />
          </Suspense>
        )}
        <LostLine />
        <TimeLine />
        {hasUnfinished && (
          <Suspense>
            <UnfinishedHere />
          </Suspense>
        )}
        {sends && (
          <Suspense>
            <UploadsLine />
          </Suspense>
        )}
        <Suspense>
          {isSeenAs && <SeenAsBanner />}
          {isPast && <AsOfBanner />}
        </Suspense>
        {leaving.length > 0 && (
          <Suspense>
            <Leaving held={leaving} onSignOut={signOut} onLeave={() => setLeaving([])} />
          </Suspense>
        )}
        <Outlet />
      </div>
      <ScreenTitle />
    </div>
  );
}

/** Ends the session, and what this page knows of it. */
function useSignOut(): () => Promise<void> {
  const client = useQueryClient();
  const navigate = useNavigate();
  return async () => {
    await call(routes.signOut);
    useSession.getState().leave();
    client.clear();
    useLooking.getState().look(null);
    useLooking.getState().lookAt(null);
    void navigate('/sign-in');
  };
}

interface PersonProps {
  name: string;
  systemAdministrator: boolean;
  /** Asks to sign out, with what is still held. */
  onLeave: (held: Desk['held']) => void;
}

function TopBar(props: PersonProps) {
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
        <FindMenu
          find="Find a library"
          items={others.map(({ code, name }) => ({ key: code, label: name, words: code }))}
          onChoose={(code) => void navigate(`/${code}`)}
        >
          <button type="button" className="library-name">
            <span>{library?.name ?? 'Libraries'}</span>
            <CaretDownIcon size={12} weight="bold" />
          </button>
        </FindMenu>
      ) : (
        <span className="library-name">
          <span>{library?.name}</span>
        </span>
      )}
      <Find code={library?.code} />
      <MessageRoom />
      <AsOfChoice code={library?.code} />
      {library && <SeenAsChoice library={library} />}
      <Person {...props} />
    </header>
  );
}

/**
 * The find field; `/` leads to it. In a library it filters the Register, elsewhere it looks in all of them.
 */
function Find({ code }: { code: string | undefined }) {
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
    void navigate(code === undefined ? `/find?${next.toString()}` : `/${code}?${next.toString()}`);
  };
  return (
    <form className="find" role="search" onSubmit={find}>
      <input
        key={search.get('q') ?? ''}
        ref={field}
        name="q"
        defaultValue={search.get('q') ?? ''}
        placeholder={
          code === undefined
            ? 'Find a document in all your libraries … press /'
            : 'Find a document by number, title or comment … press /'
        }
        aria-label="Find a document"
        maxLength={200}
      />
    </form>
  );
}

function Person({ name, systemAdministrator, onLeave }: PersonProps) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const { scheme, setScheme } = usePreferences();
  const { data: own } = useQuery(ownLibrariesQuery);
  const managesPeople = systemAdministrator || own?.items.some(({ acts }) => acts.manageMembers.allowed);
  const leave = async (): Promise<void> =>
    onLeave((await client.fetchQuery({ ...deskQuery, staleTime: 0 })).held);
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
  const library = useLastLibrary();
  const { pathname } = useLocation();
  const { open: helping, show: setHelping } = useHelp();
  const { unread = 0, toDecide = 0, toRead = 0 } = useQuery(waitingQuery).data ?? {};
  const isOf = (code: string): boolean => pathname === `/${code}` || pathname.startsWith(`/${code}/`);
  useHotkeys('?', () => setHelping(!useHelp.getState().open), { useKey: true, preventDefault: true });
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
            title={library.name}
            className={() => (isOf(library.code) && !/\/(in-force|shelf)$/.test(pathname) ? 'active' : '')}
          >
            Register
          </NavLink>
        </>
      )}
      <NavLink to="/in-force" className={() => (/\/in-force$/.test(pathname) ? 'active' : '')}>
        In force
        {toRead > 0 && (
          <>
            , <span className="spine-new">{toRead} to read</span>
          </>
        )}
      </NavLink>
      <NavLink to="/approvals">
        Approvals
        {toDecide > 0 && (
          <>
            , <span className="spine-new">{toDecide} to decide</span>
          </>
        )}
      </NavLink>
      <NavLink to="/outbox">Messages</NavLink>
      <span className="spine-gap" />
      <Popover
        trigger="click"
        placement="rightBottom"
        open={helping}
        onOpenChange={setHelping}
        content={
          <Suspense fallback={<Waiting />}>
            <Help />
          </Suspense>
        }
      >
        <button type="button" className="spine-help">
          Help
        </button>
      </Popover>
    </nav>
  );
}
