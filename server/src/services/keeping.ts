import type * as contract from '@polychron/contract';
import { formatLabel, keep, limitsAnything, limitsAt, may, type Outcome, recover as decideRecover, refuse, shelter as decideShelter, thinByHand as decideThin, type Version } from '@polychron/core';
import { holdContent } from '../content/contents.ts';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import { applyDecision } from '../store/applyDecision.ts';
import { rows, transact, type Tx } from '../store/database.ts';
import { loadDocuments, loadRules, loadVersions, lockDocument, toVersion } from '../store/documents.ts';
import { sightCondition } from '../store/sightSql.ts';
import { type Access, accessLibrary, type Caller, findVersion } from './access.ts';
import { act, madeVersion } from './custody.ts';

/** What one thinning took. */
export interface Thinning { versions: number; bytes: number }
const nothing: Thinning = { versions: 0, bytes: 0 };

/** Thins a document that the caller has locked, by the rules in force, in their transaction. */
export async function thinLocked(context: Context, documentId: string, now: Date, tx: Tx): Promise<Thinning> {
  const document = (await loadDocuments(context, [documentId], tx)).get(documentId);
  if (!document || !limitsAnything(limitsAt(document.rules, now))) return nothing;
  const versions = await loadVersions(context, documentId, tx);
  const decision = keep(document, versions, now);
  if (!decision) return nothing;
  await applyDecision(context, document, decision, { personId: null, at: now }, tx);
  const gone = new Set(decision.changes.map((change) => (change.kind === 'thin' ? change.versionId : '')));
  return { versions: gone.size, bytes: versions.filter(({ id }) => gone.has(id)).reduce((sum, { content }) => sum + content.size, 0) };
}

/** Thins one document in a transaction of its own, as a thinning run does. */
export async function thinDocument(context: Context, documentId: string): Promise<Thinning> {
  return transact(context.db, async (tx) => (await lockDocument(context, documentId, tx) ? thinLocked(context, documentId, context.clock(), tx) : nothing));
}

type ByHand = (access: Access, version: Version, now: Date) => Outcome;

async function onVersion(context: Context, caller: Caller, documentId: string, name: string, decide: ByHand, hold?: (version: Version, tx: Tx) => Promise<void>): Promise<contract.Version> {
  let version: Version | null = null;
  await act(context, caller, documentId, { before: async (tx) => { if (version) await hold?.(version, tx); } }, async (access, now, tx) => {
    version = await findVersion(context, access, name, tx);
    return decide(access, version, now);
  });
  return madeVersion(context, caller, documentId, (version as Version | null)?.id ?? null);
}

/** Puts one version's content on the recovery shelf. */
export function thinVersion(context: Context, caller: Caller, documentId: string, name: string, reason: string): Promise<contract.Version> {
  return onVersion(context, caller, documentId, name, ({ document, actor }, version, now) => decideThin(document, actor, { version, reason }, now));
}

/** Takes content back from the recovery shelf. */
export function recoverVersion(context: Context, caller: Caller, documentId: string, name: string, reason: string): Promise<contract.Version> {
  return onVersion(context, caller, documentId, name, ({ document, actor }, version, now) => decideRecover(document, actor, { version, reason }, now), async (version, tx) => {
    if (!await holdContent(context, version.content.sha256, tx)) {
      throw new Refused(refuse('conflict', 'off-the-shelf', 'The content has left the recovery shelf and is gone. Its record stays.'));
    }
  });
}

/** Shelters a version from thinning, or ends that. */
export function shelterVersion(context: Context, caller: Caller, documentId: string, name: string, reason: string, sheltered: boolean): Promise<contract.Version> {
  return onVersion(context, caller, documentId, name, ({ document, actor }, version) => decideShelter(document, actor, { version, reason, sheltered }));
}

/** The recovery shelf of a library as far as the caller sees its versions; the soonest to go first. */
export async function readShelf(context: Context, caller: Caller, libraryId: string, query: { cursor?: string | undefined; limit: number }): Promise<contract.Shelf> {
  const { actor } = await accessLibrary(context, caller, libraryId);
  const sight = sightCondition(actor, await loadRules(context, libraryId));
  const now = context.clock();
  const from = `versions v JOIN documents d ON d.id = v.document_id LEFT JOIN checkouts c ON c.document_id = d.id
    WHERE d.library_id = :libraryId AND v.thinned_until > :now AND v.thinned_at IS NOT NULL AND ${sight}`;
  const replacements = { libraryId, now, viewer: actor.id, offset: Number(query.cursor ?? 0) || 0, limit: query.limit + 1 };
  const [sum] = await rows<{ total: number; bytes: number | null }>(context.db, `SELECT COUNT(*) AS total, SUM(v.size) AS bytes FROM ${from}`, replacements);
  const found = await rows<{ id: string; documentId: string; number: string }>(context.db,
    `SELECT v.id, v.document_id AS documentId, d.number FROM ${from} ORDER BY v.thinned_until, d.number, v.sequence LIMIT :limit OFFSET :offset`, replacements);
  const page = found.slice(0, query.limit);
  const versions = new Map((await context.models.Version.findAll({ where: { id: page.map(({ id }) => id) } })).map((row) => [row.id, toVersion(row)]));
  const documents = await loadDocuments(context, [...new Set(page.map(({ documentId }) => documentId))]);
  return {
    items: page.flatMap(({ id, documentId, number }) => {
      const [version, document] = [versions.get(id), documents.get(documentId)];
      if (!version?.thinned || !document) return [];
      const { at, until, why } = version.thinned;
      return [{
        document: { id: documentId, number, title: version.fields.title }, versionId: id, label: formatLabel(version, document.presentEra), state: version.standing ?? version.state,
        size: version.content.size, comment: version.comment, thinned: { at: at.toISOString(), until: until.toISOString(), why },
      }];
    }),
    next: found.length > query.limit ? String(replacements.offset + query.limit) : null,
    total: Number(sum?.total ?? 0), bytes: Number(sum?.bytes ?? 0), mayRecover: may(actor.roles, 'recover') && !actor.lookingAs,
  };
}
