/** That a version was withdrawn, and why; and when people last looked at what is in force. */
export const standing = {
  name: '015-standing',
  statements: [
    'ALTER TABLE versions ADD COLUMN withdrawn_at DATETIME(3) NULL, ADD COLUMN withdrawn_why TEXT NULL',
    `CREATE TABLE in_force_looks (
      person_id CHAR(36) CHARACTER SET ascii PRIMARY KEY, looked_at DATETIME(3) NOT NULL,
      FOREIGN KEY (person_id) REFERENCES people (id)
    )`,
  ],
};
