/**
 * The view asks with the rights of whoever asks it. With those of who made it, a dump that was restored under
 * another account of the database could not be read.
 */
export const invoker = {
  name: '025-invoker',
  statements: [
    `CREATE OR REPLACE SQL SECURITY INVOKER VIEW held_roles AS
      SELECT m.library_id, m.person_id, m.role FROM members m
      JOIN people p ON p.id = m.person_id AND p.closed_at IS NULL
      UNION SELECT m.library_id, g.person_id, m.role FROM group_members m
      JOIN group_people g ON g.group_id = m.group_id
      JOIN people p ON p.id = g.person_id AND p.closed_at IS NULL`,
  ],
};
