import type * as contract from '@polychron/contract';
import { admitRulebook, type AskedRulebook, refuse } from '@polychron/core';
import { v7 as newId } from 'uuid';
import { accessLibrary, requireAdministrator, requireRole } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import { refuseStale } from '../access/preconditions.ts';
import { libraryTag, readLibrary } from '../reads/libraries.ts';
import { withKnownApprovers } from '../reads/proposedRules.ts';
import { accepted, Refused } from '../refused.ts';
import type { Context } from '../context.ts';
import { isDuplicate, transact, type Tx } from '../store/database.ts';
import type { LibraryRow } from '../store/models.ts';
import { appendLedger } from '../store/ledger.ts';
import { changeCode, insertLibrary, takeCode, updateLibrary, workIn } from '../store/libraries.ts';
import { addRevision } from '../store/rules.ts';

/** A library to be made. */
export interface NewLibrary {
  name: string;
  code: string;
  purpose: string;
  rulebook: AskedRulebook;
}

/**
 * Makes a library with its first Rulebook; whoever makes it becomes no member by that. @throws Refused
 * `code-taken`
 */
export async function performCreateLibrary(asker: Asker, wanted: NewLibrary): Promise<contract.Library> {
  const { context, caller } = asker;
  requireAdministrator(caller, 'New libraries are made');
  const rulebook = accepted(admitRulebook(wanted.rulebook));
  const { name, code, purpose } = wanted;
  const id = newId();
  const at = context.clock();
  try {
    await transact(context.db, async (tx) => {
      await withKnownApprovers(context, rulebook, tx);
      await insertLibrary(context, { id, code, name, purpose, createdAt: at }, tx);
      if (!(await takeCode(context, id, code, tx))) throw codeTaken(code);
      const first = { revision: 1, rulebook, personId: caller.id, at, reason: 'New library' };
      await addRevision(context, id, first, tx);
      const of = { at, personId: caller.id, libraryId: id, documentId: null };
      await appendLedger(context, { ...of, act: 'createLibrary', facts: { code, name } }, tx);
    });
  } catch (error) {
    throw isDuplicate(error) ? codeTaken(code) : error;
  }
  return (await readLibrary(asker, id)).view;
}

const codeTaken = (code: string): Refused => {
  const reason = `There is, or was, a library with the code ${code}. Choose another.`;
  return new Refused(refuse('conflict', 'code-taken', reason, { code }));
};

/** What is changed of a library. */
interface LibraryChange {
  code?: string | undefined;
  name?: string | undefined;
  purpose?: string | undefined;
  closed?: boolean | undefined;
}

/**
 * Changes a library's name, purpose or code, closes it or opens it again. Addresses with its code of before
 * lead on. @throws Refused `library-in-use` where somebody still works in one that is to be closed,
 * `code-taken`
 */
export async function performChangeLibrary(
  asker: Asker,
  id: string,
  patch: LibraryChange,
): Promise<contract.Library> {
  const { context, caller, ifMatch } = asker;
  await transact(context.db, async (tx) => {
    const { library, actor } = await accessLibrary(asker, id, { tx, administrators: true });
    if (!caller.systemAdministrator) requireRole(actor, 'changeLibrary', 'Changing the library');
    refuseStale(ifMatch, libraryTag(library), { now: library.name });
    const { name = library.name, purpose = library.purpose, closed = library.closedAt !== null } = patch;
    const at = context.clock();
    if (closed && !library.closedAt) await refuseInUse(context, library, tx);
    const closedAt = closed ? (library.closedAt ?? at) : null;
    await updateLibrary(context, id, { name, purpose, closedAt }, tx);
    if (patch.code !== undefined && patch.code !== library.code) {
      if (!(await takeCode(context, id, patch.code, tx))) throw codeTaken(patch.code);
      await changeCode(context, library, patch.code, tx);
    }
    const of = { at, personId: caller.id, libraryId: id, documentId: null };
    await appendLedger(context, { ...of, act: 'changeLibrary', facts: { ...patch } }, tx);
  });
  context.events.publish({ kind: 'library', libraryId: id });
  return (await readLibrary(asker, id)).view;
}

/** Nothing that somebody works on is to be out of their reach. */
async function refuseInUse(context: Context, { id, name }: LibraryRow, tx: Tx): Promise<void> {
  const { held, inApproval } = await workIn(context, id, tx);
  if (held + inApproval === 0) return;
  const are = (count: number, what: string): string[] =>
    count === 0 ? [] : [`${count} ${count === 1 ? 'document is' : 'documents are'} ${what}`];
  const work = [...are(held, 'held'), ...are(inApproval, 'in approval')].join(' and ');
  const reason = `In ${name} ${work}. Have that given back, lifted or decided first; the Register lists it.`;
  throw new Refused(refuse('conflict', 'library-in-use', reason, { held, inApproval }));
}
