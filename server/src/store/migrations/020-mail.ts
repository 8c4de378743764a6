/**
 * Notices by mail: how each person chose them, messages as they were made, and the secrets by which a
 * decision is given by answering one. What people were told before is not mailed.
 */
export const mail = {
  name: '020-mail',
  statements: [
    `ALTER TABLE people ADD COLUMN mail VARCHAR(8) CHARACTER SET ascii NOT NULL DEFAULT 'atOnce',
      ADD COLUMN mail_address VARCHAR(254) NULL`,
    'ALTER TABLE notices ADD COLUMN mailed BOOLEAN NOT NULL DEFAULT FALSE, ADD KEY by_mailed (mailed, person_id, at)',
    'UPDATE notices SET mailed = TRUE',
    `CREATE TABLE outbox (
      id CHAR(36) CHARACTER SET ascii PRIMARY KEY, person_id CHAR(36) CHARACTER SET ascii NOT NULL,
      at DATETIME(3) NOT NULL, kind VARCHAR(8) CHARACTER SET ascii NOT NULL, address VARCHAR(254) NOT NULL,
      subject VARCHAR(300) NOT NULL, message LONGBLOB NOT NULL,
      leaves BOOLEAN NOT NULL, sent_at DATETIME(3) NULL, tries INT NOT NULL DEFAULT 0, next_try DATETIME(3) NULL,
      problem TEXT NULL,
      KEY by_person (person_id, at, id), KEY by_time (at, id), KEY by_try (leaves, next_try),
      FOREIGN KEY (person_id) REFERENCES people (id)
    )`,
    // Of which document a message speaks, by the newest version its reader saw then: by that it is named.
    `CREATE TABLE outbox_documents (
      message_id CHAR(36) CHARACTER SET ascii NOT NULL, document_id CHAR(36) CHARACTER SET ascii NOT NULL,
      version_id CHAR(36) CHARACTER SET ascii NOT NULL,
      PRIMARY KEY (message_id, document_id),
      FOREIGN KEY (message_id) REFERENCES outbox (id), FOREIGN KEY (document_id) REFERENCES documents (id)
    )`,
    // Kept as their SHA-256: whoever reads the database decides nothing with it.
    `CREATE TABLE answer_secrets (
      hash CHAR(64) CHARACTER SET ascii PRIMARY KEY, message_id CHAR(36) CHARACTER SET ascii NOT NULL,
      person_id CHAR(36) CHARACTER SET ascii NOT NULL, document_id CHAR(36) CHARACTER SET ascii NOT NULL,
      version_id CHAR(36) CHARACTER SET ascii NOT NULL, run_id CHAR(36) CHARACTER SET ascii NOT NULL,
      used_at DATETIME(3) NULL, UNIQUE KEY one_message (message_id),
      FOREIGN KEY (message_id) REFERENCES outbox (id), FOREIGN KEY (person_id) REFERENCES people (id),
      FOREIGN KEY (version_id) REFERENCES versions (id), FOREIGN KEY (run_id) REFERENCES approval_runs (id)
    )`,
  ],
};
