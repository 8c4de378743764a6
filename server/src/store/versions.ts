import { validate } from 'uuid';
import type { Actor, ContentFacts, Fields, ParsedLabel, Rulebook, Version } from '@polychron/core';
import { rows, type Tx } from './database.ts';
import { parseJson, type VersionRow } from './models.ts';
import { sightCondition } from './sight.ts';
import type { Store } from './store.ts';

/** The content a row names: of a version, a save, or a file on a Desk. */
export const contentOf = ({ sha256, size, fileName, mediaType, words }: ContentFacts): ContentFacts => ({
  sha256,
  size: Number(size),
  fileName,
  mediaType,
  words,
});

/** A stored version as core sees it. */
export function toVersion(row: VersionRow): Version {
  const { thinnedAt, thinnedUntil, thinnedWhy } = row;
  return {
    id: row.id,
    sequence: row.sequence,
    era: row.era,
    major: row.major,
    minor: row.minor,
    numbering: row.numbering,
    state: row.state,
    standing: row.standing,
    authorId: row.authorId,
    at: row.at,
    comment: row.comment,
    origin: { kind: row.originKind, from: row.originFrom },
    content: contentOf(row),
    fields: parseJson<Fields>(row.fields),
    inForceFrom: row.inForceFrom,
    supersededAt: row.supersededAt,
    thinned: thinnedAt && { at: thinnedAt, until: thinnedUntil ?? thinnedAt, why: thinnedWhy ?? '' },
    sheltered: Boolean(row.sheltered),
  };
}

/** Versions by id; ids there are none of are left out. */
export async function findVersions(
  store: Store,
  ids: readonly (string | null)[],
  tx?: Tx,
): Promise<Map<string, Version>> {
  const wanted = [...new Set(ids)].filter((id) => id !== null);
  if (wanted.length === 0) return new Map();
  const found = await store.models.Version.findAll({ where: { id: wanted }, transaction: tx ?? null });
  return new Map(found.map((row) => [row.id, toVersion(row)]));
}

/** A document's version by label in the present era, or by id; null where there is none. */
export async function findVersionNamed(
  store: Store,
  document: { id: string; presentEra: number },
  name: ParsedLabel | { id: string },
  tx?: Tx,
): Promise<Version | null> {
  // The database compares ids as ASCII: what is no id (RFC 9562) names nothing.
  if ('id' in name && !validate(name.id)) return null;
  const where =
    'id' in name
      ? { documentId: document.id, id: name.id }
      : {
          documentId: document.id,
          era: name.era ?? document.presentEra,
          major: name.major,
          minor: name.minor ?? 0,
        };
  const row = await store.models.Version.findOne({ where, transaction: tx ?? null });
  return row && toVersion(row);
}

/** The document a version belongs to, and the version; null where there is none. */
export async function findVersionAnywhere(
  store: Store,
  id: string,
): Promise<{ documentId: string; version: Version } | null> {
  const row = validate(id) ? await store.models.Version.findByPk(id) : null;
  return row && { documentId: row.documentId, version: toVersion(row) };
}

/** Every version of a document, oldest first. */
export async function loadVersions(store: Store, documentId: string, tx?: Tx): Promise<Version[]> {
  const found = await store.models.Version.findAll({
    where: { documentId },
    order: ['sequence'],
    transaction: tx ?? null,
  });
  return found.map(toVersion);
}

const source = `versions v JOIN documents d ON d.id = v.document_id LEFT JOIN checkouts c ON c.document_id = v.document_id`;

/** Who looks, under which rules: all documents of one question belong to one library. */
export interface Sight {
  actor: Actor;
  rules: Rulebook;
}

/** The newest versions of a document that somebody sees, oldest first, and how many they see in all. */
export interface Visible {
  versions: Version[];
  total: number;
}

