import type { routes } from './routes.ts';

/**
 * What each operation does and what follows from it, in a few sentences, for who writes a program against
 * it.
 */
export const descriptions: Record<keyof typeof routes, string> = {
  signIn:
    'Sets an HttpOnly session cookie. Wrong passwords are answered more and more slowly, by account and address together. Scripts use a personal token as `Authorization: Bearer` instead.',
  readSession: 'Account, name, rights of the site, and what the person chose for themselves.',
  signOut: 'Ends the session asked from and takes its cookie back. Answers the same where there was none.',
  signInWays:
    'What the sign-in page offers: passwords, a provider of identities by name, the accounts of the demo where it was loaded.',
  beginProvider:
    'Redirects to the provider with state, nonce and proof key (OpenID Connect, RFC 7636); `to` is where the person wanted to go.',
  endProvider:
    'Checks what the provider answers and opens a session, or leads back to the sign-in with the reason.',
  readProviderMapping:
    'Which claims become account, name and groups, and whether accounts are made by a sign-in.',
  mapProvider: 'Replaces the mapping. Claims that are not mapped change nothing.',
  changePassword:
    'Takes the present password and the next. Every other session of the person ends; tokens stay.',
  listSessions: 'With when each began, was last used and ends; the one asked from is marked.',
  endOtherSessions: 'The one asked from goes on.',
  endSession: 'By its id, from the list. Ending the one asked from signs out.',
  listTokens: 'With scope, end and last use. The secret itself is shown only when a token is made.',
  makeToken:
    'A secret for scripts, shown once. `scope` is `read` or `work`; it ends at `until`. One made by a token ends no later than that.',
  revokeToken: 'At once: the next request with it is answered 401.',
  readTurns:
    'Files are read in turn, so that one person cannot keep others waiting; this says how many come before.',
  readClock:
    'Where the clock leapt ahead by more than the server slept, nothing is thinned and nothing comes into force until somebody confirms the time.',
  confirmTime: 'What waited for the time is done then.',
  listLibraries:
    'With rights in each, how many documents one sees something of, and the rules that screens need.',
  createLibrary:
    'With its first rules; those left out are the defaults. Whoever makes it becomes no member by that: name its members next.',
  readLibrary: 'As the list has it, with an entity tag for changes.',
  changeLibrary:
    'Name, purpose and code, or `closed`. A changed code leads on: addresses with the one of before are its own for good, also on the drive (308); numbers that were given stay. In a closed library documents are read and nothing changes. One in which somebody holds a document or is asked about one is not closed.',
  listMembers: 'People and groups with the roles they were given; for those who choose members.',
  setMembers:
    'The whole list, replaced. A library keeps at least one controller. Who loses the last role loses sight at once. Decisions, check-outs and documents that somebody answers for, and could not any more, are refused (`work-left`) until `handOverTo` names who takes them over.',
  listTemplates:
    'Documents marked as templates of which something is in force; a new document is begun with one by `template` in place of a file.',
  markTemplate:
    '`type: null` ends it. It makes no version; what is in force of the template is what new documents begin with.',
  nextNumber:
    'By the pattern that the Rulebook has for the type, else that of all others, else `CODE-###`: the number above the highest of that form. It is reserved for nobody.',
  libraryPeople:
    'Everybody who holds a role here, for choosing owners, co-authors and approvers; in parts, searched by `q`.',
  readRulebook: 'The rules in force with their revision, which is its entity tag.',
  changeRulebook:
    'What is left out stays. Versions that then exceed a limit are thinned by a job, which the answer names; they stay recoverable for the days the rules say.',
  rulebookHistory: 'Each with who set it, when, why, and what it changed.',
  consequences:
    'Computed by the same functions as the rules themselves: versions that would be thinned, people who would gain or lose sight, numbers that would change; each list in parts.',
  pace: 'Publications a year and a document, and limits made of that, to choose from.',
  shelf:
    'With what each would bring back and the days left; only what one sees. With `revision` only what the rules thinned while that one was in force, to undo it.',
  readJob: 'State, how much is done of how much, and what came of it.',
  cancelJob: 'Only computations: what is being kept is not left half done.',
  listPeople: 'In parts, searched by `q` in account and name; closed accounts unless `open`.',
  addPerson: 'With a first password, which its holder changes. An account is told apart by every sign.',
  changePerson:
    'Closing ends sessions and tokens at once. What its holder owns, co-authors, approves, is asked about, holds and has set aside goes to `handOverTo`, in a job; with `rehearse` it is only counted.',
  listSessionsOf: "As the list of one's own.",
  endSessionsOf: 'Every browser of that person is signed out.',
  endSessionOf: 'By its id, from the list.',
  listTokensOf: 'Without their secrets.',
  revokeTokensOf: 'At once.',
  revokeTokenOf: 'At once.',
  listGroups:
    'In parts, with their people and the libraries in which they hold roles; searched by `q` in the names of all three, and in accounts.',
  addGroup: 'Roles are given to it in each library, among the members.',
  changeGroup:
    'Who leaves a group loses the roles held only through it; work that would be left to nobody goes to `handOverTo`, as with members.',
  removeGroup: 'Its people lose the roles they held only through it; their accounts stay.',
  listDocuments:
    'Documents of which one sees something, with the latest version one sees. `q` takes beginnings of words, in number, title, type, subject and comments of versions one sees; all must be found. `total` is exact unless `about` says that it is an estimate.',
  listSubjects:
    'The subjects of a document are the path of its folder, the broadest first. Without `path` those that stand first, else those that come next on it, in the latest versions one sees. Documents on a path are listed with `path` of the Register.',
  findByFileName:
    'The name that its file has or had, also in earlier versions, as far as one sees them; the name that the drive or an issued copy gave it, with what browsers add; or one in which its number stands. `more`: so many files are called so that the name does not say it.',
  createDocument:
    'A multipart form: `file`, `fields` as JSON, `comment`, `level`. Where no number is given the library proposes the next. Fields of the library’s own stand beside the others in `fields`, by name. `level: major` registers it in force where the rules let its author publish.',
  readDocument:
    'With its custody, approval run, what may be done with it now and why not, and the labels versions to come would have.',
  changeDocument:
    'Fields are versioned: each change makes a version without new content. `null` empties a field. Owner, co-authors, approvers and what the Rulebook calls administrative alone make none. Fields of the library’s own stand beside the others, by name; a person is given by account.',
  documentContent: 'With `ETag`, `Repr-Digest` (RFC 9530) and `Content-Disposition`.',
  listVersions: 'Newest first, in parts; the cursor is the id of the last version of the part before.',
  readVersion:
    'By label of the present era (`8.1`), by era and label (`2~3.0`) or by id. Carries `Link` headers to its neighbours (RFC 8288, RFC 5829).',
  versionContent:
    "Byte for byte. With `marked=true` the version's mark is written into a copy, where the type can carry one; with `issued=true` it is an issued copy; where there can be none, the file as it was checked in, with why in the header `Not-Issued` (percent-encoded UTF-8).",
  versionReading:
    'Headings, paragraphs, lists, tables, notes and pictures in one model, whatever the format; long ones in parts.',
  versionPicture: 'By the name of the part, as the reading gives it.',
  compareVersions:
    'As changes with counts, and both texts with what changed in them. A heavy one may answer 503 with `Retry-After`.',
  readCheckout: 'Null where nobody does.',
  checkOut:
    "One holder at a time, held by a key of the database. The end is the Rulebook's unless `until` is given.",
  prolong: 'The holder moves the end; not beyond what the rules allow at once.',
  giveBack: 'Saves of the working copy are lost with it. Nothing else changes.',
  keepForLater:
    'When a program closes what it saved, its holder is asked what becomes of it: a check-in, giving back, or this.',
  takeBackLock:
    'As if the program had closed the document: what it saved is asked about; where it saved nothing, what it checked out is given back.',
  workingCopy:
    'With `marked=true` carrying the mark of its base, so that it is known again when it comes back.',
  saveWorkingCopy:
    'Each save is a step that can be gone back to. It makes no version, unless the rules make each save a draft.',
  listSaves: 'Newest last, with size and time.',
  readSave: 'By its position, from the list.',
  goBackToSave: 'The steps after it stay.',
  compareSoFar: 'As compare of two versions answers it.',
  lift: 'Its holder is told, and finds the working copy on their Desk, to be brought in later.',
  custodyHistory: 'Since when, until when, how it ended and who ended it.',
  checkIn:
    'A multipart form: `file` (else the working copy), `comment`, `level`, `keepCheckedOut`, `confirm`. A question that is open (`same-bytes`, `other-name`, `other-type`, `stale-base`) is answered 409 with its code; send the code in `confirm` to answer yes.',
  restore:
    'The content of `from` becomes a new version, and with `fields` its fields too. Nothing in between is lost.',
  publish:
    'The latest draft comes into force, at once or at `inForceFrom`; what was in force is superseded and stays.',
  uploadVersion: 'Refused where the base is not the latest version any more, naming both.',
  submit:
    "Those who decide are the document's approvers, else the library's. Until they have decided nobody checks the document out.",
  callBack: 'By who submitted it, its owner or a controller; approvers are told.',
  inForce:
    'Library by library, by number: the version in force of each document, since when, with its comment; `new` where it came into force since the caller last looked. Words are looked for in what is in force alone. With `Accept: text/csv` or `application/vnd.openxmlformats-officedocument.spreadsheetml.sheet` the whole list comes as a file; with `asOf` what was in force then.',
  libraryInForce: 'The same in one library, of all documents or those of a subject.',
  calendar:
    'By number: from when until when each version was in force, until `to` or now, as far as the caller saw it at that moment and may see it now.',
  days: 'After `from`, until `to`, in order: versions that came into force or ceased to be, and decisions with their words for whoever could see the run. As far as the caller saw it at `to` and may see it now.',
  lookedAtInForce: 'What came into force until that moment is new no more. A later look is kept.',
  readMailChoice:
    '`sentTo` is where messages go: the address one gave, else the account at the domain of the site.',
  chooseMail:
    'Each at once, together once a day (those of until 05:00 UTC), or not at all. In the app they stand at once in any case. An `address` that is left out stays.',
  outbox:
    'As far as one sees what they are about. System administrators are told of everybody (or of `to`) where messages went and whether they left, not what they say.',
  readMessage: "One of one's own. With `Accept: message/rfc822` it comes as it was made (RFC 5322).",
  answerMessage:
    'As from a mail program: the first word is `approve`, `reject` or `later`, the rest the comment; quoted lines and the signature are left out. Good for one decision of that person about that version in that run.',
  incomingMail:
    'For a mail system, as `message/rfc822`, without a sign-in: the address the answer went to carries the secret. What came of it is told its writer by mail.',
  listApprovals:
    "Over all libraries, as far as one sees the versions. `part=toDecide`: where the caller's turn is now, the longest waiting first. `part=out`: what the caller submitted or owns, and in libraries they control everything, that waits for others; with `state` also what was approved and is not published, or was rejected, with who decided and why.",
  replaceApprover:
    'The other is asked in the same turn about the same version; both are told, with the reason. Who has decided stays.',
  decide:
    '`approve`, `reject` or `later`. With the last approval needed the version is approved, and published where the rules say so. Decided twice is refused.',
  readLimit: '`limit: null`: it is there for every member. Told to whoever sees the document.',
  setLimit:
    'For everybody else but controllers it does not exist, by any route; its owner and co-authors are always among those it is kept to. With a reason. Answers whose sight of it changes; with `rehearse` nothing else happens. Refused while somebody left out holds it or is asked to decide.',
  readDistribution:
    'Those who have not confirmed it first, by name; who is no member any more is left out. `Accept: text/csv` and .xlsx for the whole list. For those who may say who reads it, and auditors.',
  distribute:
    'Replaces who is named. Who is new is asked to read what is in force; everybody named is asked at each new version in force. Who joins a group later is asked too.',
  remindReaders: 'Tells them once more, as notices and by mail as they chose.',
  confirmRead: 'By whoever is asked to; once a version.',
  review:
    '`confirmed`: it holds on, with the date of the next review; `opened`: it is to be changed, and where there are drafts and none is open, one is made of it. Kept with the version; answers the document.',
  void: 'With a reason. Lists, counts and searches leave it out unless asked for by `voided=true`, its number is never used again, auditors and controllers still see it. Whoever registered it may within the hour, while nothing of it was published and nobody else did anything with it. Not while it is held or in approval.',
  unvoid: 'With a reason. It is there again, as it was, for whoever saw it.',
  withdraw:
    'With a reason, which stays with it. Where it is in force the published version before it is in force again, as far as its content is there; also while somebody holds the document.',
  reinstate:
    'Under its own number. Published versions after it are withdrawn, none is lost, and the next number is above them all.',
  reschedule: 'At another moment to come, or at once (`inForceFrom: null`). By whoever may publish.',
  takeBack: 'It is withdrawn before it ever was in force; what is in force stays so. By whoever may publish.',
  versionIssuable:
    'A copy is made and thrown away; what it says is what a reader would be told with the file.',
  versionOutlook:
    'Computed by the act itself: what would be in force then, for how many members, and what would be withdrawn. Changes nothing; refused as the act would be.',
  thinVersion:
    'Not what is in force, the latest, sheltered or held. It can be recovered for the days the rules say.',
  recoverVersion: 'While it is on the shelf; its label, author and comment never went.',
  shelterVersion: 'No limit thins it from then on.',
  unshelterVersion: 'The limits of the Rulebook hold for it again.',
  visibility: 'For every member, in parts: sees it or not, and by which rule.',
  desk: 'Up to 200 of each kind, with how many there are.',
  waiting: 'Two counts, asked for often.',
  workingCopies: 'Stored one after another, streamed; `documents` are ids with commas between.',
  listNotices: 'In parts; with how many are new.',
  readNotices: 'Up to and with the id `upTo`; later ones stay new.',
  addDeskFile:
    'The mark in it, else its name, says which document it may be meant for; the answer names it. With `library` and `fields` it is meant to be registered there; `meantFor.missing` names what that still needs.',
  takeLooseCopy: "It carries the version's mark. It locks nothing, and nobody else knows of it.",
  readDeskFile: 'With the document it is taken from, as far as one sees that.',
  deskFileContent: 'The bytes as they were last written.',
  deskSaveContent: 'By its position; only copies set aside have any.',
  saveDeskFile: 'For editing in the page. If-Match keeps two windows from overwriting each other.',
  removeDeskFile: 'For good: it is nowhere else.',
  deskFilePicture: 'By the name of the part, as the merge gives it.',
  mergeDeskFile:
    "Three ways: as it was taken, as it is now, one's own. Regions that both changed are conflicts to be chosen; the same file laid over itself has none.",
  bringIn:
    'With a choice for each conflict: `present`, `mine`, `both` or `base`. The package that comes of it is checked before it is kept; what is not whole is refused with the reason.',
  saveFromDesk: 'The file leaves the Desk. The document must be held by the caller.',
  registerDeskFile: 'The file leaves the Desk and becomes a first version.',
  bulk: 'Each document is done by itself, in a transaction of its own: one that is refused keeps none of the others from it. The answer lists each outcome.',
  events:
    'An event names the document or library that changed, never what changed: read it again. Sent only to who may see it.',
};
