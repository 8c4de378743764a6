/** Reviews of what is in force, and by when each document is to be reviewed next. */
export const reviews = {
  name: '017-reviews',
  statements: [
    `CREATE TABLE reviews (
      id BIGINT AUTO_INCREMENT PRIMARY KEY, document_id CHAR(36) CHARACTER SET ascii NOT NULL,
      version_id CHAR(36) CHARACTER SET ascii NOT NULL, person_id CHAR(36) CHARACTER SET ascii NOT NULL,
      at DATETIME(3) NOT NULL, outcome VARCHAR(10) NOT NULL, comment TEXT NOT NULL, next_by DATE NULL,
      KEY by_version (version_id, at), FOREIGN KEY (document_id) REFERENCES documents (id),
      FOREIGN KEY (version_id) REFERENCES versions (id), FOREIGN KEY (person_id) REFERENCES people (id)
    )`,
    'ALTER TABLE heads ADD COLUMN review_by DATE NULL, ADD KEY by_review (library_id, review_by), ADD KEY by_review_day (review_by)',
    `UPDATE heads h JOIN versions v ON v.id = h.in_force_id
      SET h.review_by = JSON_VALUE(v.fields, '$.reviewBy') WHERE JSON_VALUE(v.fields, '$.reviewBy') IS NOT NULL`,
  ],
};
