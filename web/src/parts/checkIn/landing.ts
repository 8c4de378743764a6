import type { Document } from '@polychron/contract';
import type { Level } from '@polychron/core';

/** A way of making the next version: its level and the number that gives. */
export interface LandingWay {
  level: Level;
  label: string;
}

/** What landing needs to know of a document. */
export interface Landing {
  documentId: string;
  number: string;
  title: string;
  registeredName: string;
  /**
   * By check-in for whoever holds it, by upload where the library allows that, or with a check-out taken for
   * the moment.
   */
  by: 'checkIn' | 'upload' | 'checkOut';
  /** The version that is at present the latest, which an upload is based on. */
  latest: { id: string; label: string };
  workingCopy: { fileName: string; savedAt: string | null } | null;
  commentRequired: boolean;
  /** The numbers to come, drafts first. */
  ways: readonly LandingWay[];
  /** Where approval is on: the number a major version has until its approvers agree. */
  submittedAs: string | null;
  /** Versions that wait for their moment. */
  scheduled: readonly { label: string; inForceFrom: string }[];
}

/** Where the next version may land, while the viewer holds the document; undefined otherwise. */
export function landingOf(document: Document): Landing | undefined {
  const landing = anyLandingOf(document);
  return landing?.by === 'checkIn' ? landing : undefined;
}

/** How the viewer may make the next version, whether they hold the document or not; undefined where not. */
export function anyLandingOf(document: Document): Landing | undefined {
  const { custody, toCome, acts, latest } = document;
  const by = howTo(acts, Boolean(custody?.mine));
  if (!toCome || !by) return undefined;
  return {
    documentId: document.id,
    number: document.number,
    title: document.title,
    registeredName: latest.fileName,
    by,
    latest: { id: latest.id, label: latest.label },
    workingCopy:
      by === 'checkIn' && custody?.workingCopy
        ? { fileName: custody.workingCopy.fileName, savedAt: custody.lastSavedAt }
        : null,
    commentRequired: toCome.commentRequired,
    ways: [
      ...(toCome.minor ? [{ level: 'minor' as const, label: toCome.minor }] : []),
      { level: 'major', label: toCome.major },
    ],
    submittedAs: toCome.submittedAs,
    scheduled: toCome.scheduled,
  };
}

function howTo(acts: Document['acts'], mine: boolean): Landing['by'] | null {
  if (mine) return acts.checkIn.allowed ? 'checkIn' : null;
  if (acts.upload.allowed) return 'upload';
  return acts.checkOut.allowed ? 'checkOut' : null;
}
