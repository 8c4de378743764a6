/**
 * Decisions in the place of others; and lists of what waits: open runs by how long they wait, posts by person
 * and decision.
 */
export const deciding = {
  name: '014-deciding',
  statements: [
    'ALTER TABLE notices MODIFY COLUMN kind VARCHAR(24) NOT NULL',
    'ALTER TABLE approval_posts ADD COLUMN in_place BOOLEAN NOT NULL DEFAULT FALSE, ADD KEY by_decision (person_id, decision, run_id)',
    `ALTER TABLE approval_runs
      ADD COLUMN waiting_since DATETIME(3) AS (IF(ended_at IS NULL, submitted_at, NULL)) PERSISTENT,
      ADD KEY by_waiting (waiting_since, id)`,
  ],
};
