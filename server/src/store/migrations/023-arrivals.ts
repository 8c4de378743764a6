/** Large contents are laid down before the act that keeps them; a range is found by where chunks begin. */
export const arrivals = {
  name: '023-arrivals',
  statements: [
    `ALTER TABLE contents ADD arriving_at DATETIME(3) NULL, ADD arrived BOOLEAN NOT NULL DEFAULT FALSE,
      ADD KEY contents_arriving (arriving_at)`,
    // Not told of chunks kept before: a range of those is looked for from the content's beginning.
    `ALTER TABLE content_chunks ADD starts_at BIGINT NULL`,
  ],
};
