/**
 * Accounts are told apart by every sign: `réader` is not `reader`, nor is an account with a space behind
 * it.
 */
export const accounts = {
  name: '005-accounts',
  statements: [
    `ALTER TABLE people MODIFY account VARCHAR(60) CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL`,
  ],
};