/** The newest `count` versions somebody sees of each document. */
export async function newestVisible(
  store: Store,
  { actor, rules }: Sight,
  of: { documentIds: readonly string[]; count: number },
  tx?: Tx,
): Promise<Map<string, Visible>> {
  const answer = new Map<string, Visible>();
  if (of.documentIds.length === 0) return answer;
  const found = await rows<{ id: string; documentId: string; visible: number }>(
    store.db,
    `SELECT id, document_id AS documentId, visible FROM (
       SELECT v.id, v.document_id, v.sequence,
         ROW_NUMBER() OVER (PARTITION BY v.document_id ORDER BY v.sequence DESC) AS place,
         COUNT(*) OVER (PARTITION BY v.document_id) AS visible
       FROM ${source} WHERE v.document_id IN (:documentIds) AND ${sightCondition(actor, rules)}
     ) seen WHERE place <= :count ORDER BY sequence`,
    { ...of, viewer: actor.id },
    tx,
  );
  const versions = await findVersions(
    store,
    found.map(({ id }) => id),
    tx,
  );
  for (const { id, documentId, visible } of found) {
    const version = versions.get(id);
    const known = answer.get(documentId) ?? { versions: [], total: Number(visible) };
    if (version) known.versions.push(version);
    answer.set(documentId, known);
  }
  return answer;
}

/** A page of the versions of one document that somebody sees, newest first, from below `before`. */
export async function pageOfVisible(
  store: Store,
  { actor, rules }: Sight,
  documentId: string,
  page: { before: number | null; count: number },
): Promise<Visible> {
  const sight = sightCondition(actor, rules);
  const replacements = {
    documentId,
    viewer: actor.id,
    before: page.before ?? 2 ** 31 - 1,
    count: page.count,
  };
  const found = await rows<{ id: string }>(
    store.db,
    `SELECT v.id FROM ${source} WHERE v.document_id = :documentId AND v.sequence < :before AND ${sight}
     ORDER BY v.sequence DESC LIMIT :count`,
    replacements,
  );
  const [sum] = await rows<{ total: number }>(
    store.db,
    `SELECT COUNT(*) AS total FROM ${source} WHERE v.document_id = :documentId AND ${sight}`,
    replacements,
  );
  const versions = await findVersions(
    store,
    found.map(({ id }) => id),
  );
  return {
    versions: [...versions.values()].sort((a, b) => b.sequence - a.sequence),
    total: Number(sum?.total ?? 0),
  };
}

/** The versions right before and after one, among those somebody sees. */
export async function visibleNeighbours(
  store: Store,
  { actor, rules }: Sight,
  documentId: string,
  sequence: number,
): Promise<{ before: Version | null; after: Version | null }> {
  const nearest = async (sign: '<' | '>', order: 'ASC' | 'DESC'): Promise<Version | null> => {
    const [row] = await rows<{ id: string }>(
      store.db,
      `SELECT v.id FROM ${source} WHERE v.document_id = :documentId AND v.sequence ${sign} :sequence
         AND ${sightCondition(actor, rules)} ORDER BY v.sequence ${order} LIMIT 1`,
      { documentId, sequence, viewer: actor.id },
    );
    return row ? ((await findVersions(store, [row.id])).get(row.id) ?? null) : null;
  };
  return { before: await nearest('<', 'DESC'), after: await nearest('>', 'ASC') };
}

/**
 * The words of the version right before each of these, among those somebody sees; null where it has no text.
 */
export async function wordsBefore(
  store: Store,
  { actor, rules }: Sight,
  ids: readonly string[],
  tx?: Tx,
): Promise<Map<string, number | null>> {
  if (ids.length === 0) return new Map();
  const found = await rows<{ id: string; words: number | null }>(
    store.db,
    `SELECT w.id, (SELECT v.words FROM versions v WHERE v.document_id = w.document_id AND v.sequence < w.sequence
         AND ${sightCondition(actor, rules)} ORDER BY v.sequence DESC LIMIT 1) AS words
     FROM versions w JOIN documents d ON d.id = w.document_id LEFT JOIN checkouts c ON c.document_id = w.document_id
     WHERE w.id IN (:ids)`,
    { ids, viewer: actor.id },
    tx,
  );
  return new Map(found.map(({ id, words }) => [id, words]));
}
