import { z } from 'zod';
import { Account, Id, VersionName } from './common.ts';
import * as approval from './approval.ts';
import * as bulk from './bulk.ts';
import * as calendar from './calendar.ts';
import * as clock from './clock.ts';
import * as consequences from './consequences.ts';
import * as custody from './custody.ts';
import * as desk from './desk.ts';
import * as distribution from './distribution.ts';
import * as documents from './documents.ts';
import * as fileNames from './fileNames.ts';
import * as days from './days.ts';
import * as inForce from './inForce.ts';
import * as libraries from './libraries.ts';
import * as mail from './mail.ts';
import * as members from './members.ts';
import * as merge from './merge.ts';
import * as notices from './notices.ts';
import * as people from './people.ts';
import * as provider from './provider.ts';
import * as reading from './reading.ts';
import * as review from './review.ts';
import * as rulebook from './rulebook.ts';
import * as session from './session.ts';
import * as shelf from './shelf.ts';
import * as standing from './standing.ts';
import * as templates from './templates.ts';
import * as turns from './turns.ts';
import * as versions from './versions.ts';
import * as visibility from './visibility.ts';

type Fallback<T, D> = T extends z.ZodType ? z.output<T> : D;

/**
 * One route of the HTTP interface: what it takes and what it answers. Server, documentation and tests all
 * read this.
 */
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
  /** Takes `as`: a controller's look as another person or role. */
  seenAs: boolean;
  /** Whether it can be asked as of an earlier moment. */
  asOf: boolean;
}

interface Description {
  method: Route['method'];
  path: string;
  summary: string;
  params?: z.ZodType;
  query?: z.ZodType;
  body?: z.ZodType;
  sends?: Route['sends'];
  status?: number;
  answer?: z.ZodType;
  open?: boolean;
  seenAs?: boolean;
  asOf?: boolean;
}

function route<const D extends Description>(description: D) {
  const {
    params = z.object({}),
    query = z.strictObject({}),
    body = null,
    answer = null,
    sends = body ? 'json' : null,
    status = 200,
    open = false,
    seenAs = false,
    asOf = false,
  } = description;
  return {
    ...description,
    params,
    query,
    body,
    answer,
    sends,
    status,
    open,
    seenAs,
    asOf,
  } as unknown as Route<
    Fallback<D['params'], Record<string, never>>,
    Fallback<D['query'], Record<string, never>>,
    Fallback<D['body'], undefined>,
    Fallback<D['answer'], void>
  >;
}

const byId = z.object({ id: Id });
/** A person by id or account. */
const byPerson = z.object({ id: Account });
const byVersion = z.object({ id: Id, v: VersionName });
const byPosition = z.object({ id: Id, position: z.coerce.number().int().min(1).max(1_000_000) });
const byPicture = byVersion.extend({ part: z.string().max(300) });
const byDeskPicture = byId.extend({ part: z.string().max(300) });

