/**
 * Values of fields that belong to a document and to none of its versions, as they are and as they were; and
 * for which library, and with what fields, a file on a Desk is meant.
 */
export const ownFields = {
  name: '018-own-fields',
  statements: [
    `ALTER TABLE documents ADD COLUMN administrative JSON NOT NULL DEFAULT '{}'`,
    `ALTER TABLE team_periods ADD COLUMN administrative JSON NOT NULL DEFAULT '{}'`,
    `ALTER TABLE desk_files ADD COLUMN for_library_id CHAR(36) CHARACTER SET ascii NULL,
      ADD COLUMN for_fields LONGTEXT NULL, ADD FOREIGN KEY (for_library_id) REFERENCES libraries (id)`,
  ],
};
