/**
 * What was before: how each version stood from when to when, who belonged to each document's team, and who
 * held which role. What was kept before this is told from what is known of it: when versions were submitted,
 * decided about, in force, withdrawn and thinned; of roles and teams, that they were always as they are.
 */
export const past = {
  name: '016-past',
  statements: [
    `CREATE TABLE version_periods (
      id BIGINT AUTO_INCREMENT PRIMARY KEY, library_id CHAR(36) CHARACTER SET ascii NOT NULL,
      document_id CHAR(36) CHARACTER SET ascii NOT NULL,
      version_id CHAR(36) CHARACTER SET ascii NOT NULL, from_at DATETIME(3) NOT NULL, until_at DATETIME(3) NULL,
      state VARCHAR(12) NOT NULL, standing VARCHAR(12) NULL, sheltered BOOLEAN NOT NULL DEFAULT FALSE,
      in_force_from DATETIME(3) NULL, superseded_at DATETIME(3) NULL,
      thinned_at DATETIME(3) NULL, thinned_until DATETIME(3) NULL, thinned_why TEXT NULL,
      withdrawn_at DATETIME(3) NULL, withdrawn_why TEXT NULL,
      KEY by_document (document_id, from_at), KEY by_version (version_id, until_at),
      KEY by_day (library_id, from_at),
      FOREIGN KEY (document_id) REFERENCES documents (id), FOREIGN KEY (version_id) REFERENCES versions (id)
    )`,
    `CREATE TABLE team_periods (
      id BIGINT AUTO_INCREMENT PRIMARY KEY, document_id CHAR(36) CHARACTER SET ascii NOT NULL,
      from_at DATETIME(3) NOT NULL, until_at DATETIME(3) NULL,
      owner_id CHAR(36) CHARACTER SET ascii NOT NULL, co_author_ids LONGTEXT NOT NULL,
      KEY by_document (document_id, from_at),
      FOREIGN KEY (document_id) REFERENCES documents (id), FOREIGN KEY (owner_id) REFERENCES people (id)
    )`,
    `CREATE TABLE role_periods (
      id BIGINT AUTO_INCREMENT PRIMARY KEY, library_id CHAR(36) CHARACTER SET ascii NOT NULL,
      person_id CHAR(36) CHARACTER SET ascii NOT NULL, role VARCHAR(20) NOT NULL,
      from_at DATETIME(3) NOT NULL, until_at DATETIME(3) NULL,
      KEY by_library (library_id, person_id, from_at), KEY by_person (person_id, until_at),
      FOREIGN KEY (library_id) REFERENCES libraries (id), FOREIGN KEY (person_id) REFERENCES people (id)
    )`,
    // Until when a document was held, before that was changed.
    `CREATE TABLE earlier_untils (
      id BIGINT AUTO_INCREMENT PRIMARY KEY, document_id CHAR(36) CHARACTER SET ascii NOT NULL,
      changed_at DATETIME(3) NOT NULL, until_at DATETIME(3) NULL,
      KEY by_document (document_id, changed_at), FOREIGN KEY (document_id) REFERENCES documents (id)
    )`,
    `INSERT INTO version_periods (library_id, document_id, version_id, from_at, until_at, state, standing,
        in_force_from, superseded_at)
      SELECT d.library_id, told.document_id, version_id, from_at,
        LEAD(from_at) OVER (PARTITION BY version_id ORDER BY from_at, step), state, standing, in_force_from,
        superseded_at
      FROM (
        SELECT v.document_id, v.id AS version_id, v.at AS from_at, 0 AS step,
          IF(v.state IN ('published', 'withdrawn') AND r.id IS NULL, 'published', 'draft') AS state,
          IF(v.state IN ('published', 'withdrawn') AND r.id IS NULL, 'scheduled', NULL) AS standing,
          IF(v.state IN ('published', 'withdrawn') AND r.id IS NULL, v.in_force_from, NULL) AS in_force_from,
          NULL AS superseded_at
        FROM versions v LEFT JOIN approval_runs r ON r.version_id = v.id GROUP BY v.id
        UNION ALL SELECT document_id, version_id, submitted_at, 1, 'inApproval', NULL, NULL, NULL
        FROM approval_runs
        UNION ALL SELECT document_id, version_id, ended_at, 2,
          CASE outcome WHEN 'approved' THEN 'approved' WHEN 'rejected' THEN 'rejected' ELSE 'draft' END,
          NULL, NULL, NULL
        FROM approval_runs WHERE ended_at IS NOT NULL
        UNION ALL SELECT document_id, origin_from, at, 3, 'draft', NULL, NULL, NULL
        FROM versions WHERE origin_kind = 'publish' AND origin_from IS NOT NULL
        UNION ALL SELECT document_id, id, in_force_from, 3, 'published', 'inForce', in_force_from, NULL
        FROM versions WHERE in_force_from IS NOT NULL AND COALESCE(standing, '') <> 'scheduled'
        UNION ALL SELECT document_id, id, superseded_at, 4, 'published', 'superseded', in_force_from, superseded_at
        FROM versions WHERE superseded_at IS NOT NULL
        UNION ALL SELECT document_id, id, withdrawn_at, 5, state, standing, in_force_from, superseded_at
        FROM versions WHERE withdrawn_at IS NOT NULL
        UNION ALL SELECT document_id, id, thinned_at, 6, state, standing, in_force_from, superseded_at
        FROM versions WHERE thinned_at IS NOT NULL
      ) told JOIN documents d ON d.id = told.document_id`,
    'ALTER TABLE approval_posts ADD KEY by_day (decided_at)',
    `UPDATE version_periods p JOIN versions v ON v.id = p.version_id
      SET p.state = v.state, p.standing = v.standing, p.sheltered = v.sheltered,
        p.in_force_from = v.in_force_from, p.superseded_at = v.superseded_at,
        p.thinned_at = v.thinned_at, p.thinned_until = v.thinned_until, p.thinned_why = v.thinned_why,
        p.withdrawn_at = v.withdrawn_at, p.withdrawn_why = v.withdrawn_why
      WHERE p.until_at IS NULL`,
    `INSERT INTO team_periods (document_id, from_at, owner_id, co_author_ids)
      SELECT id, created_at, owner_id, co_author_ids FROM documents`,
    `INSERT INTO role_periods (library_id, person_id, role, from_at)
      SELECT h.library_id, h.person_id, h.role, l.created_at
      FROM held_roles h JOIN libraries l ON l.id = h.library_id`,
  ],
};
