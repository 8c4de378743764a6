/** Programs open documents over the drive, and keep files of one's own there. */
export const programs = {
  name: '022-programs',
  statements: [
    `ALTER TABLE checkouts ADD lock_token TEXT NULL, ADD lock_owner TEXT NULL, ADD lock_until DATETIME(3) NULL,
      ADD asked_at DATETIME(3) NULL, ADD KEY checkouts_locked (lock_until)`,
    `ALTER TABLE custody_periods ADD door VARCHAR(12) NOT NULL DEFAULT 'web'`,
    `CREATE TABLE own_places (id CHAR(36) CHARACTER SET ascii NOT NULL PRIMARY KEY,
      person_id CHAR(36) CHARACTER SET ascii NOT NULL, path VARCHAR(700) COLLATE utf8mb4_nopad_bin NOT NULL,
      depth INT NOT NULL, file_id CHAR(36) CHARACTER SET ascii NULL, created_at DATETIME(3) NOT NULL,
      properties MEDIUMTEXT NOT NULL,
      UNIQUE KEY own_places_path (person_id, path), UNIQUE KEY own_places_file (file_id),
      FOREIGN KEY (person_id) REFERENCES people (id),
      FOREIGN KEY (file_id) REFERENCES desk_files (id) ON DELETE CASCADE)`,
    `CREATE TABLE own_locks (token VARCHAR(60) CHARACTER SET ascii NOT NULL PRIMARY KEY,
      person_id CHAR(36) CHARACTER SET ascii NOT NULL, path VARCHAR(700) COLLATE utf8mb4_nopad_bin NOT NULL,
      deep BOOLEAN NOT NULL, shared BOOLEAN NOT NULL, owner TEXT NOT NULL, until_at DATETIME(3) NOT NULL,
      KEY own_locks_person (person_id), KEY own_locks_until (until_at),
      FOREIGN KEY (person_id) REFERENCES people (id))`,
  ],
};
