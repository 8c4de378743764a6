import type * as contract from '@polychron/contract';
import { unvoidDocument, voidDocument } from '@polychron/core';
import { refusalOfClosed } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import { readDocument } from '../reads/document.ts';
import { voidedView } from '../reads/documentView.ts';
import { registrationsOf } from '../store/ledger.ts';
import { perform, performWhere } from './perform.ts';

/** Voids a document; answers no more of it than whoever took it back may know now. */
export async function performVoid(
  asker: Asker,
  documentId: string,
  reason: string,
): Promise<contract.VoidAnswer> {
  const { context, caller } = asker;
  const { access } = await perform(asker, documentId, async ({ document, actor }, now, tx) => {
    const registration = (await registrationsOf(context, [document.id], tx)).get(document.id) ?? null;
    return voidDocument(document, actor, { reason, registration }, now);
  });
  const { id, number, libraryId, library } = access.document;
  const person = () => ({ account: caller.account, name: caller.name });
  return { id, number, library: { id: libraryId, ...library }, voided: voidedView(access.document, person) };
}

/** Lets a voided document stand again. */
export async function performUnvoid(
  asker: Asker,
  documentId: string,
  reason: string,
): Promise<contract.Document> {
  await performWhere(({ closed }) => refusalOfClosed(closed), asker, documentId, {
    decide: ({ document, actor }) => unvoidDocument(document, actor, { reason }),
  });
  return (await readDocument(asker, documentId)).view;
}
