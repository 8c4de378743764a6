/** The house's own words, and what each means; as docs/rules.md says it. */
export const glossary = {
  Register: 'The list of controlled documents of a library.',
  Strand:
    "A document's drawn history: published versions on the upper line, drafts on the lower one; the heavy bar runs while a version is in force.",
  Rulebook:
    "A library's rules, in the order of a document's life: how versions are numbered, held, decided, seen and kept. It has versions itself.",
  Consequences: 'What an act or other rules would do, computed and shown before it is done.',
  Custody:
    'Who holds a document checked out, since when, until when and why. The holder can give it back without a version; a controller can lift it.',
  Desk: "One person's page: what they hold, what waits for them, what came back, and files of their own.",
  Arrival: 'A file put on the Desk that is not registered or checked in anywhere yet.',
  'Set aside':
    "A working copy that was left over when its check-out was lifted; it waits on its holder's Desk.",
  'Bring in':
    'Putting the text of a file of yours, or of a copy that was set aside, into a document: merged with what changed there meanwhile.',
  Template: 'A document that new ones of a type begin with.',
  'Issued copy':
    "A version's file with number, version, status and dates written in, as true on the day it is given out.",
  Distribution: 'Who is told of each version that comes into force, and confirms having read it.',
  Outbox: 'Every message that was made to be mailed, as it was made, whether it left or not.',
  'Private copy':
    'A private copy on the Desk, without versions: each save takes the place of the one before.',
  'Seen as': 'Looking at a library as another person or role sees it.',
  'As of': 'Looking at a library as it was at an earlier moment. Nothing can be done there.',
  Sight: 'Who may see versions that are not published, by their state.',
  Sheltered: 'A mark on a version: it is never thinned.',
  Team: "A document's owner, co-authors, the author of the version, and who holds it.",
  Thinning: 'Taking away the content of old versions, by the rules of keeping. Their rows stay.',
  'Recovery shelf': 'Where thinned content waits, to be recovered by a controller for a while.',
} as const;

export type HouseWord = keyof typeof glossary;
