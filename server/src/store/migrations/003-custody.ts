/** Custody's history, copies set aside, arrivals and private copies, and what people are told. */
export const custody = {
  name: '003-custody',
  statements: [
    `ALTER TABLE saves ADD COLUMN sitting VARCHAR(40) NULL`,
    `ALTER TABLE checkouts ADD KEY by_end (until_at)`,
    `CREATE TABLE custody_periods (
      id BIGINT AUTO_INCREMENT PRIMARY KEY, document_id CHAR(36) CHARACTER SET ascii NOT NULL, holder_id CHAR(36) CHARACTER SET ascii NOT NULL,
      since DATETIME(3) NOT NULL, until_at DATETIME(3) NULL, reason TEXT NULL, base_id CHAR(36) CHARACTER SET ascii NOT NULL,
      ended_at DATETIME(3) NULL, how VARCHAR(12) NULL, ended_by CHAR(36) CHARACTER SET ascii NULL, end_reason TEXT NULL, version_id CHAR(36) CHARACTER SET ascii NULL,
      KEY by_document (document_id, id), FOREIGN KEY (document_id) REFERENCES documents (id), FOREIGN KEY (holder_id) REFERENCES people (id),
      FOREIGN KEY (base_id) REFERENCES versions (id), FOREIGN KEY (version_id) REFERENCES versions (id)
    )`,
    `INSERT INTO custody_periods (document_id, holder_id, since, until_at, reason, base_id)
       SELECT document_id, holder_id, since, until_at, reason, base_id FROM checkouts ORDER BY since`,
    // A person's own files: arrivals, private copies, and what was set aside when a check-out was lifted.
    `CREATE TABLE desk_files (
      id CHAR(36) CHARACTER SET ascii PRIMARY KEY, person_id CHAR(36) CHARACTER SET ascii NOT NULL, kind VARCHAR(12) NOT NULL,
      document_id CHAR(36) CHARACTER SET ascii NULL, base_id CHAR(36) CHARACTER SET ascii NULL, created_at DATETIME(3) NOT NULL, changed_at DATETIME(3) NOT NULL,
      sha256 CHAR(64) CHARACTER SET ascii NOT NULL, size BIGINT NOT NULL, file_name VARCHAR(255) NOT NULL, media_type VARCHAR(150) NOT NULL, words INT NULL,
      reason TEXT NULL, by_id CHAR(36) CHARACTER SET ascii NULL,
      KEY by_person (person_id, changed_at), KEY by_document (document_id), KEY by_content (sha256),
      FOREIGN KEY (person_id) REFERENCES people (id), FOREIGN KEY (document_id) REFERENCES documents (id), FOREIGN KEY (base_id) REFERENCES versions (id),
      FOREIGN KEY (sha256) REFERENCES contents (sha256), FOREIGN KEY (by_id) REFERENCES people (id)
    )`,
    `CREATE TABLE desk_saves (
      file_id CHAR(36) CHARACTER SET ascii NOT NULL, position INT NOT NULL, at DATETIME(3) NOT NULL, sha256 CHAR(64) CHARACTER SET ascii NOT NULL,
      size BIGINT NOT NULL, file_name VARCHAR(255) NOT NULL, media_type VARCHAR(150) NOT NULL, words INT NULL,
      PRIMARY KEY (file_id, position), KEY by_content (sha256),
      FOREIGN KEY (file_id) REFERENCES desk_files (id) ON DELETE CASCADE, FOREIGN KEY (sha256) REFERENCES contents (sha256)
    )`,
    // What a person is told once: the key on what it is about holds that.
    `CREATE TABLE notices (
      id BIGINT AUTO_INCREMENT PRIMARY KEY, person_id CHAR(36) CHARACTER SET ascii NOT NULL, about VARCHAR(120) CHARACTER SET ascii NOT NULL, kind VARCHAR(12) NOT NULL,
      document_id CHAR(36) CHARACTER SET ascii NOT NULL, at DATETIME(3) NOT NULL, facts LONGTEXT NOT NULL, read_at DATETIME(3) NULL,
      UNIQUE KEY told_once (person_id, about), KEY by_person (person_id, id),
      FOREIGN KEY (person_id) REFERENCES people (id), FOREIGN KEY (document_id) REFERENCES documents (id)
    )`,
  ],
};
