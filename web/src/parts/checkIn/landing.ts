import type { Document } from '@polychron/contract';
import type { Landing } from './Ghosts.tsx';

/** Where the next version may land, while the viewer holds the document; undefined otherwise. */
export function landingOf(document: Document): Landing | undefined {
  const { custody } = document;
  if (!custody?.mine || !document.toCome || !document.acts.checkIn.allowed) return undefined;
  return {
    documentId: document.id,
    number: document.number,
    registeredName: document.latest.fileName,
    workingCopy: custody.workingCopy && {
      fileName: custody.workingCopy.fileName,
      savedAt: custody.lastSavedAt,
    },
    commentRequired: document.toCome.commentRequired,
    submittedAs: document.toCome.submittedAs,
  };
}