/** Every route, by the name of what it does. */
export const routes = {
  signIn: route({
    method: 'post',
    path: '/session',
    summary: 'Sign in',
    body: session.SignIn,
    answer: session.Session,
    open: true,
  }),
  readSession: route({
    method: 'get',
    path: '/session',
    summary: 'Who is signed in',
    answer: session.SessionHere,
  }),
  signOut: route({ method: 'delete', path: '/session', summary: 'Sign out', status: 204, open: true }),
  signInWays: route({
    method: 'get',
    path: '/session/ways',
    summary: 'How one signs in here: by password, by a provider of identities',
    answer: provider.SignInWays,
    open: true,
  }),
  beginProvider: route({
    method: 'get',
    path: '/session/provider',
    summary: 'Sign in by the provider: leads there',
    query: provider.ProviderQuery,
    status: 302,
    open: true,
  }),
  endProvider: route({
    method: 'get',
    path: '/session/provider/return',
    summary: 'Where the provider leads back to: opens the session',
    query: provider.ProviderReturn,
    status: 302,
    open: true,
  }),
  readProviderMapping: route({
    method: 'get',
    path: '/provider',
    summary: "How the provider's claims are taken (system administrator)",
    answer: provider.ProviderMapping,
  }),
  mapProvider: route({
    method: 'put',
    path: '/provider',
    summary: "Say how the provider's claims are taken (system administrator)",
    body: provider.ProviderMapping,
    answer: provider.ProviderMapping,
  }),
  changePassword: route({
    method: 'put',
    path: '/session/password',
    summary: "Change one's own password; sessions elsewhere end",
    body: session.PasswordChange,
    status: 204,
  }),
  listSessions: route({
    method: 'get',
    path: '/sessions',
    summary: "One's own sessions that go on",
    answer: session.SessionList,
  }),
  endOtherSessions: route({
    method: 'delete',
    path: '/sessions',
    summary: "End one's own sessions but the one asked from",
    status: 204,
  }),
  endSession: route({
    method: 'delete',
    path: '/sessions/{id}',
    summary: "End one of one's own sessions",
    params: byId,
    status: 204,
  }),
  listTokens: route({
    method: 'get',
    path: '/tokens',
    summary: "One's personal tokens",
    answer: session.TokenList,
  }),
  makeToken: route({
    method: 'post',
    path: '/tokens',
    summary: 'Make a personal token for scripts',
    body: session.NewToken,
    answer: session.MadeToken,
    status: 201,
  }),
  revokeToken: route({
    method: 'delete',
    path: '/tokens/{id}',
    summary: 'Revoke a personal token',
    params: byId,
    status: 204,
  }),

  readTurns: route({
    method: 'get',
    path: '/turns',
    summary: "How many files are read before one's own",
    answer: turns.TurnsView,
  }),
  readClock: route({
    method: 'get',
    path: '/clock',
    summary: 'What time it is on the server, and whether it is believed',
    answer: clock.Clock,
  }),
  confirmTime: route({
    method: 'post',
    path: '/clock/confirm',
    summary: 'Confirm the time after the clock leapt ahead (controller or system administrator)',
    answer: clock.Clock,
  }),

  listLibraries: route({
    asOf: true,
    seenAs: true,
    method: 'get',
    path: '/libraries',
    summary: 'Libraries the caller is a member of',
    answer: libraries.LibraryList,
  }),
  createLibrary: route({
    method: 'post',
    path: '/libraries',
    summary: 'Make a library (system administrator)',
    body: libraries.NewLibrary,
    answer: libraries.Library,
    status: 201,
  }),
  readLibrary: route({
    asOf: true,
    seenAs: true,
    method: 'get',
    path: '/libraries/{id}',
    summary: 'One library',
    params: byId,
    answer: libraries.Library,
  }),
  changeLibrary: route({
    method: 'patch',
    path: '/libraries/{id}',
    summary: 'Change name or purpose (controller; If-Match)',
    params: byId,
    body: libraries.LibraryPatch,
    answer: libraries.Library,
  }),
  listTemplates: route({
    method: 'get',
    path: '/libraries/{id}/templates',
    summary: 'Templates in force, by type of document',
    params: byId,
    query: templates.TemplateQuery,
    answer: templates.TemplateList,
  }),
  markTemplate: route({
    method: 'put',
    path: '/documents/{id}/template',
    summary: 'Make the document the template of a type, or end that (controller)',
    params: byId,
    body: templates.MarkTemplate,
    answer: documents.Document,
  }),
  nextNumber: route({
    method: 'get',
    path: '/libraries/{id}/next-number',
    summary: 'The next free number, by the pattern of the type',
    params: byId,
    query: libraries.NumberQuery,
    answer: libraries.NextNumber,
  }),
  listMembers: route({
    method: 'get',
    path: '/libraries/{id}/members',
    summary: 'Members and their roles',
    params: byId,
    answer: z.array(members.MemberView),
  }),
  setMembers: route({
    method: 'put',
    path: '/libraries/{id}/members',
    summary: 'Replace the members (controller or system administrator; If-Match)',
    params: byId,
    query: people.TakingOver,
    body: members.Members,
    answer: z.array(members.MemberView),
  }),
  libraryPeople: route({
    method: 'get',
    path: '/libraries/{id}/people',
    summary: "People with a role, their own or a group's, by name",
    params: byId,
    query: members.LibraryPeopleQuery,
    answer: members.LibraryPeople,
  }),
  readRulebook: route({
    seenAs: true,
    asOf: true,
    method: 'get',
    path: '/libraries/{id}/rulebook',
    summary: "A library's rules",
    params: byId,
    answer: rulebook.RulebookView,
  }),
  changeRulebook: route({
    method: 'put',
    path: '/libraries/{id}/rulebook',
    summary: 'Set rules, with a reason (controller; If-Match)',
    params: byId,
    body: rulebook.NewRules,
    answer: rulebook.RulebookView,
  }),
  rulebookHistory: route({
    method: 'get',
    path: '/libraries/{id}/rulebook/history',
    summary: 'Revisions of the Rulebook, newest first',
    params: byId,
    query: versions.VersionQuery,
    answer: rulebook.RulebookHistory,
  }),
  consequences: route({
    method: 'post',
    path: '/libraries/{id}/rulebook/consequences',
    summary:
      'What proposed rules would do; changes nothing. With `Prefer: respond-async, wait=SECONDS` (RFC 7240) a long one answers 202 with a job',
    params: byId,
    query: consequences.ConsequencesQuery,
    body: rulebook.RulebookChoices,
    answer: consequences.Consequences,
  }),
  pace: route({
    method: 'get',
    path: '/libraries/{id}/pace',
    summary: 'How often the library publishes, and limits made of that',
    params: byId,
    answer: rulebook.PaceView,
  }),
  shelf: route({
    method: 'get',
    path: '/libraries/{id}/shelf',
    summary: 'The recovery shelf: thinned content that can be recovered, the soonest to go first',
    params: byId,
    query: shelf.ShelfQuery,
    answer: shelf.Shelf,
    seenAs: true,
  }),
  readJob: route({
    method: 'get',
    path: '/jobs/{id}',
    summary: 'Long work: how far it is',
    params: byId,
    answer: consequences.Job,
  }),
  cancelJob: route({
    method: 'delete',
    path: '/jobs/{id}',
    summary: 'Cancel a computation of consequences',
    params: byId,
    status: 204,
  }),

  listPeople: route({
    method: 'get',
    path: '/people',
    summary: 'Accounts (system administrators and controllers)',
    query: people.PeopleQuery,
    answer: people.PeopleList,
  }),
  addPerson: route({
    method: 'post',
    path: '/people',
    summary: 'Make an account (system administrator)',
    body: people.NewPerson,
    answer: people.PersonView,
    status: 201,
  }),
  changePerson: route({
    method: 'patch',
    path: '/people/{id}',
    summary: 'Close an account and hand over what its holder answers for, or open it (system administrator)',
    params: byPerson,
    body: people.PersonChange,
    answer: people.ChangedPerson,
  }),
  listSessionsOf: route({
    method: 'get',
    path: '/people/{id}/sessions',
    summary: "Somebody's sessions (system administrator)",
    params: byPerson,
    answer: session.SessionList,
  }),
  endSessionsOf: route({
    method: 'delete',
    path: '/people/{id}/sessions',
    summary: "End all of somebody's sessions (system administrator)",
    params: byPerson,
    status: 204,
  }),
  endSessionOf: route({
    method: 'delete',
    path: '/people/{id}/sessions/{session}',
    summary: "End one of somebody's sessions (system administrator)",
    params: byPerson.extend({ session: Id }),
    status: 204,
  }),
  listTokensOf: route({
    method: 'get',
    path: '/people/{id}/tokens',
    summary: "Somebody's personal tokens (system administrator)",
    params: byPerson,
    answer: session.TokenList,
  }),
  revokeTokensOf: route({
    method: 'delete',
    path: '/people/{id}/tokens',
    summary: "Revoke all of somebody's personal tokens (system administrator)",
    params: byPerson,
    status: 204,
  }),
  revokeTokenOf: route({
    method: 'delete',
    path: '/people/{id}/tokens/{token}',
    summary: "Revoke one of somebody's personal tokens (system administrator)",
    params: byPerson.extend({ token: Id }),
    status: 204,
  }),
  listGroups: route({
    method: 'get',
    path: '/groups',
    summary: 'Groups and their people (system administrators and controllers)',
    query: people.GroupQuery,
    answer: people.GroupList,
  }),
  addGroup: route({
    method: 'post',
    path: '/groups',
    summary: 'Make a group (system administrator)',
    body: people.GroupBody,
    answer: people.Group,
    status: 201,
  }),
  changeGroup: route({
    method: 'put',
    path: '/groups/{id}',
    summary: "Change a group's name and people (system administrator)",
    params: byId,
    query: people.TakingOver,
    body: people.GroupBody,
    answer: people.Group,
  }),
  removeGroup: route({
    method: 'delete',
    path: '/groups/{id}',
    summary: 'Remove a group and the roles it held (system administrator)',
    params: byId,
    query: people.TakingOver,
    status: 204,
  }),

  listDocuments: route({
    seenAs: true,
    asOf: true,
    method: 'get',
    path: '/libraries/{id}/documents',
    summary: 'The Register',
    params: byId,
    query: documents.DocumentQuery,
    answer: documents.DocumentList,
  }),
  listSubjects: route({
    seenAs: true,
    method: 'get',
    path: '/libraries/{id}/subjects',
    summary: 'Subjects as a tree of folders, a level at a time',
    params: byId,
    query: documents.SubjectQuery,
    answer: documents.SubjectList,
  }),
  findByFileName: route({
    method: 'get',
    path: '/libraries/{id}/file-names',
    summary: 'Documents that a file is meant for, as its name says',
    params: byId,
    query: fileNames.FileNameQuery,
    answer: fileNames.FileNameMatches,
  }),
  createDocument: route({
    method: 'post',
    path: '/libraries/{id}/documents',
    summary: 'Register a document with its first version',
    params: byId,
    body: documents.NewDocumentForm,
    sends: 'form',
    answer: documents.MadeDocument,
    status: 201,
  }),
  readDocument: route({
    seenAs: true,
    asOf: true,
    method: 'get',
    path: '/documents/{id}',
    summary: 'One document',
    params: byId,
    answer: documents.Document,
  }),
  changeDocument: route({
    method: 'patch',
    path: '/documents/{id}',
    summary: 'Change fields: a new version (If-Match)',
    params: byId,
    body: documents.DocumentPatch,
    answer: versions.Version,
  }),
  documentContent: route({
    seenAs: true,
    asOf: true,
    method: 'get',
    path: '/documents/{id}/content',
    summary: 'The bytes of what is in force',
    params: byId,
    query: custody.ContentQuery,
  }),

  listVersions: route({
    seenAs: true,
    asOf: true,
    method: 'get',
    path: '/documents/{id}/versions',
    summary: 'Versions the caller sees, newest first',
    params: byId,
    query: versions.VersionQuery,
    answer: versions.VersionList,
  }),
  readVersion: route({
    seenAs: true,
    asOf: true,
    method: 'get',
    path: '/documents/{id}/versions/{v}',
    summary: 'One version',
    params: byVersion,
    answer: versions.Version,
  }),
  versionContent: route({
    seenAs: true,
    asOf: true,
    method: 'get',
    path: '/documents/{id}/versions/{v}/content',
    summary: "A version's bytes, as checked in",
    params: byVersion,
    query: custody.ContentQuery,
  }),
  versionReading: route({
    seenAs: true,
    asOf: true,
    method: 'get',
    path: '/documents/{id}/versions/{v}/reading',
    summary: 'A version as blocks, for reading in the page',
    params: byVersion,
    query: reading.ReadingQuery,
    answer: reading.Reading,
  }),
  versionPicture: route({
    seenAs: true,
    asOf: true,
    method: 'get',
    path: '/documents/{id}/versions/{v}/pictures/{part}',
    summary: 'A picture inside a version',
    params: byPicture,
  }),
  compareVersions: route({
    seenAs: true,
    asOf: true,
    method: 'get',
    path: '/documents/{id}/compare',
    summary: 'What changed between two versions',
    params: byId,
    query: reading.CompareQuery,
    answer: reading.Comparison,
  }),

  readCheckout: route({
    seenAs: true,
    asOf: true,
    method: 'get',
    path: '/documents/{id}/checkout',
    summary: 'Who holds the document',
    params: byId,
    answer: custody.Custody,
  }),
  checkOut: route({
    method: 'post',
    path: '/documents/{id}/checkout',
    summary: 'Check out',
    params: byId,
    body: custody.CheckOut,
    answer: custody.Custody,
    status: 201,
  }),
  prolong: route({
    method: 'patch',
    path: '/documents/{id}/checkout',
    summary: 'Keep it longer',
    params: byId,
    body: custody.Prolong,
    answer: custody.Custody,
  }),
  giveBack: route({
    method: 'delete',
    path: '/documents/{id}/checkout',
    summary: 'Give back the check-out without a version; what was saved in it goes',
    params: byId,
    status: 204,
  }),
  keepForLater: route({
    method: 'post',
    path: '/documents/{id}/checkout/keep',
    summary: 'Keep what a program saved for later; nothing is asked about it (holder)',
    params: byId,
    answer: custody.Custody,
  }),
  takeBackLock: route({
    method: 'delete',
    path: '/documents/{id}/checkout/lock',
    summary: "Take back the lock of one's own program, which closed without a word (holder)",
    params: byId,
    status: 204,
  }),
  workingCopy: route({
    method: 'get',
    path: '/documents/{id}/checkout/content',
    summary: 'The working copy, or its base while nothing was saved (holder)',
    params: byId,
    query: custody.MarkedQuery,
  }),
  saveWorkingCopy: route({
    method: 'put',
    path: '/documents/{id}/checkout/content',
    summary: 'Put an edited file into the working copy (holder; If-Match)',
    params: byId,
    query: custody.SaveQuery,
    sends: 'bytes',
    answer: custody.Custody,
  }),
  listSaves: route({
    method: 'get',
    path: '/documents/{id}/checkout/saves',
    summary: 'The saves of the working copy (holder)',
    params: byId,
    answer: custody.SaveList,
  }),
  readSave: route({
    method: 'get',
    path: '/documents/{id}/checkout/saves/{position}/content',
    summary: 'One save of the working copy (holder)',
    params: byPosition,
  }),
  goBackToSave: route({
    method: 'post',
    path: '/documents/{id}/checkout/saves/{position}/go-back',
    summary: 'Make an earlier save the working copy again, as a new step (holder)',
    params: byPosition,
    answer: custody.Custody,
  }),
  compareSoFar: route({
    method: 'get',
    path: '/documents/{id}/checkout/compare',
    summary: 'What the working copy changed against its base so far (holder)',
    params: byId,
    answer: reading.Comparison,
  }),
  lift: route({
    method: 'post',
    path: '/documents/{id}/checkout/lift',
    summary: "End somebody's check-out, setting the working copy aside on their Desk (controller)",
    params: byId,
    body: custody.Lift,
    answer: documents.Document,
  }),
  custodyHistory: route({
    seenAs: true,
    method: 'get',
    path: '/documents/{id}/custody',
    summary: 'Who held the document, newest first',
    params: byId,
    query: custody.CustodyQuery,
    answer: custody.CustodyHistory,
  }),
  checkIn: route({
    method: 'post',
    path: '/documents/{id}/checkin',
    summary: 'Check in: a new version',
    params: byId,
    body: custody.CheckInForm,
    sends: 'form',
    answer: versions.MadeVersion,
    status: 201,
  }),
  restore: route({
    method: 'post',
    path: '/documents/{id}/restore',
    summary: "Bring an earlier version's content back as a new version",
    params: byId,
    body: versions.Restore,
    answer: versions.Version,
    status: 201,
  }),
  publish: route({
    method: 'post',
    path: '/documents/{id}/publish',
    summary: 'Publish the open draft',
    params: byId,
    body: versions.Publish,
    answer: versions.Version,
    status: 201,
  }),
  uploadVersion: route({
    method: 'post',
    path: '/documents/{id}/versions',
    summary: 'A new version without a check-out, where custody is optional',
    params: byId,
    body: custody.UploadForm,
    sends: 'form',
    answer: versions.MadeVersion,
    status: 201,
  }),
  submit: route({
    method: 'post',
    path: '/documents/{id}/submit',
    summary: 'Ask the approvers about the latest draft',
    params: byId,
    body: approval.Submit,
    answer: versions.Version,
  }),
  callBack: route({
    method: 'post',
    path: '/documents/{id}/call-back',
    summary: 'Take back the submission: the version is a draft again',
    params: byId,
    body: approval.CallBack,
    answer: versions.Version,
  }),
  inForce: route({
    asOf: true,
    method: 'get',
    path: '/in-force',
    summary: "What is in force for one, over all one's libraries",
    query: inForce.InForceQuery,
    answer: inForce.InForceList,
  }),
  libraryInForce: route({
    asOf: true,
    method: 'get',
    path: '/libraries/{id}/in-force',
    summary: 'What is in force in a library',
    params: byId,
    query: inForce.InForceQuery,
    answer: inForce.InForceList,
    seenAs: true,
  }),
  calendar: route({
    seenAs: true,
    method: 'get',
    path: '/libraries/{id}/calendar',
    summary: 'What was in force when, document by document',
    params: byId,
    query: calendar.CalendarQuery,
    answer: calendar.Calendar,
  }),
  days: route({
    seenAs: true,
    method: 'get',
    path: '/libraries/{id}/days',
    summary: 'What came into force, what left and who decided between two moments',
    params: byId,
    query: days.DaysQuery,
    answer: days.Days,
  }),
  lookedAtInForce: route({
    method: 'post',
    path: '/in-force/looked',
    summary: 'Say that one has looked at what is in force',
    body: inForce.Looked,
    status: 204,
  }),
  readMailChoice: route({
    method: 'get',
    path: '/session/notices',
    summary: 'How notices come to one by mail',
    answer: mail.MailChoice,
  }),
  chooseMail: route({
    method: 'put',
    path: '/session/notices',
    summary: 'Choose how notices come by mail',
    body: mail.ChooseMail,
    answer: mail.MailChoice,
  }),
  outbox: route({
    method: 'get',
    path: '/outbox',
    summary: 'Messages that were made for one, newest first',
    query: mail.OutboxQuery,
    answer: mail.OutboxList,
  }),
  readMessage: route({
    method: 'get',
    path: '/outbox/{id}',
    summary: 'A message as it reads, or as it was sent',
    params: byId,
    answer: mail.OutboxMessage,
  }),
  answerMessage: route({
    method: 'post',
    path: '/outbox/{id}/reply',
    summary: 'Decide by answering a message',
    params: byId,
    body: mail.Answer,
    answer: mail.Answered,
  }),
  incomingMail: route({
    method: 'post',
    path: '/mail',
    summary: 'Take in an answer that came as mail',
    sends: 'bytes',
    answer: mail.Answered,
    open: true,
  }),
  listApprovals: route({
    method: 'get',
    path: '/approvals',
    summary: "What waits for one's decision, or is out for others'",
    query: approval.ApprovalQuery,
    answer: approval.ApprovalList,
  }),
  replaceApprover: route({
    method: 'put',
    path: '/documents/{id}/approval/approvers',
    summary: 'Put somebody in the place of an approver who is away (controller)',
    params: byId,
    body: approval.ReplaceApprover,
    answer: documents.Document,
  }),
  decide: route({
    method: 'post',
    path: '/documents/{id}/decision',
    summary: 'Decide about the version in approval',
    params: byId,
    body: approval.Decide,
    answer: versions.Version,
  }),
  readLimit: route({
    method: 'get',
    path: '/documents/{id}/limits',
    summary: 'To whom a document is kept',
    params: byId,
    answer: distribution.Limit,
    seenAs: true,
  }),
  setLimit: route({
    method: 'put',
    path: '/documents/{id}/limits',
    summary: 'Keep a document to named people and groups, or open it to every member (controller)',
    params: byId,
    body: distribution.SetLimit,
    answer: distribution.LimitOutcome,
  }),
  readDistribution: route({
    method: 'get',
    path: '/documents/{id}/distribution',
    summary: 'Who is to read what is in force, who has, who has not',
    params: byId,
    query: distribution.DistributionQuery,
    answer: distribution.Distribution,
    seenAs: true,
  }),
  distribute: route({
    method: 'post',
    path: '/documents/{id}/distribution',
    summary: 'Say who is to read a document (owner, co-authors, controllers)',
    params: byId,
    body: distribution.Distribute,
    answer: distribution.Distribution,
  }),
  remindReaders: route({
    method: 'post',
    path: '/documents/{id}/distribution/reminder',
    summary: 'Remind those who have not confirmed reading it (owner, co-authors, controllers)',
    params: byId,
    body: distribution.Remind,
    answer: distribution.Reminded,
  }),
  confirmRead: route({
    method: 'post',
    path: '/documents/{id}/versions/{v}/read',
    summary: 'Confirm having read what is in force',
    params: byVersion,
    body: distribution.ConfirmRead,
    answer: distribution.ReadConfirmed,
  }),
  review: route({
    method: 'post',
    path: '/documents/{id}/review',
    summary: 'Review what is in force: it holds on, or is to be changed (owner, co-authors, controllers)',
    params: byId,
    body: review.Review,
    answer: documents.Document,
  }),
  void: route({
    method: 'post',
    path: '/documents/{id}/void',
    summary: 'Void a document that was registered by mistake (controller, or soon who registered it)',
    params: byId,
    body: documents.Voiding,
    answer: documents.VoidAnswer,
  }),
  unvoid: route({
    method: 'post',
    path: '/documents/{id}/unvoid',
    summary: 'Let a voided document stand again (controller)',
    params: byId,
    body: documents.Voiding,
    answer: documents.Document,
  }),
  withdraw: route({
    method: 'post',
    path: '/documents/{id}/withdraw',
    summary: 'Withdraw a published version (controller)',
    params: byId,
    body: standing.Withdraw,
    answer: versions.Version,
  }),
  reinstate: route({
    method: 'post',
    path: '/documents/{id}/reinstate',
    summary: 'Put an earlier version back in force (controller)',
    params: byId,
    body: standing.Reinstate,
    answer: versions.Version,
  }),
  reschedule: route({
    method: 'patch',
    path: '/documents/{id}/schedule',
    summary: 'Change when a scheduled version comes into force',
    params: byId,
    body: standing.Reschedule,
    answer: versions.Version,
  }),
  takeBack: route({
    method: 'delete',
    path: '/documents/{id}/schedule',
    summary: 'Take a scheduled version back before its moment',
    params: byId,
    query: standing.TakeBack,
    answer: versions.Version,
  }),
  versionOutlook: route({
    method: 'get',
    path: '/documents/{id}/versions/{v}/outlook',
    summary: 'What readers would have after a version was withdrawn, reinstated or taken back',
    params: byVersion,
    query: standing.OutlookQuery,
    answer: standing.Outlook,
  }),
  versionIssuable: route({
    method: 'get',
    path: '/documents/{id}/versions/{v}/issuable',
    summary: 'Whether readers get an issued copy of a version, or the file as it was checked in, and why',
    params: byVersion,
    answer: custody.Issuable,
  }),
  thinVersion: route({
    method: 'post',
    path: '/documents/{id}/versions/{v}/thin',
    summary: "Put a version's content on the recovery shelf",
    params: byVersion,
    body: versions.ByHand,
    answer: versions.Version,
  }),
  recoverVersion: route({
    method: 'post',
    path: '/documents/{id}/versions/{v}/recover',
    summary: 'Take content back from the recovery shelf; the version is sheltered then',
    params: byVersion,
    body: versions.ByHand,
    answer: versions.Version,
  }),
  shelterVersion: route({
    method: 'post',
    path: '/documents/{id}/versions/{v}/shelter',
    summary: 'Exempt a version from thinning',
    params: byVersion,
    body: versions.ByHand,
    answer: versions.Version,
  }),
  unshelterVersion: route({
    method: 'post',
    path: '/documents/{id}/versions/{v}/unshelter',
    summary: 'End the exemption',
    params: byVersion,
    body: versions.ByHand,
    answer: versions.Version,
  }),
  visibility: route({
    method: 'get',
    path: '/documents/{id}/visibility',
    summary: 'Who sees which version, and why (controller)',
    params: byId,
    query: visibility.VisibilityQuery,
    answer: visibility.Visibility,
  }),

  desk: route({
    method: 'get',
    path: '/desk',
    summary: "What one holds, what waits for one, what came back, files of one's own, notices",
    answer: desk.Desk,
  }),
  waiting: route({
    method: 'get',
    path: '/desk/waiting',
    summary: 'How many notices are new, and how many decisions wait for one',
    answer: desk.Waiting,
  }),
  workingCopies: route({
    method: 'get',
    path: '/desk/working-copies',
    summary: 'The working copies of several documents one holds, marked, in one .zip',
    query: desk.WorkingCopies,
  }),
  listNotices: route({
    method: 'get',
    path: '/notices',
    summary: 'What one was told, newest first',
    query: custody.CustodyQuery,
    answer: notices.NoticeList,
  }),
  readNotices: route({
    method: 'post',
    path: '/notices/read',
    summary: 'Mark notices as read, up to one',
    body: notices.NoticesRead,
    status: 204,
  }),
  addDeskFile: route({
    method: 'post',
    path: '/desk/files',
    summary: "Upload a file to one's Desk: an arrival",
    body: desk.DeskFileForm,
    sends: 'form',
    answer: desk.DeskFile,
    status: 201,
  }),
  takeLooseCopy: route({
    method: 'post',
    path: '/documents/{id}/versions/{v}/loose-copy',
    summary: "A private copy of a version on one's Desk, to be edited without versions",
    params: byVersion,
    body: desk.LooseCopy,
    answer: desk.DeskFile,
    status: 201,
  }),
  readDeskFile: route({
    method: 'get',
    path: '/desk/files/{id}',
    summary: "One file of one's Desk",
    params: byId,
    answer: desk.DeskFile,
  }),
  deskFileContent: route({
    method: 'get',
    path: '/desk/files/{id}/content',
    summary: 'Its bytes',
    params: byId,
  }),
  deskSaveContent: route({
    method: 'get',
    path: '/desk/files/{id}/saves/{position}/content',
    summary: 'An earlier save of a copy set aside',
    params: byPosition,
  }),
  saveDeskFile: route({
    method: 'put',
    path: '/desk/files/{id}/content',
    summary: 'Write it anew (If-Match)',
    params: byId,
    sends: 'bytes',
    answer: desk.DeskFile,
  }),
  removeDeskFile: route({
    method: 'delete',
    path: '/desk/files/{id}',
    summary: 'Throw it away',
    params: byId,
    status: 204,
  }),
  deskFilePicture: route({
    method: 'get',
    path: '/desk/files/{id}/pictures/{part}',
    summary: 'A picture inside a file on my Desk',
    params: byDeskPicture,
  }),
  mergeDeskFile: route({
    method: 'get',
    path: '/desk/files/{id}/merge',
    summary: 'Laid over what happened since it was taken',
    params: byId,
    query: merge.MergeQuery,
    answer: merge.Merge,
  }),
  bringIn: route({
    method: 'post',
    path: '/desk/files/{id}/bring-in',
    summary: 'Make it the next version of a document',
    params: byId,
    body: merge.BringIn,
    answer: versions.MadeVersion,
    status: 201,
  }),
  saveFromDesk: route({
    method: 'post',
    path: '/desk/files/{id}/save',
    summary: 'Make it the working copy of a document one holds',
    params: byId,
    body: desk.SaveFromDesk,
    answer: custody.Custody,
  }),
  registerDeskFile: route({
    method: 'post',
    path: '/desk/files/{id}/register',
    summary: 'Register it as a new document',
    params: byId,
    body: desk.RegisterFile,
    answer: documents.Document,
    status: 201,
  }),
  bulk: route({
    method: 'post',
    path: '/bulk',
    summary: 'One act on several documents, each by itself; or, with `rehearse`, what would become of each',
    body: bulk.Bulk,
    answer: bulk.BulkOutcomes,
  }),
  events: route({
    method: 'get',
    path: '/events',
    summary: 'Server-sent events: documents that changed for the caller, notices',
  }),
} satisfies Record<string, Route<never, never, never, never> | Route>;
