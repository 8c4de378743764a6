/** What a library's versions keep, as one figure that acts can wait for. */
export const usage = {
  name: '010-usage',
  statements: [
    `CREATE TABLE library_usage (
      library_id CHAR(36) CHARACTER SET ascii PRIMARY KEY, bytes BIGINT NOT NULL,
      FOREIGN KEY (library_id) REFERENCES libraries (id)
    )`,
    `INSERT INTO library_usage SELECT l.id, COALESCE(SUM(h.bytes_kept), 0)
      FROM libraries l LEFT JOIN heads h ON h.library_id = l.id GROUP BY l.id`,
  ],
};
