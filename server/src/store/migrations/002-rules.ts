/**
 * What the rules of a library need: when versions left force, approval runs, groups, approvers of a document,
 * jobs, the recovery shelf's end.
 */
export const rules = {
  name: '002-rules',
  statements: [
    `ALTER TABLE versions ADD COLUMN superseded_at DATETIME(3) NULL, ADD KEY by_standing (standing, in_force_from), ADD KEY by_shelf (thinned_until)`,
    // Until now a version left force exactly when the next published one came.
    `UPDATE versions v JOIN (
       SELECT id, LEAD(in_force_from) OVER (PARTITION BY document_id ORDER BY sequence) AS next_from FROM versions WHERE state = 'published'
     ) n ON n.id = v.id SET v.superseded_at = n.next_from WHERE v.standing = 'superseded'`,
    `ALTER TABLE documents ADD COLUMN approver_ids LONGTEXT NOT NULL DEFAULT '[]'`,
    `ALTER TABLE contents ADD COLUMN purged_at DATETIME(3) NULL`,
    `ALTER TABLE ledger ADD KEY by_library (library_id, id)`,
    `CREATE TABLE person_groups (id CHAR(36) CHARACTER SET ascii PRIMARY KEY, name VARCHAR(120) NOT NULL UNIQUE, created_at DATETIME(3) NOT NULL)`,
    `CREATE TABLE group_people (
      group_id CHAR(36) CHARACTER SET ascii NOT NULL, person_id CHAR(36) CHARACTER SET ascii NOT NULL, PRIMARY KEY (group_id, person_id), KEY by_person (person_id),
      FOREIGN KEY (group_id) REFERENCES person_groups (id) ON DELETE CASCADE, FOREIGN KEY (person_id) REFERENCES people (id)
    )`,
    `CREATE TABLE group_members (
      library_id CHAR(36) CHARACTER SET ascii NOT NULL, group_id CHAR(36) CHARACTER SET ascii NOT NULL, role VARCHAR(20) NOT NULL,
      PRIMARY KEY (library_id, group_id, role), KEY by_group (group_id, library_id),
      FOREIGN KEY (library_id) REFERENCES libraries (id), FOREIGN KEY (group_id) REFERENCES person_groups (id) ON DELETE CASCADE
    )`,
    // Rights are the union of a person's own roles and those of their groups.
    `CREATE SQL SECURITY INVOKER VIEW held_roles AS
      SELECT library_id, person_id, role FROM members
      UNION SELECT m.library_id, g.person_id, m.role FROM group_members m JOIN group_people g ON g.group_id = m.group_id`,
    // The key on the open document holds that a document has one open run.
    `CREATE TABLE approval_runs (
      id CHAR(36) CHARACTER SET ascii PRIMARY KEY, document_id CHAR(36) CHARACTER SET ascii NOT NULL, version_id CHAR(36) CHARACTER SET ascii NOT NULL,
      open_document_id CHAR(36) CHARACTER SET ascii NULL UNIQUE, mode VARCHAR(10) NOT NULL, submitter_id CHAR(36) CHARACTER SET ascii NOT NULL,
      submitted_at DATETIME(3) NOT NULL, comment TEXT NOT NULL, in_force_from DATETIME(3) NULL, ended_at DATETIME(3) NULL, outcome VARCHAR(15) NULL,
      KEY by_document (document_id), FOREIGN KEY (document_id) REFERENCES documents (id), FOREIGN KEY (version_id) REFERENCES versions (id),
      FOREIGN KEY (submitter_id) REFERENCES people (id)
    )`,
    `CREATE TABLE approval_posts (
      run_id CHAR(36) CHARACTER SET ascii NOT NULL, position INT NOT NULL, person_id CHAR(36) CHARACTER SET ascii NOT NULL,
      decision VARCHAR(10) NULL, decided_at DATETIME(3) NULL, comment TEXT NOT NULL,
      PRIMARY KEY (run_id, position), UNIQUE KEY once (run_id, person_id), KEY by_person (person_id),
      FOREIGN KEY (run_id) REFERENCES approval_runs (id), FOREIGN KEY (person_id) REFERENCES people (id)
    )`,
    `CREATE TABLE jobs (
      id CHAR(36) CHARACTER SET ascii PRIMARY KEY, library_id CHAR(36) CHARACTER SET ascii NOT NULL, kind VARCHAR(15) NOT NULL, revision INT NOT NULL,
      state VARCHAR(12) NOT NULL, done INT NOT NULL DEFAULT 0, total INT NULL, thinned_versions INT NOT NULL DEFAULT 0, thinned_bytes BIGINT NOT NULL DEFAULT 0,
      problem TEXT NULL, created_at DATETIME(3) NOT NULL, alive_at DATETIME(3) NULL, ended_at DATETIME(3) NULL,
      KEY by_state (state), KEY by_library (library_id, created_at), FOREIGN KEY (library_id) REFERENCES libraries (id)
    )`,
  ],
};
