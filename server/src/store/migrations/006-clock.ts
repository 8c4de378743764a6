/**
 * When the server last saw what time it was, and from when the clock leapt ahead, until somebody confirms
 * it.
 */
export const clock = {
  name: '006-clock',
  statements: [
    `CREATE TABLE site_clock (
      id TINYINT PRIMARY KEY, last_seen DATETIME(3) NOT NULL, leapt_from DATETIME(3) NULL
    )`,
  ],
};
