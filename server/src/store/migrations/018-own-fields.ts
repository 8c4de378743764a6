/**
 * What belongs to a document and to none of its versions, as it is and as it was: values of fields, and of
 * what type it is the template. For which library, and with what fields, a file on a Desk is meant.
 */
export const ownFields = {
  name: '018-own-fields',
  statements: [
    `ALTER TABLE documents ADD COLUMN administrative JSON NOT NULL DEFAULT '{}',
      ADD COLUMN template_for VARCHAR(60) NULL, ADD KEY by_template (library_id, template_for)`,
    `ALTER TABLE team_periods ADD COLUMN administrative JSON NOT NULL DEFAULT '{}',
      ADD COLUMN template_for VARCHAR(60) NULL`,
    `ALTER TABLE desk_files ADD COLUMN for_library_id CHAR(36) CHARACTER SET ascii NULL,
      ADD COLUMN for_fields LONGTEXT NULL, ADD FOREIGN KEY (for_library_id) REFERENCES libraries (id)`,
  ],
};
