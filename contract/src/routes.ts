import { z } from 'zod';
import { Id, VersionName } from './common.ts';
import * as documents from './documents.ts';
import * as libraries from './libraries.ts';
import * as reading from './reading.ts';
import * as session from './session.ts';

type Fallback<T, D> = T extends z.ZodType ? z.output<T> : D;

/** One route of the HTTP interface: what it takes and what it answers. Server, documentation and tests all read this. */
export interface Route<P = unknown, Q = unknown, B = unknown, A = unknown> {
  method: 'get' | 'post' | 'put' | 'patch' | 'delete';
  /** With parameters in braces, below `/api/v1`. */
  path: string;
  summary: string;
  params: z.ZodType<P>;
  query: z.ZodType<Q>;
  /** JSON, or the text fields of a multipart form. */
  body: z.ZodType<B> | null;
  /** How the body comes: `form` is multipart with an optional file, `bytes` a file as it is. */
  sends: 'json' | 'form' | 'bytes' | null;
  status: number;
  /** Null: no body, or bytes. */
  answer: z.ZodType<A> | null;
  /** Answers without a sign-in. */
  open: boolean;
}

interface Description {
  method: Route['method']; path: string; summary: string;
  params?: z.ZodType; query?: z.ZodType; body?: z.ZodType; sends?: Route['sends']; status?: number; answer?: z.ZodType; open?: boolean;
}

function route<const D extends Description>(description: D) {
  const { params = z.object({}), query = z.strictObject({}), body = null, answer = null, sends = body ? 'json' : null, status = 200, open = false } = description;
  return { ...description, params, query, body, answer, sends, status, open } as unknown as Route<
    Fallback<D['params'], Record<string, never>>, Fallback<D['query'], Record<string, never>>, Fallback<D['body'], undefined>, Fallback<D['answer'], void>>;
}

const byId = z.object({ id: Id });
const byVersion = z.object({ id: Id, v: VersionName });
const byPicture = byVersion.extend({ part: z.string().max(300) });

