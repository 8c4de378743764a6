/** The highest number of a pattern is the last one of its length, without going through all numbers. */
export const numberLengths = {
  name: '024-number-lengths',
  statements: [
    `ALTER TABLE documents ADD number_length TINYINT UNSIGNED AS (CHAR_LENGTH(number)) VIRTUAL,
      ADD KEY documents_number_length (library_id, number_length, number)`,
  ],
};
