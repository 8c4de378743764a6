/**
 * Handing over is long work of its own; and who is named with a document is found without reading them
 * all.
 */
export const handingOver = {
  name: '011-handing-over',
  statements: [
    `ALTER TABLE jobs MODIFY library_id CHAR(36) CHARACTER SET ascii NULL, MODIFY revision INT NULL,
      ADD COLUMN from_id CHAR(36) CHARACTER SET ascii NULL, ADD COLUMN to_id CHAR(36) CHARACTER SET ascii NULL,
      ADD COLUMN by_id CHAR(36) CHARACTER SET ascii NULL,
      ADD FOREIGN KEY (from_id) REFERENCES people (id), ADD FOREIGN KEY (to_id) REFERENCES people (id),
      ADD FOREIGN KEY (by_id) REFERENCES people (id)`,
    `CREATE TABLE document_people (
      person_id CHAR(36) CHARACTER SET ascii NOT NULL, document_id CHAR(36) CHARACTER SET ascii NOT NULL,
      PRIMARY KEY (person_id, document_id), KEY by_document (document_id),
      FOREIGN KEY (person_id) REFERENCES people (id), FOREIGN KEY (document_id) REFERENCES documents (id)
    )`,
    `INSERT INTO document_people SELECT DISTINCT named.id, d.id FROM documents d
      JOIN JSON_TABLE(JSON_MERGE_PRESERVE(d.co_author_ids, d.approver_ids), '$[*]'
        COLUMNS (id CHAR(36) CHARACTER SET ascii PATH '$')) named
      JOIN people p ON p.id = named.id`,
  ],
};
