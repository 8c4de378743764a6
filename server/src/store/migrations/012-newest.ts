/**
 * What a list needs of each document: the newest version of each kind that sight can hide, for everybody and
 * for each person of the team, with what it is sorted by; how many versions there are of each kind; and the
 * words and subjects documents are found by. Kept by the transaction that changes a document; the tables are
 * filled by 019-named, once all they are made from is there.
 */
export const newest = {
  name: '012-newest',
  statements: [
    // Kinds as bits: store/sight.ts has the same numbers.
    `ALTER TABLE versions
      ADD COLUMN kind SMALLINT UNSIGNED AS (
        (CASE state
          WHEN 'published' THEN CASE standing WHEN 'inForce' THEN 1 WHEN 'scheduled' THEN 4 ELSE 2 END
          WHEN 'withdrawn' THEN 8 WHEN 'draft' THEN 16 WHEN 'inApproval' THEN 32 WHEN 'approved' THEN 64
          ELSE 128 END) * IF(thinned_at IS NULL, 1, 256)) STORED,
      ADD COLUMN found_by TEXT CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL DEFAULT '',
      ADD KEY by_kind (document_id, kind, author_id, sequence)`,
    `ALTER TABLE documents ADD KEY by_owner (library_id, owner_id)`,
    // One row a document and kind, none older than what is in force, which everybody sees; `person_id` is
    // empty for what all see by their roles. `later` holds the kinds whose newest version is newer than
    // this one, `later_own` the same of the person's own rows.
    `CREATE TABLE newest_versions (
      document_id CHAR(36) CHARACTER SET ascii NOT NULL, person_id CHAR(36) CHARACTER SET ascii NOT NULL,
      kind SMALLINT UNSIGNED NOT NULL, library_id CHAR(36) CHARACTER SET ascii NOT NULL,
      version_id CHAR(36) CHARACTER SET ascii NOT NULL, sequence INT NOT NULL,
      later SMALLINT UNSIGNED NOT NULL, later_own SMALLINT UNSIGNED NOT NULL,
      number VARCHAR(40) NOT NULL, title VARCHAR(300) NOT NULL, changed DATETIME(3) NOT NULL,
      PRIMARY KEY (document_id, person_id, kind),
      KEY by_number (library_id, person_id, kind, later, later_own, number),
      KEY by_title (library_id, person_id, kind, later, later_own, title, number),
      KEY by_changed (library_id, person_id, kind, later, later_own, changed DESC, number),
      KEY by_person (person_id, kind, later),
      FOREIGN KEY (document_id) REFERENCES documents (id)
    )`,
    `CREATE TABLE newest_counts (
      library_id CHAR(36) CHARACTER SET ascii NOT NULL, kind SMALLINT UNSIGNED NOT NULL,
      later SMALLINT UNSIGNED NOT NULL, count INT NOT NULL,
      PRIMARY KEY (library_id, kind, later), FOREIGN KEY (library_id) REFERENCES libraries (id)
    )`,
    `CREATE TABLE kind_counts (
      document_id CHAR(36) CHARACTER SET ascii NOT NULL, kind SMALLINT UNSIGNED NOT NULL, count INT NOT NULL,
      PRIMARY KEY (document_id, kind), FOREIGN KEY (document_id) REFERENCES documents (id)
    )`,
    // Words and subjects that some version has: whether one that the person sees has them is asked then.
    `CREATE TABLE document_words (
      library_id CHAR(36) CHARACTER SET ascii NOT NULL,
      word VARCHAR(64) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
      document_id CHAR(36) CHARACTER SET ascii NOT NULL,
      PRIMARY KEY (library_id, word, document_id), KEY by_document (document_id, word),
      FOREIGN KEY (document_id) REFERENCES documents (id)
    )`,
    // `place` is where a subject stood in its list, from 0: the list is the path of a document's folder.
    `CREATE TABLE document_subjects (
      library_id CHAR(36) CHARACTER SET ascii NOT NULL,
      place TINYINT UNSIGNED NOT NULL,
      subject VARCHAR(60) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
      document_id CHAR(36) CHARACTER SET ascii NOT NULL,
      PRIMARY KEY (library_id, place, subject, document_id), KEY by_subject (library_id, subject, document_id),
      KEY by_document (document_id),
      FOREIGN KEY (document_id) REFERENCES documents (id)
    )`,
  ],
};
