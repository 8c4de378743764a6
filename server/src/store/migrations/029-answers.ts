/** What was answered to a message, and what came of it, so that it can be read again. */
export const answers = {
  name: '029-answers',
  statements: ['ALTER TABLE answer_secrets ADD COLUMN answer TEXT NULL, ADD COLUMN said TEXT NULL'],
};