/** Every route, by the name of what it does. */
export const routes = {
  signIn: route({ method: 'post', path: '/session', summary: 'Sign in', body: session.SignIn, answer: session.Session, open: true }),
  readSession: route({ method: 'get', path: '/session', summary: 'Who is signed in', answer: session.Session }),
  signOut: route({ method: 'delete', path: '/session', summary: 'Sign out', status: 204, open: true }),
  listTokens: route({ method: 'get', path: '/tokens', summary: "One's personal tokens", answer: session.TokenList }),
  makeToken: route({ method: 'post', path: '/tokens', summary: 'Make a personal token for scripts', body: session.NewToken, answer: session.MadeToken, status: 201 }),
  revokeToken: route({ method: 'delete', path: '/tokens/{id}', summary: 'Revoke a personal token', params: byId, status: 204 }),

  listLibraries: route({ method: 'get', path: '/libraries', summary: 'Libraries the caller is a member of', answer: libraries.LibraryList }),
  createLibrary: route({ method: 'post', path: '/libraries', summary: 'Make a library (site administrator)', body: libraries.NewLibrary, answer: libraries.Library, status: 201 }),
  readLibrary: route({ method: 'get', path: '/libraries/{id}', summary: 'One library', params: byId, answer: libraries.Library }),
  changeLibrary: route({ method: 'patch', path: '/libraries/{id}', summary: 'Change name or purpose (controller; If-Match)', params: byId, body: libraries.LibraryPatch, answer: libraries.Library }),
  listMembers: route({ method: 'get', path: '/libraries/{id}/members', summary: 'Members and their roles', params: byId, answer: z.array(libraries.MemberView) }),
  setMembers: route({ method: 'put', path: '/libraries/{id}/members', summary: 'Replace the members (controller or site administrator; If-Match)', params: byId, body: libraries.Members, answer: z.array(libraries.MemberView) }),
  readRulebook: route({ method: 'get', path: '/libraries/{id}/rulebook', summary: "A library's rules", params: byId, answer: libraries.RulebookView }),

  listDocuments: route({ method: 'get', path: '/libraries/{id}/documents', summary: 'The Register', params: byId, query: documents.DocumentQuery, answer: documents.DocumentList }),
  createDocument: route({ method: 'post', path: '/libraries/{id}/documents', summary: 'Register a document with its first version', params: byId, body: documents.NewDocumentForm, sends: 'form', answer: documents.Document, status: 201 }),
  readDocument: route({ method: 'get', path: '/documents/{id}', summary: 'One document', params: byId, answer: documents.Document }),
  changeDocument: route({ method: 'patch', path: '/documents/{id}', summary: 'Change fields: a new version (If-Match)', params: byId, body: documents.DocumentPatch, answer: documents.Version }),
  documentContent: route({ method: 'get', path: '/documents/{id}/content', summary: 'The bytes of what is in force', params: byId }),

  listVersions: route({ method: 'get', path: '/documents/{id}/versions', summary: 'Versions the caller sees, newest first', params: byId, query: documents.VersionQuery, answer: documents.VersionList }),
  readVersion: route({ method: 'get', path: '/documents/{id}/versions/{v}', summary: 'One version', params: byVersion, answer: documents.Version }),
  versionContent: route({ method: 'get', path: '/documents/{id}/versions/{v}/content', summary: "A version's bytes, as checked in", params: byVersion }),
  versionReading: route({ method: 'get', path: '/documents/{id}/versions/{v}/reading', summary: 'A version as blocks, for reading in the page', params: byVersion, answer: reading.Reading }),
  versionPicture: route({ method: 'get', path: '/documents/{id}/versions/{v}/pictures/{part}', summary: 'A picture inside a version', params: byPicture }),
  compareVersions: route({ method: 'get', path: '/documents/{id}/compare', summary: 'What changed between two versions', params: byId, query: reading.CompareQuery, answer: reading.Comparison }),

  readCheckout: route({ method: 'get', path: '/documents/{id}/checkout', summary: 'Who holds the document', params: byId, answer: documents.Custody }),
  checkOut: route({ method: 'post', path: '/documents/{id}/checkout', summary: 'Check out', params: byId, body: documents.CheckOut, answer: documents.Custody, status: 201 }),
  prolong: route({ method: 'patch', path: '/documents/{id}/checkout', summary: 'Prolong the check-out', params: byId, body: documents.Prolong, answer: documents.Custody }),
  discard: route({ method: 'delete', path: '/documents/{id}/checkout', summary: 'Discard the check-out and what was saved in it', params: byId, status: 204 }),
  workingCopy: route({ method: 'get', path: '/documents/{id}/checkout/content', summary: 'The working copy, or its base while nothing was saved (holder)', params: byId }),
  saveWorkingCopy: route({ method: 'put', path: '/documents/{id}/checkout/content', summary: 'Put an edited file into the working copy (holder)', params: byId, sends: 'bytes', answer: documents.Custody }),
  listSaves: route({ method: 'get', path: '/documents/{id}/checkout/saves', summary: 'The saves of the working copy (holder)', params: byId, answer: documents.SaveList }),
  checkIn: route({ method: 'post', path: '/documents/{id}/checkin', summary: 'Check in: a new version', params: byId, body: documents.CheckInForm, sends: 'form', answer: documents.Version, status: 201 }),
  restore: route({ method: 'post', path: '/documents/{id}/restore', summary: "Bring an earlier version's content back as a new version", params: byId, body: documents.Restore, answer: documents.Version, status: 201 }),
  publish: route({ method: 'post', path: '/documents/{id}/publish', summary: 'Publish the open draft', params: byId, body: documents.Publish, answer: documents.Version, status: 201 }),
} satisfies Record<string, Route<never, never, never, never> | Route>;

export type Routes = typeof routes;
