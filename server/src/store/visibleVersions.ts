import type { Actor, Rulebook, Version } from '@polychron/core';
import type { Context } from '../context.ts';
import { rows, type Tx } from './database.ts';
import { toVersion } from './documents.ts';
import type { VersionRow } from './models.ts';
import { sightCondition } from './sightSql.ts';

const source = `versions v JOIN documents d ON d.id = v.document_id LEFT JOIN checkouts c ON c.document_id = v.document_id`;

/** The newest versions of some documents that the actor sees, oldest first, and how many they see in all. */
export interface Visible { versions: Version[]; total: number }

/**
 * The newest `most` versions the actor sees of each document. All documents belong to one library, whose rules are given.
 */
export async function newestVisible(context: Context, actor: Actor, rules: Rulebook, documentIds: readonly string[], most: number, tx?: Tx): Promise<Map<string, Visible>> {
  const answer = new Map<string, Visible>();
  if (documentIds.length === 0) return answer;
  const found = await rows<{ id: string; visible: number }>(context.db,
    `SELECT id, visible FROM (
       SELECT v.id, v.document_id, v.sequence, ROW_NUMBER() OVER (PARTITION BY v.document_id ORDER BY v.sequence DESC) AS place,
         COUNT(*) OVER (PARTITION BY v.document_id) AS visible
       FROM ${source} WHERE v.document_id IN (:documentIds) AND ${sightCondition(actor, rules)}
     ) seen WHERE place <= :most`,
    { documentIds, most, viewer: actor.id }, tx);
  const counts = new Map(found.map((row) => [row.id, Number(row.visible)]));
  for (const row of await findVersions(context, [...counts.keys()], tx)) {
    const known = answer.get(row.documentId) ?? { versions: [], total: counts.get(row.id) ?? 0 };
    known.versions.push(toVersion(row));
    answer.set(row.documentId, known);
  }
  for (const visible of answer.values()) visible.versions.sort((a, b) => a.sequence - b.sequence);
  return answer;
}

/** A page of the versions of one document that the actor sees, newest first, from below `beforeSequence`. */
export async function pageOfVisible(
  context: Context, actor: Actor, rules: Rulebook, documentId: string, page: { beforeSequence: number | null; limit: number },
): Promise<Visible> {
  const sight = sightCondition(actor, rules);
  const replacements = { documentId, viewer: actor.id, before: page.beforeSequence ?? 2 ** 31 - 1, limit: page.limit };
  const found = await rows<{ id: string }>(context.db,
    `SELECT v.id FROM ${source} WHERE v.document_id = :documentId AND v.sequence < :before AND ${sight} ORDER BY v.sequence DESC LIMIT :limit`, replacements);
  const [count] = await rows<{ total: number }>(context.db, `SELECT COUNT(*) AS total FROM ${source} WHERE v.document_id = :documentId AND ${sight}`, replacements);
  const versions = (await findVersions(context, found.map((row) => row.id))).map(toVersion).sort((a, b) => b.sequence - a.sequence);
  return { versions, total: Number(count?.total ?? 0) };
}

/** The versions right before and after one among those the actor sees. */
export async function visibleNeighbours(context: Context, actor: Actor, rules: Rulebook, documentId: string, sequence: number): Promise<{ before: Version | null; after: Version | null }> {
  const one = async (condition: string, order: string): Promise<Version | null> => {
    const [row] = await rows<{ id: string }>(context.db,
      `SELECT v.id FROM ${source} WHERE v.document_id = :documentId AND v.sequence ${condition} :sequence AND ${sightCondition(actor, rules)}
       ORDER BY v.sequence ${order} LIMIT 1`, { documentId, sequence, viewer: actor.id });
    const [version] = row ? await findVersions(context, [row.id]) : [];
    return version ? toVersion(version) : null;
  };
  return { before: await one('<', 'DESC'), after: await one('>', 'ASC') };
}

function findVersions(context: Context, ids: string[], tx?: Tx): Promise<VersionRow[]> {
  return ids.length === 0 ? Promise.resolve([]) : context.models.Version.findAll({ where: { id: ids }, transaction: tx ?? null });
}
