import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { App as AntApp, ConfigProvider } from 'antd';
import { lazy, type ReactNode, Suspense, useEffect, useState } from 'react';
import { createBrowserRouter, RouterProvider } from 'react-router-dom';
import { AccountPage } from '../features/account/AccountPage.tsx';
import { ComparePage } from '../features/compare/ComparePage.tsx';
import { BringInPage } from '../features/desk/BringInPage.tsx';
import { DeskPage } from '../features/desk/DeskPage.tsx';
import { DocumentPage } from '../features/document/DocumentPage.tsx';
import { FindPage } from '../features/find/FindPage.tsx';
import { InForcePage } from '../features/inForce/InForcePage.tsx';
import { PeoplePage } from '../features/people/PeoplePage.tsx';
import { RegisterPage } from '../features/register/RegisterPage.tsx';
import { RulebookPage } from '../features/rulebook/RulebookPage.tsx';
import { ShelfPage } from '../features/shelf/ShelfPage.tsx';
import { SightPage } from '../features/sight/SightPage.tsx';
import { SignInPage } from '../features/signIn/SignInPage.tsx';
import { isAway } from '../ui/api.ts';
import { FirstLibrary } from './FirstLibrary.tsx';
import { Nowhere } from '../ui/Nowhere.tsx';
import { usePreferences } from './preferences.ts';
import { Shell } from './Shell.tsx';
import { cssVariables, type Scheme, themeOf } from './theme.ts';

const client = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      // A page that lost the server comes back by itself; what is refused is not asked again.
      retry: (_, error) => isAway(error),
      retryDelay: (count) => Math.min(500 * 2 ** count, 5000),
      networkMode: 'always',
    },
  },
});

// The editor is large, and read only by those who edit.
const EditDocumentPage = lazy(async () => ({
  default: (await import('../features/edit/EditPage.tsx')).EditDocumentPage,
}));
const EditFilePage = lazy(async () => ({
  default: (await import('../features/edit/EditPage.tsx')).EditFilePage,
}));
const Lazily = ({ children }: { children: ReactNode }) => (
  <Suspense fallback={<div className="sheet sheet-waiting" aria-busy="true" />}>{children}</Suspense>
);

const router = createBrowserRouter([
  { path: '/sign-in', element: <SignInPage /> },
  {
    element: <Shell />,
    errorElement: <Nowhere />,
    children: [
      { path: '/', element: <FirstLibrary /> },
      { path: '/people', element: <PeoplePage /> },
      { path: '/account', element: <AccountPage /> },
      { path: '/find', element: <FindPage /> },
      { path: '/desk', element: <DeskPage /> },
      { path: '/desk/files/:id/bring-in', element: <BringInPage /> },
      {
        path: '/desk/files/:id/edit',
        element: (
          <Lazily>
            <EditFilePage />
          </Lazily>
        ),
      },
      {
        path: '/:code/documents/:id/edit',
        element: (
          <Lazily>
            <EditDocumentPage />
          </Lazily>
        ),
      },
      { path: '/:code/documents/:id/so-far', element: <ComparePage soFar /> },
      { path: '/:code', element: <RegisterPage /> },
      { path: '/:code/rulebook', element: <RulebookPage /> },
      { path: '/:code/shelf', element: <ShelfPage /> },
      { path: '/:code/documents/:id/sight', element: <SightPage /> },
      { path: '/:code/in-force', element: <InForcePage /> },
      { path: '/:code/documents/:id', element: <DocumentPage /> },
      { path: '/:code/documents/:id/versions/:label', element: <DocumentPage /> },
      { path: '/:code/documents/:id/compare/:from/:to', element: <ComparePage /> },
      { path: '*', element: <Nowhere /> },
    ],
  },
]);

/** The whole application in the person's colour scheme. */
export function App() {
  const chosen = usePreferences((state) => state.scheme);
  const system = useSystemScheme();
  const scheme = chosen ?? system;
  useEffect(() => {
    document.documentElement.dataset['scheme'] = scheme;
    document.documentElement.style.cssText = `${cssVariables(scheme)};color-scheme:${scheme}`;
  }, [scheme]);
  return (
    <ConfigProvider theme={themeOf(scheme)} wave={{ disabled: true }}>
      <AntApp component={false} message={{ maxCount: 1, top: 2 }}>
        <QueryClientProvider client={client}>
          <RouterProvider router={router} />
        </QueryClientProvider>
      </AntApp>
    </ConfigProvider>
  );
}

function useSystemScheme(): Scheme {
  const [query] = useState(() => window.matchMedia('(prefers-color-scheme: dark)'));
  const [dark, setDark] = useState(query.matches);
  useEffect(() => {
    const follow = (): void => setDark(query.matches);
    query.addEventListener('change', follow);
    return () => query.removeEventListener('change', follow);
  }, [query]);
  return dark ? 'dark' : 'light';
}
