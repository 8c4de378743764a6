/** Libraries can be closed: their documents are read, and nothing in them changes. */
export const closedLibraries = {
  name: '013-closed-libraries',
  statements: ['ALTER TABLE libraries ADD COLUMN closed_at DATETIME(3) NULL'],
};
