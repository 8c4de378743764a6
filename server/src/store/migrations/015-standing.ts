/**
 * That a version was withdrawn, and why; when each was in force, since one may be so more than once; and when
 * people last looked at what is.
 */
export const standing = {
  name: '015-standing',
  statements: [
    'ALTER TABLE versions ADD COLUMN withdrawn_at DATETIME(3) NULL, ADD COLUMN withdrawn_why TEXT NULL',
    `CREATE TABLE force_periods (
      id BIGINT AUTO_INCREMENT PRIMARY KEY, document_id CHAR(36) CHARACTER SET ascii NOT NULL,
      version_id CHAR(36) CHARACTER SET ascii NOT NULL, from_at DATETIME(3) NOT NULL, until_at DATETIME(3) NULL,
      KEY by_document (document_id, from_at), KEY by_version (version_id, until_at),
      FOREIGN KEY (document_id) REFERENCES documents (id), FOREIGN KEY (version_id) REFERENCES versions (id)
    )`,
    `CREATE TABLE in_force_looks (
      person_id CHAR(36) CHARACTER SET ascii PRIMARY KEY, looked_at DATETIME(3) NOT NULL,
      FOREIGN KEY (person_id) REFERENCES people (id)
    )`,
    `INSERT INTO force_periods (document_id, version_id, from_at, until_at)
      SELECT document_id, id, in_force_from, superseded_at FROM versions
      WHERE in_force_from IS NOT NULL AND standing IN ('inForce', 'superseded') ORDER BY in_force_from, sequence`,
  ],
};
