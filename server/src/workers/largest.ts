/** The longest text whose words are counted, in bytes. */
export const longestCounted = 64 << 20;

/** The largest file that is checked as its type asks, in bytes: it is held in memory whole for that. */
export const largestChecked = 256 << 20;
