/**
 * Documents that were voided, now and then: their rows stay, and lists are read without them.
 */
export const voided = {
  name: '028-voided',
  statements: [
    `ALTER TABLE documents ADD COLUMN voided_at DATETIME(3) NULL,
      ADD COLUMN voided_by CHAR(36) CHARACTER SET ascii NULL, ADD COLUMN voided_reason TEXT NULL,
      ADD KEY by_void (library_id, voided_at), ADD FOREIGN KEY (voided_by) REFERENCES people (id)`,
    `ALTER TABLE team_periods ADD COLUMN voided_at DATETIME(3) NULL,
      ADD COLUMN voided_by CHAR(36) CHARACTER SET ascii NULL, ADD COLUMN voided_reason TEXT NULL`,
  ],
};
