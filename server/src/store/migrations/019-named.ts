import { rebuildHeads } from '../rebuildHeads.ts';

/**
 * People and groups named with a document: to whom it is kept, and who is to read it. Whom a limited document
 * is kept to, person by person, now and then; who confirmed having read what.
 */
export const named = {
  name: '019-named',
  statements: [
    `ALTER TABLE documents ADD COLUMN limited BOOLEAN NOT NULL DEFAULT FALSE,
      ADD COLUMN distributed BOOLEAN NOT NULL DEFAULT FALSE`,
    `CREATE TABLE document_named (
      id BIGINT AUTO_INCREMENT PRIMARY KEY, document_id CHAR(36) CHARACTER SET ascii NOT NULL,
      purpose VARCHAR(12) CHARACTER SET ascii NOT NULL,
      person_id CHAR(36) CHARACTER SET ascii NULL, group_id CHAR(36) CHARACTER SET ascii NULL,
      since DATETIME(3) NOT NULL,
      UNIQUE KEY one_person (document_id, purpose, person_id), UNIQUE KEY one_group (document_id, purpose, group_id),
      KEY by_person (person_id, purpose), KEY by_group (group_id, purpose),
      FOREIGN KEY (document_id) REFERENCES documents (id), FOREIGN KEY (person_id) REFERENCES people (id),
      FOREIGN KEY (group_id) REFERENCES person_groups (id) ON DELETE CASCADE
    )`,
    `CREATE TABLE circles (
      document_id CHAR(36) CHARACTER SET ascii NOT NULL, person_id CHAR(36) CHARACTER SET ascii NOT NULL,
      PRIMARY KEY (document_id, person_id), KEY by_person (person_id),
      FOREIGN KEY (document_id) REFERENCES documents (id), FOREIGN KEY (person_id) REFERENCES people (id)
    )`,
    `CREATE TABLE readings (
      version_id CHAR(36) CHARACTER SET ascii NOT NULL, person_id CHAR(36) CHARACTER SET ascii NOT NULL,
      document_id CHAR(36) CHARACTER SET ascii NOT NULL, at DATETIME(3) NOT NULL,
      PRIMARY KEY (version_id, person_id), KEY by_person (person_id),
      FOREIGN KEY (version_id) REFERENCES versions (id), FOREIGN KEY (person_id) REFERENCES people (id),
      FOREIGN KEY (document_id) REFERENCES documents (id)
    )`,
    // The people it was kept to; null where it was there for every member.
    'ALTER TABLE team_periods ADD COLUMN circle LONGTEXT NULL',
    // Versions of limited documents are kinds of their own: sixteen bits more.
    `ALTER TABLE newest_versions MODIFY kind INT UNSIGNED NOT NULL, MODIFY later INT UNSIGNED NOT NULL,
      MODIFY later_own INT UNSIGNED NOT NULL`,
    'ALTER TABLE newest_counts MODIFY kind INT UNSIGNED NOT NULL, MODIFY later INT UNSIGNED NOT NULL',
  ],
  // What lists are read from is made anew: an earlier migration left it empty.
  then: rebuildHeads,
};
