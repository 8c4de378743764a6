import type { ComponentType } from 'react';

type Screen = () => Promise<{ Component: ComponentType }>;

/** The screens: each is fetched when it is first needed, or before, while nothing else is done. */
export const screens = {
  signIn: async () => ({ Component: (await import('../features/signIn/SignInPage.tsx')).SignInPage }),
  register: async () => ({ Component: (await import('../features/register/RegisterPage.tsx')).RegisterPage }),
  document: async () => ({ Component: (await import('../features/document/DocumentPage.tsx')).DocumentPage }),
  desk: async () => ({ Component: (await import('../features/desk/DeskPage.tsx')).DeskPage }),
  approvals: async () => ({
    Component: (await import('../features/approvals/ApprovalsPage.tsx')).ApprovalsPage,
  }),
  outbox: async () => ({ Component: (await import('../features/outbox/OutboxPage.tsx')).OutboxPage }),
  compare: async () => ({ Component: (await import('../features/compare/ComparePage.tsx')).ComparePage }),
  soFar: async () => ({ Component: (await import('../features/compare/ComparePage.tsx')).SoFarPage }),
  inForce: async () => ({ Component: (await import('../features/inForce/InForcePage.tsx')).InForcePage }),
  asOf: async () => ({ Component: (await import('../features/asOf/AsOfPage.tsx')).AsOfPage }),
  read: async () => ({ Component: (await import('../features/inForce/ReadPage.tsx')).ReadPage }),
  find: async () => ({ Component: (await import('../features/find/FindPage.tsx')).FindPage }),
  rulebook: async () => ({ Component: (await import('../features/rulebook/RulebookPage.tsx')).RulebookPage }),
  shelf: async () => ({ Component: (await import('../features/shelf/ShelfPage.tsx')).ShelfPage }),
  sight: async () => ({ Component: (await import('../features/sight/SightPage.tsx')).SightPage }),
  people: async () => ({ Component: (await import('../features/people/PeoplePage.tsx')).PeoplePage }),
  account: async () => ({ Component: (await import('../features/account/AccountPage.tsx')).AccountPage }),
  driveTest: async () => ({
    Component: (await import('../features/account/DriveTestPage.tsx')).DriveTestPage,
  }),
  bringIn: async () => ({ Component: (await import('../features/desk/BringInPage.tsx')).BringInPage }),
  editDocument: async () => ({ Component: (await import('../features/edit/EditPage.tsx')).EditDocumentPage }),
  editFile: async () => ({ Component: (await import('../features/edit/EditPage.tsx')).EditFilePage }),
} satisfies Record<string, Screen>;

/** Pieces of the first screen that come later. */
const pieces = [
  () => import('../features/register/NewDocument.tsx'),
  () => import('../features/register/BulkBar.tsx'),
  () => import('../features/register/SidePanel.tsx'),
  () => import('../features/register/SubjectTree.tsx'),
  () => import('../features/register/UnrolledVersions.tsx'),
  () => import('../parts/drop/Dropped.tsx'),
  () => import('../parts/checkIn/LandingLabel.tsx'),
  () => import('../ui/inParts.ts'),
  () => import('./AsOfMoments.tsx'),
  () => import('./Help.tsx'),
  () => import('./Leaving.tsx'),
  () => import('./UploadsLine.tsx'),
];

/** How long after the first screen the others are fetched, in milliseconds. */
const pause = 3_000;

/**
 * Fetches every screen once the first one stands, so that going on neither waits nor fails when the server
 * is lost meanwhile. One that cannot be fetched now is tried again when it is needed.
 */
export function fetchScreens(): void {
  window.addEventListener('load', () =>
    window.setTimeout(
      () => void Promise.allSettled([...Object.values(screens), ...pieces].map((fetchPart) => fetchPart())),
      pause,
    ),
  );
}
