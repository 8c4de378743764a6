import { openConnection } from '@polychron/server';

/** How large a library is to be. */
export interface Size {
  documents: number;
  versions: number;
  /** Authors who own its documents, in turn. */
  owners: number;
}

/** Every so many documents the latest version is in approval, approved or rejected, or somebody holds it. */
const every = {
  inApproval: 50,
  approved: 51,
  rejected: 53,
  held: 40,
  overdue: 360,
  limited: 700,
  read: 900,
  reviewDue: 801,
  template: 3000,
};
/** Messages that were made for the first owner. */
const messages = 20_000;

/**
 * Fills a library by SQL with rows as acts would have made them: drafts x.1 and x.2 between published
 * versions, the latest a draft, or what else unpublished ones are; some held, some overdue, some kept to two
 * people, some to be read by another, some past their review date, some templates. Its owners are made too,
 * `owner1-1` and on, and messages for the first of them. Contents are one and the same. `rebuildHeads` must
 * follow.
 * @param kind tells several libraries apart, 1 to 9
 */
export async function fillLibrary(
  databaseUrl: string,
  libraryId: string,
  { documents, versions, owners, kind }: Size & { kind: number },
): Promise<void> {
  const db = await openConnection(databaseUrl);
  const hash = '0'.repeat(64);
  const id = (part: number, number: string): string =>
    `CONCAT('00000000-0000-7000-8${part}0${kind}-', LPAD(${number}, 12, '0'))`;
  const owner = (number: string): string => id(3, `1 + (${number}) MOD ${owners}`);
  const moment = (place: string): string => `'2024-01-01' + INTERVAL (${place}) * 40 + d.seq MOD 40 DAY`;
  const versionId = (place: string): string => id(2, `d.seq * ${versions} + ${place}`);
  const lastMajor = Math.floor(versions / 3) * 3;
  await db.query('SET SESSION foreign_key_checks = 0');
  await db.query('SET SESSION unique_checks = 0');
  for (const statement of [
    `INSERT IGNORE INTO contents (sha256, size) VALUES ('${hash}', 20000)`,
    `INSERT INTO people (id, account, name, password_hash, created_at)
       SELECT ${id(3, 'o.seq')}, CONCAT('owner${kind}-', o.seq), CONCAT('Owner ', o.seq), '', '2024-01-01'
       FROM seq_1_to_${owners} o`,
    `INSERT INTO members (library_id, person_id, role)
       SELECT '${libraryId}', ${id(3, 'o.seq')}, 'author' FROM seq_1_to_${owners} o`,
    `INSERT INTO documents (id, library_id, number, owner_id, co_author_ids, approver_ids, created_at)
       SELECT ${id(1, 'd.seq')}, '${libraryId}', CONCAT('SC-', LPAD(d.seq, 6, '0')), ${owner('d.seq')}, '[]', '[]', ${moment('0')}
       FROM seq_1_to_${documents} d`,
    `INSERT INTO versions (id, document_id, sequence, era, major, minor, numbering, state, standing, author_id, at, comment,
         origin_kind, sha256, size, file_name, media_type, words, fields, in_force_from, superseded_at)
       SELECT ${versionId('v.seq')}, ${id(1, 'd.seq')}, v.seq, 1, v.seq DIV 3, v.seq MOD 3, 'stepped',
         CASE WHEN v.seq MOD 3 = 0 THEN 'published' WHEN v.seq < ${versions} THEN 'draft'
           WHEN d.seq MOD ${every.inApproval} = 0 THEN 'inApproval' WHEN d.seq MOD ${every.approved} = 0 THEN 'approved'
           WHEN d.seq MOD ${every.rejected} = 0 THEN 'rejected' ELSE 'draft' END,
         IF(v.seq MOD 3 > 0, NULL, IF(v.seq = ${lastMajor}, 'inForce', 'superseded')),
         ${owner('d.seq + v.seq')}, ${moment('v.seq')},
         CONCAT('Change ', v.seq, ' after the inspection of span ', d.seq MOD 977), IF(v.seq = 1, 'upload', 'checkIn'),
         '${hash}', 20000, CONCAT('document ', d.seq, '.docx'), 'application/test', 300,
         CONCAT('{"title":"Inspection of tower ', d.seq, '","type":"procedure","subject":["Line ', d.seq MOD 40, '"]}'),
         IF(v.seq MOD 3 = 0, ${moment('v.seq')}, NULL),
         IF(v.seq MOD 3 = 0 AND v.seq < ${lastMajor}, ${moment('v.seq + 3')}, NULL)
       FROM seq_1_to_${documents} d JOIN seq_1_to_${versions} v`,
    `INSERT INTO heads (document_id, library_id, latest_id, in_force_id, present_era, highest_major, highest_minor,
         last_sequence, bytes_kept)
       SELECT ${id(1, 'd.seq')}, '${libraryId}', ${versionId(String(versions))}, ${versionId(String(lastMajor))}, 1,
         ${Math.floor(versions / 3)}, ${versions % 3}, ${versions}, ${versions * 20_000}
       FROM seq_1_to_${documents} d`,
    `INSERT INTO version_periods (library_id, document_id, version_id, from_at, until_at, state, standing, in_force_from)
       SELECT '${libraryId}', document_id, id, at, superseded_at, state,
         IF(superseded_at IS NULL, standing, 'inForce'), in_force_from
       FROM versions WHERE document_id LIKE '00000000-0000-7000-810${kind}-%'`,
    `INSERT INTO version_periods (library_id, document_id, version_id, from_at, state, standing, in_force_from,
         superseded_at)
       SELECT '${libraryId}', document_id, id, superseded_at, state, standing, in_force_from, superseded_at
       FROM versions WHERE document_id LIKE '00000000-0000-7000-810${kind}-%' AND superseded_at IS NOT NULL`,
    `INSERT INTO circles (document_id, person_id)
       SELECT ${id(1, 'd.seq')}, ${owner('d.seq')} FROM seq_1_to_${documents} d WHERE d.seq MOD ${every.limited} = 0
       UNION SELECT ${id(1, 'd.seq')}, ${owner('d.seq + 2')} FROM seq_1_to_${documents} d
         WHERE d.seq MOD ${every.limited} = 0`,
    `INSERT INTO document_named (document_id, purpose, person_id, since)
       SELECT ${id(1, 'd.seq')}, 'limit', ${owner('d.seq + 2')}, ${moment('0')}
       FROM seq_1_to_${documents} d WHERE d.seq MOD ${every.limited} = 0
       UNION SELECT ${id(1, 'd.seq')}, 'reading', ${owner('d.seq + 4')}, ${moment('0')}
       FROM seq_1_to_${documents} d WHERE d.seq MOD ${every.read} = 0`,
    `UPDATE documents d SET limited = EXISTS (SELECT 1 FROM circles k WHERE k.document_id = d.id),
         distributed = EXISTS (SELECT 1 FROM document_named n WHERE n.document_id = d.id AND n.purpose = 'reading')
       WHERE d.library_id = '${libraryId}'`,
    `INSERT INTO team_periods (document_id, from_at, owner_id, co_author_ids, circle)
       SELECT d.id, d.created_at, d.owner_id, d.co_author_ids,
         IF(d.limited, (SELECT JSON_ARRAYAGG(k.person_id) FROM circles k WHERE k.document_id = d.id), NULL)
       FROM documents d WHERE d.library_id = '${libraryId}'`,
    `UPDATE heads SET review_by = IF(CAST(RIGHT(document_id, 12) AS UNSIGNED) MOD ${every.reviewDue} = 0, '2026-01-01', '2099-01-01')
       WHERE library_id = '${libraryId}'`,
    `UPDATE documents SET template_for = CONCAT('Type ', RIGHT(number, 6)) WHERE library_id = '${libraryId}'
       AND CAST(RIGHT(id, 12) AS UNSIGNED) MOD ${every.template} = 0`,
    `INSERT INTO outbox (id, person_id, at, kind, address, subject, message, leaves)
       SELECT ${id(6, 'm.seq')}, ${id(3, '1')}, '2025-01-01' + INTERVAL m.seq MINUTE, 'notice', 'owner@example.org',
         CONCAT('Message ', m.seq), 'Subject: Message', FALSE FROM seq_1_to_${messages} m`,
    `INSERT INTO outbox_documents (message_id, document_id, version_id)
       SELECT ${id(6, 'm.seq')}, h.document_id, h.in_force_id FROM seq_1_to_${messages} m
       JOIN heads h ON h.document_id = ${id(1, `1 + m.seq MOD ${documents}`)}`,
    `UPDATE role_periods SET from_at = '2024-01-01' WHERE library_id = '${libraryId}'`,
    `INSERT INTO role_periods (library_id, person_id, role, from_at)
       SELECT '${libraryId}', ${id(3, 'o.seq')}, 'author', '2024-01-01' FROM seq_1_to_${owners} o`,
    `INSERT INTO custody_periods (document_id, holder_id, since, until_at, base_id)
       SELECT ${id(1, 'd.seq')}, ${owner('d.seq + 1')}, '2026-01-01',
         IF(d.seq MOD ${every.overdue} = 0, '2026-01-05', '2099-01-01'), ${versionId(String(versions))}
       FROM seq_1_to_${documents} d WHERE d.seq MOD ${every.held} = 0 AND d.seq MOD ${every.inApproval} <> 0`,
    `INSERT INTO approval_runs (id, document_id, version_id, open_document_id, mode, submitter_id, submitted_at, comment)
       SELECT ${id(4, 'd.seq')}, ${id(1, 'd.seq')}, ${versionId(String(versions))}, ${id(1, 'd.seq')}, 'serial',
         ${owner(`d.seq + ${versions}`)}, ${moment(String(versions))}, 'Please'
       FROM seq_1_to_${documents} d WHERE d.seq MOD ${every.inApproval} = 0`,
    `INSERT INTO approval_posts (run_id, position, person_id, comment)
       SELECT ${id(4, 'd.seq')}, 0, ${owner('d.seq + 3')}, ''
       FROM seq_1_to_${documents} d WHERE d.seq MOD ${every.inApproval} = 0`,
    `INSERT INTO checkouts (document_id, holder_id, since, until_at, base_id, door)
       SELECT ${id(1, 'd.seq')}, ${owner('d.seq + 1')}, '2026-01-01',
         IF(d.seq MOD ${every.overdue} = 0, '2026-01-05', '2099-01-01'), ${versionId(String(versions))}, 'web'
       FROM seq_1_to_${documents} d WHERE d.seq MOD ${every.held} = 0 AND d.seq MOD ${every.inApproval} <> 0`,
    `UPDATE library_usage SET bytes = ${documents * versions * 20_000} WHERE library_id = '${libraryId}'`,
  ])
    await db.query(statement);
  await db.query(
    'ANALYZE TABLE documents, circles, document_named, versions, version_periods, team_periods, heads, people, members, checkouts, approval_runs, approval_posts',
  );
  await db.end();
}
