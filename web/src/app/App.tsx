import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { ConfigProvider } from 'antd';
import { useEffect, useState } from 'react';
import { createBrowserRouter, RouterProvider } from 'react-router-dom';
import { isAway } from '../ui/api.ts';
import { FirstLibrary } from './FirstLibrary.tsx';
import { Messages } from '../ui/messages.tsx';
import { Nowhere } from '../ui/Nowhere.tsx';
import { Waiting } from '../ui/Waiting.tsx';
import { usePreferences } from './preferences.ts';
import { fetchScreens, screens } from './screens.ts';
import { Shell } from './Shell.tsx';
import { cssVariables, type Scheme, themeOf } from './theme.ts';
import { openEarly } from './useLive.ts';

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

const router = createBrowserRouter([
  { path: '/sign-in', lazy: screens.signIn, hydrateFallbackElement: <Waiting screen /> },
  {
    element: <Shell />,
    errorElement: <Nowhere />,
    hydrateFallbackElement: <Waiting screen />,
    children: [
      { path: '/', element: <FirstLibrary /> },
      { path: '/people', lazy: screens.people },
      { path: '/account', lazy: screens.account },
      { path: '/account/drive', lazy: screens.driveTest },
      { path: '/find', lazy: screens.find },
      { path: '/desk', lazy: screens.desk },
      { path: '/approvals', lazy: screens.approvals },
      { path: '/outbox', lazy: screens.outbox },
      { path: '/in-force', lazy: screens.inForce },
      { path: '/desk/files/:id/bring-in', lazy: screens.bringIn },
      { path: '/desk/files/:id/edit', lazy: screens.editFile },
      { path: '/:code/documents/:id/edit', lazy: screens.editDocument },
      { path: '/:code/documents/:id/so-far', lazy: screens.soFar },
      { path: '/:code', lazy: screens.register },
      { path: '/:code/rulebook', lazy: screens.rulebook },
      { path: '/:code/shelf', lazy: screens.shelf },
      { path: '/:code/documents/:id/sight', lazy: screens.sight },
      { path: '/:code/in-force', lazy: screens.inForce },
      { path: '/:code/as-of', lazy: screens.asOf },
      { path: '/:code/documents/:id', lazy: screens.document },
      { path: '/:code/documents/:id/read', lazy: screens.read },
      { path: '/:code/documents/:id/versions/:label', lazy: screens.document },
      { path: '/:code/documents/:id/compare/:from/:to', lazy: screens.compare },
      { path: '*', element: <Nowhere /> },
    ],
  },
]);

openEarly();
fetchScreens();

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
      <Messages>
        <QueryClientProvider client={client}>
          <RouterProvider router={router} />
        </QueryClientProvider>
      </Messages>
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
