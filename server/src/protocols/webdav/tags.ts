/**
 * The entity tag of a file on the drive (RFC 9110, 8.8.3): half of its SHA-256, which tells files apart as
 * well, and which programs have room for in their headers.
 */
export const fileTag = (sha256: string): string => `"${sha256.slice(0, 32)}"`;

/** Whether a list of tags has one, weak or not, or is for any that there is (RFC 9110, 13.1.2). */
export const isAmong = (tags: string, tag: string): boolean =>
  tags.trim() === '*' || tags.split(',').some((one) => one.trim().replace(/^W\//, '') === tag);
