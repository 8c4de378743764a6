import { randomBytes, scrypt, timingSafeEqual } from 'node:crypto';
import { promisify } from 'node:util';

const derive = promisify(scrypt) as (
  password: string,
  salt: Buffer,
  length: number,
  options: object,
) => Promise<Buffer>;

/**
 * scrypt (RFC 7914) with 32 MiB of memory a try: N = 2^15, r = 8, p = 3. Stored with the hash, so that it can
 * be raised later.
 */
const usual = { N: 2 ** 15, r: 8, p: 3 };
const maxmem = 64 << 20;
const keyLength = 32;

/**
 * Hashes a password for keeping: `scrypt$N$r$p$salt$key`, salt and key in base64.
 * @param cost what a try costs, as RFC 7914 names it
 */
export async function hashPassword(password: string, cost = usual): Promise<string> {
  const salt = randomBytes(16);
  const key = await derive(password.normalize('NFKC'), salt, keyLength, { ...cost, maxmem });
  return ['scrypt', cost.N, cost.r, cost.p, salt.toString('base64'), key.toString('base64')].join('$');
}

/** Kept for an account that cannot sign in yet. */
export const noPassword = '';

/** Whether the password is the one that was hashed; compares in constant time. */
export async function verifyPassword(password: string, stored: string): Promise<boolean> {
  if (stored === noPassword) return false;
  const [, N, r, p, salt, key] = stored.split('$');
  if (!N || !r || !p || !salt || !key) throw new Error('a stored password hash is damaged');
  const expected = Buffer.from(key, 'base64');
  const given = await derive(password.normalize('NFKC'), Buffer.from(salt, 'base64'), expected.length, {
    N: Number(N),
    r: Number(r),
    p: Number(p),
    maxmem,
  });
  return timingSafeEqual(given, expected);
}
