import { Op } from 'sequelize';
import { validate } from 'uuid';
import type {
  Actor,
  ContentFacts,
  DocumentState,
  Fields,
  ParsedLabel,
  Rulebook,
  Version,
} from '@polychron/core';
import { columnsOf, rows, type Tx } from './database.ts';
import { countKinds, countOf, countOwn, countVersions, type KindCounts } from './kindCounts.ts';
import { parseJson, type VersionRow } from './models.ts';
import {
  kindsIn,
  kindsOf,
  namedInTeam,
  seenKinds,
  isThereFor,
  sightWithVoided,
  sightInOne,
} from './sight.ts';
import type { Store } from './store.ts';

/** The content a row names: of a version, a save, or a file on a Desk. */
export const contentOf = ({ sha256, size, fileName, mediaType, words }: ContentFacts): ContentFacts => ({
  sha256,
  size: Number(size),
  fileName,
  mediaType,
  words,
});

/** A version as it is drawn among others: without its words, its fields and what names its content. */
export type VersionOutline = Omit<Version, 'comment' | 'content' | 'fields'> & {
  content: Pick<ContentFacts, 'size' | 'words'>;
};

/** A stored version as core sees it. */
export const toVersion = (row: VersionRow): Version =>
  Object.assign(toOutline(row), {
    comment: row.comment,
    content: contentOf(row),
    fields: parseJson<Fields>(row.fields),
  });

