/** Each session has an id, by which whoever opened it ends it without its secret. */
export const sessions = {
  name: '007-sessions',
  statements: [
    `ALTER TABLE sessions ADD COLUMN id CHAR(36) CHARACTER SET ascii NOT NULL DEFAULT ''`,
    `UPDATE sessions SET id = UUID()`,
    `ALTER TABLE sessions ADD UNIQUE KEY by_id (id)`,
  ],
};
