import type { Actor } from '@polychron/core';
import type { Context } from '../context.ts';
import type { LoadedDocument } from '../store/documents.ts';
import type { PastDocument } from '../store/past.ts';

/** Who is signed in. */
export interface Caller {
  id: string;
  account: string;
  name: string;
  systemAdministrator: boolean;
  /** When the token they come by ends; null where it has no end. */
  until?: Date | null;
  /** Set while a controller only looks, as another person (an account) or role (`role:reader`). */
  as?: string | undefined;
}

/**
 * Somebody in a library. `lookingAs` is set while a controller sees it as somebody else, `lookingAt` while
 * somebody sees it as it was; they can then only look.
 */
export type LibraryActor = Actor & { lookingAs?: string; lookingAt?: Date };

/** Whether somebody only looks: as another, or back. */
export const onlyLooks = ({ lookingAs, lookingAt }: LibraryActor): boolean =>
  lookingAs !== undefined || lookingAt !== undefined;

/** Somebody looking at or acting on one document. */
export interface Access {
  document: LoadedDocument;
  actor: LibraryActor;
  /** Set while the document is looked at as it was. */
  past?: Omit<PastDocument, 'document'>;
}

declare const admission: unique symbol;

/**
 * A document core has admitted the caller to an act on. What reads hidden content for an act takes this and
 * nothing less, so that nobody's answer can depend on what they may not see.
 */
export interface Admitted extends Access {
  readonly [admission]: true;
}

/** Who asks for an act or a read, and of which server. */
export interface Asker {
  context: Context;
  caller: Caller;
  /** The state the caller acts on (RFC 9110, 13.1.1); left out where any will do. */
  ifMatch?: string | undefined;
  /** The earlier moment that is looked at; left out for the present. */
  asOf?: Date | undefined;
}
