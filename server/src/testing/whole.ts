import { createHash } from 'node:crypto';
import { chainText, type LedgerEntry } from '@polychron/core';
import { readContent, sha256 } from '../content/contents.ts';
import type { Context } from '../context.ts';
import { rows } from '../store/database.ts';

/** What must never be found, each as a count of rows that show it. */
const halves: Record<string, string> = {
  'a check-out of nobody, or on no base': `SELECT COUNT(*) AS n FROM checkouts c
     LEFT JOIN people p ON p.id = c.holder_id LEFT JOIN versions v ON v.id = c.base_id WHERE p.id IS NULL OR v.id IS NULL`,
  'a check-out without a time in the history, or the other way': `SELECT
     (SELECT COUNT(*) FROM checkouts c WHERE NOT EXISTS
        (SELECT 1 FROM custody_periods q WHERE q.document_id = c.document_id AND q.ended_at IS NULL))
     + (SELECT COUNT(*) FROM custody_periods q WHERE q.ended_at IS NULL AND NOT EXISTS
        (SELECT 1 FROM checkouts c WHERE c.document_id = q.document_id AND c.holder_id = q.holder_id)) AS n`,
  'a content without its chunks': `SELECT COUNT(*) AS n FROM contents c WHERE c.purged_at IS NULL
     AND NOT EXISTS (SELECT 1 FROM content_chunks k WHERE k.content = c.sha256)`,
  'a version whose content is not kept though it was never thinned': `SELECT COUNT(*) AS n FROM versions v
     LEFT JOIN contents c ON c.sha256 = v.sha256 WHERE v.thinned_at IS NULL AND (c.sha256 IS NULL OR c.purged_at IS NOT NULL)`,
  'a head that is not of the newest version': `SELECT COUNT(*) AS n FROM heads h JOIN versions v ON v.id = h.latest_id
     WHERE v.sequence <> h.last_sequence
       OR h.last_sequence <> (SELECT MAX(o.sequence) FROM versions o WHERE o.document_id = h.document_id)
       OR h.last_sequence <> (SELECT COUNT(*) FROM versions o WHERE o.document_id = h.document_id)`,
  'two versions in force, or one that the head does not know': `SELECT COUNT(*) AS n FROM heads h WHERE
     (SELECT COUNT(*) FROM versions v WHERE v.document_id = h.document_id AND v.state = 'published' AND v.standing = 'inForce')
       <> (h.in_force_id IS NOT NULL)
     OR (h.in_force_id IS NOT NULL AND NOT EXISTS
       (SELECT 1 FROM versions v WHERE v.id = h.in_force_id AND v.standing = 'inForce'))`,
  'bytes that do not add up': `SELECT
     (SELECT COUNT(*) FROM heads h WHERE h.bytes_kept <>
        (SELECT COALESCE(SUM(v.size), 0) FROM versions v WHERE v.document_id = h.document_id AND v.thinned_at IS NULL))
     + (SELECT COUNT(*) FROM library_usage u WHERE u.bytes <>
        (SELECT COALESCE(SUM(h.bytes_kept), 0) FROM heads h WHERE h.library_id = u.library_id)) AS n`,
  'counts of versions by kind that do not add up': `SELECT COUNT(*) AS n FROM
     (SELECT document_id, kind, COUNT(*) AS count FROM versions GROUP BY document_id, kind) v
     LEFT JOIN kind_counts k ON k.document_id = v.document_id AND k.kind = v.kind WHERE k.count IS NULL OR k.count <> v.count`,
  'a newest version that is not the newest of its kind': `SELECT COUNT(*) AS n FROM newest_versions w
     WHERE w.person_id = '' AND w.sequence <> (SELECT MAX(v.sequence) FROM versions v WHERE v.document_id = w.document_id AND v.kind = w.kind)`,
  'counts of documents that do not add up': `SELECT COUNT(*) AS n FROM newest_counts c WHERE c.count <>
     (SELECT COUNT(*) FROM newest_versions w WHERE w.library_id = c.library_id AND w.person_id = '' AND w.kind = c.kind AND w.later = c.later)`,
  'a document that heads nothing': `SELECT COUNT(*) AS n FROM heads h
     WHERE NOT EXISTS (SELECT 1 FROM newest_versions w WHERE w.document_id = h.document_id AND w.person_id = '')`,
  'a library that does not stand at its last revision': `SELECT COUNT(*) AS n FROM libraries l WHERE l.rulebook_revision <>
     (SELECT MAX(r.revision) FROM rulebook_revisions r WHERE r.library_id = l.id)`,
  'a version the Ledger does not tell of': `SELECT COUNT(*) AS n FROM heads h WHERE NOT EXISTS
     (SELECT 1 FROM ledger l WHERE l.chain = h.document_id)`,
};

/**
 * Names what of a database is by halves; nothing where all is whole. Contents are read where `bytes` is
 * set.
 */
export async function foundByHalves(context: Context, { bytes }: { bytes: boolean }): Promise<string[]> {
  const found: string[] = [];
  for (const [what, sql] of Object.entries(halves)) {
    const [count] = await rows<{ n: number }>(context.db, sql, {});
    if (Number(count?.n) > 0) found.push(`${what}: ${count?.n}`);
  }
  found.push(...(await brokenChains(context)));
  if (bytes) found.push(...(await damaged(context)));
  return found;
}

/** Chains of the Ledger in which an entry is missing, or is not what it was. */
async function brokenChains({ models }: Context): Promise<string[]> {
  const entries = await models.Ledger.findAll({ order: ['chain', 'sequence'] });
  const broken = new Set<string>();
  let before = { chain: '', sequence: 0, hash: '' };
  for (const row of entries) {
    const last = row.chain === before.chain ? before : { chain: row.chain, sequence: 0, hash: '' };
    const { documentId, libraryId, sequence, at, personId, act, facts } = row;
    const entry: LedgerEntry = { documentId, libraryId, sequence, at, personId, act, facts };
    const hash = createHash('sha256').update(chainText(last.hash, entry)).digest('hex');
    if (sequence !== last.sequence + 1 || hash !== row.hash) broken.add(`the Ledger's chain of ${row.chain}`);
    before = { chain: row.chain, sequence, hash: row.hash };
  }
  return [...broken];
}

/** Versions whose content does not come back as it went in. */
async function damaged(context: Context): Promise<string[]> {
  const found: string[] = [];
  const kept = await rows<{ sha256: string; size: number }>(
    context.db,
    'SELECT DISTINCT v.sha256, v.size FROM versions v JOIN contents c ON c.sha256 = v.sha256 WHERE c.purged_at IS NULL',
    {},
  );
  for (const { sha256: hash, size } of kept) {
    const read = await readContent(context, hash);
    if (sha256(read) !== hash || read.length !== Number(size)) found.push(`the content ${hash}`);
  }
  return found;
}
