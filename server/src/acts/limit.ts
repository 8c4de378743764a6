import type * as contract from '@polychron/contract';
import { limitDocument, limitOutlook } from '@polychron/core';
import { accessDocument, requireRole } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import { accepted } from '../refused.ts';
import { limitView, peopleByName } from '../reads/distribution.ts';
import { transact, type Tx } from '../store/database.ts';
import type { LoadedDocument } from '../store/documents.ts';
import { rolesIn } from '../store/members.ts';
import { loadVersions } from '../store/versions.ts';
import { namedPeople } from './namedPeople.ts';
import { perform } from './perform.ts';

/**
 * Keeps a document to people and groups, or opens it; answers whose sight of it that changes. A rehearsal
 * changes nothing.
 */
export async function performLimit(
  asker: Asker,
  documentId: string,
  body: contract.SetLimit,
): Promise<contract.LimitOutcome> {
  const { context } = asker;
  const asked = async (document: LoadedDocument, tx: Tx) => {
    const limit = body.limit && (await namedPeople(context, document.libraryId, body.limit, tx));
    return { limit, reason: body.reason || (body.rehearse ? 'x' : '') };
  };
  if (body.rehearse) {
    const { document, actor } = await accessDocument(asker, documentId);
    requireRole(actor, 'limit', 'Keeping a document to named people');
    const command = await transact(context.db, (tx) => asked(document, tx));
    accepted(limitDocument(document, actor, command));
    const changes = await sightChanges(asker, document, command.limit);
    return { ...(await limitView(context, { ...document, limit: command.limit })), ...changes };
  }
  let changes = { losing: [] as contract.Person[], gaining: [] as contract.Person[] };
  const { access } = await perform(asker, documentId, async ({ document, actor }, _now, tx) => {
    requireRole(actor, 'limit', 'Keeping a document to named people');
    const command = await asked(document, tx);
    const outcome = limitDocument(document, actor, command);
    changes = await sightChanges(asker, document, command.limit, tx);
    return outcome;
  });
  return { ...(await limitView(context, access.document)), ...changes };
}

async function sightChanges(
  { context }: Asker,
  document: LoadedDocument,
  limit: LoadedDocument['limit'],
  tx?: Tx,
): Promise<Pick<contract.LimitOutcome, 'losing' | 'gaining'>> {
  const members = [...(await rolesIn(context, document.libraryId, null, tx))];
  const versions = await loadVersions(context, document.id, tx);
  const { losing, gaining } = limitOutlook(document, limit, {
    members: members.map(([id, roles]) => ({ id, roles })),
    versions,
  });
  return {
    losing: await peopleByName(context, losing, tx),
    gaining: await peopleByName(context, gaining, tx),
  };
}
