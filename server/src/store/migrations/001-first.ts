/**
 * The first tables. Eras, states, standings, origins, sight facts, thinning and shelter have their place from
 * the start; the rules that use them come with their features.
 */
export const first = {
  name: '001-first',
  statements: [
    `CREATE TABLE people (
      id CHAR(36) CHARACTER SET ascii PRIMARY KEY, account VARCHAR(60) NOT NULL UNIQUE, name VARCHAR(300) NOT NULL,
      password_hash VARCHAR(200) NOT NULL, site_administrator BOOLEAN NOT NULL DEFAULT FALSE, created_at DATETIME(3) NOT NULL
    )`,
    `CREATE TABLE sessions (
      token_hash CHAR(64) CHARACTER SET ascii PRIMARY KEY, person_id CHAR(36) CHARACTER SET ascii NOT NULL,
      created_at DATETIME(3) NOT NULL, expires_at DATETIME(3) NOT NULL, KEY by_person (person_id), KEY by_end (expires_at),
      FOREIGN KEY (person_id) REFERENCES people (id)
    )`,
    `CREATE TABLE tokens (
      id CHAR(36) CHARACTER SET ascii PRIMARY KEY, token_hash CHAR(64) CHARACTER SET ascii NOT NULL UNIQUE,
      person_id CHAR(36) CHARACTER SET ascii NOT NULL, name VARCHAR(300) NOT NULL, created_at DATETIME(3) NOT NULL,
      last_used_at DATETIME(3) NULL, KEY by_person (person_id), FOREIGN KEY (person_id) REFERENCES people (id)
    )`,
    `CREATE TABLE libraries (
      id CHAR(36) CHARACTER SET ascii PRIMARY KEY, code VARCHAR(10) NOT NULL UNIQUE, name VARCHAR(300) NOT NULL, purpose TEXT NOT NULL,
      rulebook_revision INT NOT NULL, created_at DATETIME(3) NOT NULL
    )`,
    `CREATE TABLE rulebook_revisions (
      library_id CHAR(36) CHARACTER SET ascii NOT NULL, revision INT NOT NULL, rulebook LONGTEXT NOT NULL,
      person_id CHAR(36) CHARACTER SET ascii NOT NULL, at DATETIME(3) NOT NULL, reason TEXT NOT NULL,
      PRIMARY KEY (library_id, revision), FOREIGN KEY (library_id) REFERENCES libraries (id)
    )`,
    `CREATE TABLE members (
      library_id CHAR(36) CHARACTER SET ascii NOT NULL, person_id CHAR(36) CHARACTER SET ascii NOT NULL, role VARCHAR(20) NOT NULL,
      PRIMARY KEY (library_id, person_id, role), KEY by_person (person_id, library_id),
      FOREIGN KEY (library_id) REFERENCES libraries (id), FOREIGN KEY (person_id) REFERENCES people (id)
    )`,
    `CREATE TABLE documents (
      id CHAR(36) CHARACTER SET ascii PRIMARY KEY, library_id CHAR(36) CHARACTER SET ascii NOT NULL, number VARCHAR(40) NOT NULL,
      owner_id CHAR(36) CHARACTER SET ascii NOT NULL, co_author_ids LONGTEXT NOT NULL, created_at DATETIME(3) NOT NULL,
      UNIQUE KEY one_number (library_id, number),
      FOREIGN KEY (library_id) REFERENCES libraries (id), FOREIGN KEY (owner_id) REFERENCES people (id)
    )`,
    // Content first: no version can exist without it. A content is a list of chunks, each stored once by its
    // hash.
    `CREATE TABLE contents (sha256 CHAR(64) CHARACTER SET ascii PRIMARY KEY, size BIGINT NOT NULL)`,
    `CREATE TABLE chunks (sha256 CHAR(64) CHARACTER SET ascii PRIMARY KEY, bytes LONGBLOB NOT NULL)`,
    `CREATE TABLE content_chunks (
      content CHAR(64) CHARACTER SET ascii NOT NULL, position INT NOT NULL, chunk CHAR(64) CHARACTER SET ascii NOT NULL,
      PRIMARY KEY (content, position), KEY by_chunk (chunk),
      FOREIGN KEY (content) REFERENCES contents (sha256), FOREIGN KEY (chunk) REFERENCES chunks (sha256)
    )`,
    `CREATE TABLE versions (
      id CHAR(36) CHARACTER SET ascii PRIMARY KEY, document_id CHAR(36) CHARACTER SET ascii NOT NULL, sequence INT NOT NULL,
      era INT NOT NULL, major INT NOT NULL, minor INT NOT NULL, numbering VARCHAR(10) NOT NULL,
      state VARCHAR(12) NOT NULL, standing VARCHAR(12) NULL, author_id CHAR(36) CHARACTER SET ascii NOT NULL, at DATETIME(3) NOT NULL,
      comment TEXT NOT NULL, origin_kind VARCHAR(12) NOT NULL, origin_from CHAR(36) CHARACTER SET ascii NULL,
      sha256 CHAR(64) CHARACTER SET ascii NOT NULL, size BIGINT NOT NULL, file_name VARCHAR(255) NOT NULL, media_type VARCHAR(150) NOT NULL,
      words INT NULL, fields LONGTEXT NOT NULL, sheltered BOOLEAN NOT NULL DEFAULT FALSE,
      thinned_at DATETIME(3) NULL, thinned_until DATETIME(3) NULL, thinned_why TEXT NULL, in_force_from DATETIME(3) NULL,
      UNIQUE KEY one_number (document_id, era, major, minor), UNIQUE KEY one_place (document_id, sequence),
      KEY by_content (sha256),
      FOREIGN KEY (document_id) REFERENCES documents (id), FOREIGN KEY (author_id) REFERENCES people (id),
      FOREIGN KEY (sha256) REFERENCES contents (sha256)
    )`,
    `CREATE TABLE heads (
      document_id CHAR(36) CHARACTER SET ascii PRIMARY KEY, library_id CHAR(36) CHARACTER SET ascii NOT NULL,
      latest_id CHAR(36) CHARACTER SET ascii NOT NULL, in_force_id CHAR(36) CHARACTER SET ascii NULL,
      present_era INT NOT NULL, highest_major INT NOT NULL, highest_minor INT NOT NULL, last_sequence INT NOT NULL,
      KEY by_library (library_id), FOREIGN KEY (document_id) REFERENCES documents (id),
      FOREIGN KEY (latest_id) REFERENCES versions (id), FOREIGN KEY (in_force_id) REFERENCES versions (id)
    )`,
    `CREATE TABLE checkouts (
      document_id CHAR(36) CHARACTER SET ascii PRIMARY KEY, holder_id CHAR(36) CHARACTER SET ascii NOT NULL, since DATETIME(3) NOT NULL,
      until_at DATETIME(3) NULL, reason TEXT NULL, base_id CHAR(36) CHARACTER SET ascii NOT NULL, door VARCHAR(12) NOT NULL,
      KEY by_holder (holder_id), FOREIGN KEY (document_id) REFERENCES documents (id), FOREIGN KEY (holder_id) REFERENCES people (id),
      FOREIGN KEY (base_id) REFERENCES versions (id)
    )`,
    `CREATE TABLE saves (
      document_id CHAR(36) CHARACTER SET ascii NOT NULL, position INT NOT NULL, at DATETIME(3) NOT NULL, sha256 CHAR(64) CHARACTER SET ascii NOT NULL,
      size BIGINT NOT NULL, file_name VARCHAR(255) NOT NULL, media_type VARCHAR(150) NOT NULL, words INT NULL,
      PRIMARY KEY (document_id, position), KEY by_content (sha256),
      FOREIGN KEY (document_id) REFERENCES checkouts (document_id) ON DELETE CASCADE, FOREIGN KEY (sha256) REFERENCES contents (sha256)
    )`,
    `CREATE TABLE ledger (
      id BIGINT AUTO_INCREMENT PRIMARY KEY, chain VARCHAR(40) CHARACTER SET ascii NOT NULL, sequence INT NOT NULL,
      library_id CHAR(36) CHARACTER SET ascii NULL, document_id CHAR(36) CHARACTER SET ascii NULL, person_id CHAR(36) CHARACTER SET ascii NULL,
      at DATETIME(3) NOT NULL, act VARCHAR(40) NOT NULL, facts LONGTEXT NOT NULL, hash CHAR(64) CHARACTER SET ascii NOT NULL,
      UNIQUE KEY one_place (chain, sequence), KEY by_document (document_id), KEY by_time (at)
    )`,
  ],
};
