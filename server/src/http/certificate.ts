import { createPrivateKey, X509Certificate } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { hostname } from 'node:os';
import { join } from 'node:path';

/** What HTTPS is served with. */
export interface Certificate {
  /** PEM (RFC 7468). */
  cert: string;
  key: string;
  /** SHA-256 of the certificate, in hexadecimal pairs: by it whoever trusts it knows it again. */
  fingerprint: string;
  /** Whether it was made here; a program trusts such a one only once somebody told it to. */
  selfSigned: boolean;
}

/** Days one made here holds: more than some programs take is of no use. */
const daysMade = 820;
/** A new one is made so many days before its end. */
const renewedBefore = 30;
const day = 86_400_000;

/**
 * The certificate of a site: the one named by `POLYCHRON_TLS_CERT` and `POLYCHRON_TLS_KEY`, paths of PEM
 * files, else one made at the first start and kept in the site's folder for its owner alone.
 * @param home the site's folder; null where there is none, and what is made lasts as long as the server
 * @throws Error naming what is wrong with the files that were named
 */
export async function certificateOf(
  env: NodeJS.ProcessEnv,
  home: string | null,
  now: Date,
): Promise<Certificate> {
  const [certFile, keyFile] = [env['POLYCHRON_TLS_CERT'], env['POLYCHRON_TLS_KEY']];
  if (certFile && keyFile) return given(certFile, keyFile, now);
  if (certFile) throw new Error('POLYCHRON_TLS_CERT is set, POLYCHRON_TLS_KEY is not.');
  if (keyFile) throw new Error('POLYCHRON_TLS_KEY is set, POLYCHRON_TLS_CERT is not.');
  if (home === null) return make(now);
  const folder = join(home, 'tls');
  const [keptCert, keptKey] = [join(folder, 'certificate.pem'), join(folder, 'key.pem')];
  if (existsSync(keptCert) && existsSync(keptKey)) {
    const kept = read(readFileSync(keptCert, 'utf8'), readFileSync(keptKey, 'utf8'), true);
    const left = endOf(kept.cert).getTime() - now.getTime();
    if (left > renewedBefore * day) return kept;
  }
  const made = await make(now);
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  writeFileSync(keptKey, made.key, { mode: 0o600 });
  writeFileSync(keptCert, made.cert);
  return made;
}

function given(certFile: string, keyFile: string, now: Date): Certificate {
  const [cert, key] = [contentOf('POLYCHRON_TLS_CERT', certFile), contentOf('POLYCHRON_TLS_KEY', keyFile)];
  const certificate = read(cert, key, false);
  const end = endOf(cert);
  if (end.getTime() <= now.getTime())
    throw new Error(`The certificate in ${certFile} ended on ${end.toISOString()}. Put a new one there.`);
  return certificate;
}

function contentOf(name: string, file: string): string {
  if (existsSync(file)) return readFileSync(file, 'utf8');
  throw new Error(`${name} is ${file}; there is no such file.`);
}

/** @throws Error where one of them cannot be read, or they do not belong together */
function read(cert: string, key: string, selfSigned: boolean): Certificate {
  const [x509, secret] = [parsed(cert), privateKey(key)];
  if (!x509.checkPrivateKey(secret)) throw new Error('The key is not the one of the certificate.');
  return { cert, key, fingerprint: x509.fingerprint256, selfSigned };
}

function parsed(pem: string): X509Certificate {
  try {
    return new X509Certificate(pem);
  } catch (cause) {
    throw new Error('The certificate is no X.509 certificate in PEM.', { cause });
  }
}

function privateKey(pem: string): ReturnType<typeof createPrivateKey> {
  try {
    return createPrivateKey(pem);
  } catch (cause) {
    throw new Error('The key is no private key in PEM without a password.', { cause });
  }
}

const endOf = (cert: string): Date => new Date(parsed(cert).validTo);

/** One for this machine, by all the names it is reached by from itself and its network. */
async function make(now: Date): Promise<Certificate> {
  // Loaded in the one start in some hundred days that needs it.
  const { generate } = await import('selfsigned');
  const names = [...new Set(['localhost', hostname()])];
  const { cert, private: key } = await generate([{ name: 'commonName', value: hostname() }], {
    algorithm: 'sha256',
    keySize: 2048,
    notBeforeDate: now,
    notAfterDate: new Date(now.getTime() + daysMade * day),
    extensions: [
      { name: 'basicConstraints', cA: false, critical: true },
      { name: 'keyUsage', digitalSignature: true, keyEncipherment: true, critical: true },
      { name: 'extKeyUsage', serverAuth: true },
      {
        name: 'subjectAltName',
        altNames: [
          ...names.map((value) => ({ type: 2 as const, value })),
          ...['127.0.0.1', '::1'].map((ip) => ({ type: 7 as const, ip })),
        ],
      },
    ],
  });
  return read(cert, key, true);
}
