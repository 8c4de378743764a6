/** Rights are the union of a person's own roles and those of their groups, while their account is open. */
export const heldRoles = `SELECT m.library_id, m.person_id, m.role FROM members m
      JOIN people p ON p.id = m.person_id AND p.closed_at IS NULL
      UNION SELECT m.library_id, g.person_id, m.role FROM group_members m
      JOIN group_people g ON g.group_id = m.group_id
      JOIN people p ON p.id = g.person_id AND p.closed_at IS NULL`;

/** Accounts can be closed: they hold no roles then. Tokens read or work, and end. */
export const closing = {
  name: '008-closing',
  statements: [
    `ALTER TABLE people ADD COLUMN closed_at DATETIME(3) NULL`,
    `ALTER TABLE tokens ADD COLUMN scope VARCHAR(8) CHARACTER SET ascii NOT NULL DEFAULT 'work',
      ADD COLUMN until_at DATETIME(3) NULL`,
    `CREATE OR REPLACE SQL SECURITY INVOKER VIEW held_roles AS ${heldRoles}`,
  ],
};