function toOutline(row: VersionRow): VersionOutline {
  const { thinnedAt, thinnedUntil, thinnedWhy, withdrawnAt, withdrawnWhy } = row;
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
    origin: { kind: row.originKind, from: row.originFrom },
    content: { size: Number(row.size), words: row.words },
    inForceFrom: row.inForceFrom,
    supersededAt: row.supersededAt,
    thinned: thinnedAt && { at: thinnedAt, until: thinnedUntil ?? thinnedAt, why: thinnedWhy ?? '' },
    sheltered: Boolean(row.sheltered),
    withdrawn: withdrawnAt && { at: withdrawnAt, why: withdrawnWhy ?? '' },
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
  const found = await rows<VersionRow>(
    store.db,
    `SELECT ${versionColumns} FROM versions v WHERE v.id IN (:wanted)`,
    { wanted },
    tx,
  );
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

/** The last versions of a document behind one, newest first, `limit` at most. */
export async function versionsAfter(
  store: Store,
  documentId: string,
  sequence: number,
  limit: number,
): Promise<Version[]> {
  const found = await store.models.Version.findAll({
    where: { documentId, sequence: { [Op.gt]: sequence } },
    order: [['sequence', 'DESC']],
    limit,
    raw: true,
  });
  return found.map(toVersion);
}

/** Published versions of a document whose content is kept, newest first; of one content, where given. */
export async function publishedVersions(
  store: Store,
  documentId: string,
  { sha256, limit }: { sha256?: string; limit: number },
): Promise<Version[]> {
  const found = await store.models.Version.findAll({
    where: { documentId, state: 'published', thinnedAt: null, ...(sha256 === undefined ? {} : { sha256 }) },
    order: [['sequence', 'DESC']],
    limit,
    raw: true,
  });
  return found.map(toVersion);
}

/** A version with the document it is of. */
export interface VersionOf {
  documentId: string;
  version: Version;
}

/**
 * The versions of documents that an act may turn on: the latest, what is in force or scheduled, and the bases
 * of what is held or set aside; oldest first.
 */
export async function versionsInUse(
  store: Store,
  documentIds: readonly string[],
  tx?: Tx,
): Promise<VersionOf[]> {
  const scheduled = kindsIn(kindsOf(['scheduled'])).join();
  const found = await rows<VersionRow>(
    store.db,
    `SELECT ${versionColumns} FROM (
       SELECT latest_id AS id FROM heads WHERE document_id IN (:documentIds)
       UNION SELECT in_force_id FROM heads WHERE document_id IN (:documentIds)
       UNION SELECT base_id FROM checkouts WHERE document_id IN (:documentIds)
       UNION SELECT base_id FROM desk_files WHERE document_id IN (:documentIds) AND kind = 'setAside'
       UNION SELECT id FROM versions WHERE document_id IN (:documentIds) AND kind IN (${scheduled})
     ) used STRAIGHT_JOIN versions v ON v.id = used.id`,
    { documentIds },
    tx,
  );
  // Sorted here: the database would sort such rows on disk, where there may be no room while reading goes on.
  return found
    .map((row) => ({ documentId: row.documentId, version: toVersion(row) }))
    .sort((a, b) => a.version.sequence - b.version.sequence);
}

const inForceOrBefore = kindsIn(kindsOf(['inForce', 'superseded'])).join();
const published = kindsIn(kindsOf(['inForce', 'superseded', 'scheduled'])).join();

/** The newest version of a document that was in force and stands before a place; null where there is none. */
export async function publishedBefore(
  store: Store,
  documentId: string,
  sequence: number,
  tx?: Tx,
): Promise<Version | null> {
  const [row] = await rows<VersionRow>(
    store.db,
    `SELECT ${versionColumns} FROM versions v WHERE v.document_id = :documentId AND v.sequence < :sequence
       AND v.kind IN (${inForceOrBefore}) ORDER BY v.sequence DESC LIMIT 1`,
    { documentId, sequence },
    tx,
  );
  return row ? toVersion(row) : null;
}

/** Published versions of a document behind a place, oldest first; those withdrawn are none. */
export async function publishedAfter(
  store: Store,
  documentId: string,
  sequence: number,
  tx?: Tx,
): Promise<Version[]> {
  const found = await rows<VersionRow>(
    store.db,
    `SELECT ${versionColumns} FROM versions v WHERE v.document_id = :documentId AND v.sequence > :sequence
       AND v.kind IN (${published}) ORDER BY v.sequence`,
    { documentId, sequence },
    tx,
  );
  return found.map(toVersion);
}

/** Every version of a document, oldest first. */
export async function loadVersions(store: Store, documentId: string, tx?: Tx): Promise<Version[]> {
  const found = await store.models.Version.findAll({
    where: { documentId },
    order: ['sequence'],
    transaction: tx ?? null,
    raw: true,
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
export interface Visible<V = Version> {
  versions: V[];
  total: number;
}

/** Versions at the end of a history that are looked through at once for the newest that somebody sees. */
const lookedThrough = 100;

/** Of which documents how many versions are wanted. */
interface Newest {
  documentIds: readonly string[];
  count: number;
}

/** The newest `count` versions somebody sees of each document. */
export const newestVisible = (
  store: Store,
  sight: Sight,
  asked: Newest,
  tx?: Tx,
): Promise<Map<string, Visible>> => newestSeen(store, sight, { ...asked, form: whole }, tx);

/** The newest `count` versions somebody sees of each document, in outline. */
export const newestOutlines = (
  store: Store,
  sight: Sight,
  asked: Newest,
  tx?: Tx,
): Promise<Map<string, Visible<VersionOutline>>> => newestSeen(store, sight, { ...asked, form: outline }, tx);

/** What is seen is mostly near the end of a history; the rest is asked for where it is not. */
async function newestSeen<V extends VersionOutline>(
  store: Store,
  sight: Sight,
  { documentIds, count, form }: Newest & { form: Form<V> },
  tx?: Tx,
): Promise<Map<string, Visible<V>>> {
  if (documentIds.length === 0) return new Map();
  const near = await rows<VersionRow & { seen: number; length: number }>(
    store.db,
    `SELECT ${form.columns}, near.seen, near.length FROM (
       SELECT v.id, ROW_NUMBER() OVER (PARTITION BY v.document_id ORDER BY v.sequence DESC) AS place,
         COUNT(*) OVER (PARTITION BY v.document_id) AS seen, h.last_sequence AS length
       FROM heads h JOIN ${source} ON v.document_id = h.document_id
       WHERE h.document_id IN (:documentIds) AND v.sequence > h.last_sequence - ${lookedThrough}
         AND ${sightWithVoided(sight.actor, sight.rules)}
     ) near JOIN versions v ON v.id = near.id WHERE place <= :count`,
    { documentIds, count, viewer: sight.actor.id },
    tx,
  );
  const visible = new Map<string, V[]>();
  const totals = new Map<string, number>();
  for (const row of near) {
    const known = visible.get(row.documentId);
    const version = form.read(row);
    if (known) known.push(version);
    else visible.set(row.documentId, [version]);
    // Of a short history all that is seen was counted on the way.
    if (row.length <= lookedThrough) totals.set(row.documentId, Number(row.seen));
  }
  const uncounted = documentIds.filter((id) => !totals.has(id));
  if (uncounted.length > 0)
    for (const [id, total] of await visibleTotals(store, sight, uncounted, tx)) totals.set(id, total);
  for (const [id, total] of totals) {
    if ((visible.get(id)?.length ?? 0) >= Math.min(count, total)) continue;
    const history = await historyOf(store, sight.actor, id, tx);
    visible.set(id, await seenBelow(store, sight, { id, total, history, before: null, count, form }, tx));
  }
  return new Map(
    [...visible].map(([id, versions]) => [
      id,
      { versions: oldestFirst(versions), total: totals.get(id) ?? 0 },
    ]),
  );
}

/** A version's columns that never change. */
export const unchangingColumns = [
  ...['id', 'documentId', 'sequence', 'era', 'major', 'minor', 'numbering', 'authorId', 'at', 'comment'],
  ...['originKind', 'originFrom', 'sha256', 'size', 'fileName', 'mediaType', 'words', 'fields'],
];

/** The columns that tell how a version stands. */
export const standingColumns = [
  ...['state', 'standing', 'sheltered', 'thinnedAt', 'thinnedUntil', 'thinnedWhy', 'inForceFrom'],
  ...['supersededAt', 'withdrawnAt', 'withdrawnWhy'],
];

/** A version's columns as `toVersion` reads them. */
const versionColumns = columnsOf('v', [...unchangingColumns, ...standingColumns]);

const inWhole = new Set(['comment', 'sha256', 'fileName', 'mediaType', 'fields']);
const outlineColumns = columnsOf(
  'v',
  [...unchangingColumns, ...standingColumns].filter((column) => !inWhole.has(column)),
);

/** In which columns versions are read, and into what. */
interface Form<V> {
  columns: string;
  read: (row: VersionRow) => V;
}
const whole: Form<Version> = { columns: versionColumns, read: toVersion };
const outline: Form<VersionOutline> = { columns: outlineColumns, read: toOutline };

const oldestFirst = <V extends VersionOutline>(versions: readonly V[]): V[] =>
  [...versions].sort((a, b) => a.sequence - b.sequence);

/** How many versions of each document somebody sees; documents they see nothing of are left out. */
const visibleTotals = (
  store: Store,
  { actor, rules }: Sight,
  documentIds: readonly string[],
  tx?: Tx,
): Promise<Map<string, number>> =>
  countVersions(
    store.db,
    documentIds,
    { id: actor.id, kinds: seenKinds(actor, rules), isThere: isThereFor(actor) },
    tx,
  );

/** How long a document's history is, and whether somebody is named in its team. */
interface History {
  length: number;
  named: boolean;
}

async function historyOf(store: Store, actor: Actor, documentId: string, tx?: Tx): Promise<History> {
  const [found] = await rows<{ length: number; named: number }>(
    store.db,
    `SELECT h.last_sequence AS length, ${namedInTeam} AS named FROM heads h JOIN documents d ON d.id = h.document_id
     LEFT JOIN checkouts c ON c.document_id = h.document_id WHERE h.document_id = :documentId`,
    { documentId, viewer: actor.id },
    tx,
  );
  return { length: found?.length ?? 0, named: Boolean(found?.named) };
}

/** The newest `count` versions from below a place in a history; from its end where `before` is null. */
interface Part {
  before: number | null;
  count: number;
}

/** The newest versions of one document that somebody sees, from below a place in its history. */
async function seenBelow<V>(
  store: Store,
  { actor, rules }: Sight,
  asked: { id: string; total: number; history: History; form: Form<V> } & Part,
  tx?: Tx,
): Promise<V[]> {
  const { id, total, history, before, count, form } = asked;
  // Where most is seen the history is walked from its end; else the seen kinds are read, from the index
  // alone.
  const index = total * 2 > history.length ? 'one_place' : 'by_kind';
  const found = await rows<VersionRow>(
    store.db,
    `SELECT ${form.columns} FROM (
       SELECT v.id FROM versions v FORCE INDEX (${index})
       WHERE v.document_id = :id AND v.sequence < :before AND ${sightInOne(actor, rules, history.named)}
       ORDER BY v.sequence DESC LIMIT :count
     ) seen STRAIGHT_JOIN versions v ON v.id = seen.id`,
    { id, viewer: actor.id, before: before ?? 2 ** 31 - 1, count },
    tx,
  );
  return found.map(form.read);
}

/** A part of a document's history, whose versions may have been counted by kind already. */
export interface CountedPart extends Part {
  counts?: KindCounts;
}

/** A page of the versions of one document that somebody sees, newest first, from below `before`. */
export async function pageOfVisible(
  store: Store,
  sight: Sight,
  document: Pick<DocumentState, 'id' | 'ownerId' | 'coAuthorIds' | 'custody' | 'latest'>,
  { counts, ...page }: CountedPart,
): Promise<Visible> {
  const { id, ownerId, coAuthorIds, custody, latest } = document;
  // As historyOf asks of the database; of a loaded document it is known.
  const named = [ownerId, custody?.holderId, ...coAuthorIds].includes(sight.actor.id);
  const history: History = { length: latest.sequence, named };
  const { all, team } = seenKinds(sight.actor, sight.rules);
  const byKind = countOf(counts ?? (await countKinds(store.db, id)), named ? all | team : all);
  const [own, versions] = await Promise.all([
    named || team === 0 ? 0 : countOwn(store.db, id, { id: sight.actor.id, kinds: team }),
    seenBelow(store, sight, { id, total: byKind, history, form: whole, ...page }),
  ]);
  return { versions: oldestFirst(versions).reverse(), total: byKind + own };
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
         AND ${sightWithVoided(actor, rules)} ORDER BY v.sequence ${order} LIMIT 1`,
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
         AND ${sightWithVoided(actor, rules)} ORDER BY v.sequence DESC LIMIT 1) AS words
     FROM versions w JOIN documents d ON d.id = w.document_id LEFT JOIN checkouts c ON c.document_id = w.document_id
     WHERE w.id IN (:ids)`,
    { ids, viewer: actor.id },
    tx,
  );
  return new Map(found.map(({ id, words }) => [id, words]));
}
