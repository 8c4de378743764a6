/** Accounts that a provider of identities signs in, and how its claims are taken. */
export const provider = {
  name: '009-provider',
  statements: [
    // A subject is up to 255 ASCII signs, never used again by its issuer (OpenID Connect Core 1.0, 2 and 8).
    `CREATE TABLE identities (
      issuer VARCHAR(300) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
      subject VARCHAR(255) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
      person_id CHAR(36) CHARACTER SET ascii NOT NULL, created_at DATETIME(3) NOT NULL,
      PRIMARY KEY (issuer, subject), KEY by_person (person_id), FOREIGN KEY (person_id) REFERENCES people (id)
    )`,
    `CREATE TABLE settings (
      name VARCHAR(40) CHARACTER SET ascii PRIMARY KEY, value LONGTEXT NOT NULL
    )`,
  ],
};
