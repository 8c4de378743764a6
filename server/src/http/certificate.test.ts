import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { request } from 'node:https';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import express from 'express';
import { certificateOf, type Certificate } from './certificate.ts';
import { listenSecurely } from './listen.ts';

const home = mkdtempSync(join(tmpdir(), 'certificate-'));
afterAll(() => rmSync(home, { recursive: true, force: true }));
const now = new Date('2026-03-02T09:00:00Z');
const later = (days: number): Date => new Date(now.getTime() + days * 86_400_000);
const file = (name: string, content: string): string => {
  const path = join(home, name);
  writeFileSync(path, content);
  return path;
};
/** What OpenSSL says of a certificate. */
const told = (cert: string, ...asked: string[]): string =>
  execFileSync('openssl', ['x509', '-noout', ...asked], { input: cert, encoding: 'utf8' });

test('one is made at the first start, for its owner alone, and kept until it nears its end', async () => {
  const made = await certificateOf({}, home, now);
  expect(made.selfSigned).toBe(true);
  expect(statSync(join(home, 'tls/key.pem')).mode & 0o777).toBe(0o600);
  expect(await certificateOf({}, home, later(700))).toEqual(made);
  const renewed = await certificateOf({}, home, later(795));
  expect(renewed.fingerprint).not.toBe(made.fingerprint);
  expect(await certificateOf({}, home, later(800))).toEqual(renewed);
});

test('OpenSSL reads it: a server of this machine, by name and address, verified by itself', async () => {
  const { cert, key, fingerprint } = await certificateOf({}, null, now);
  const text = told(cert, '-text');
  for (const part of ['DNS:localhost', 'IP Address:127.0.0.1', 'TLS Web Server Authentication', 'CA:FALSE'])
    expect(text).toContain(part);
  expect(told(cert, '-fingerprint', '-sha256').trim().split('=')[1]).toBe(fingerprint);
  const [at, path] = [`${now.getTime() / 1000 + 60}`, file('made.pem', cert)];
  const verified = execFileSync(
    'openssl',
    ['verify', '-attime', at, '-purpose', 'sslserver', '-CAfile', path, path],
    { encoding: 'utf8' },
  );
  expect(verified).toContain('OK');
  expect(execFileSync('openssl', ['pkey', '-noout', '-check'], { input: key, encoding: 'utf8' })).toContain(
    'valid',
  );
});

test('one that was named takes its place; what is wrong with it is said', async () => {
  const { cert, key } = await certificateOf({}, null, now);
  const other = await certificateOf({}, null, now);
  const env = { POLYCHRON_TLS_CERT: file('cert.pem', cert), POLYCHRON_TLS_KEY: file('key.pem', key) };
  expect(await certificateOf(env, home, now)).toMatchObject({ cert, key, selfSigned: false });
  const refused = (changed: NodeJS.ProcessEnv, at = now): Promise<Certificate> =>
    certificateOf({ ...env, ...changed }, home, at);
  await expect(refused({ POLYCHRON_TLS_KEY: undefined })).rejects.toThrow('POLYCHRON_TLS_KEY is not');
  await expect(refused({ POLYCHRON_TLS_CERT: undefined })).rejects.toThrow('POLYCHRON_TLS_CERT is not');
  await expect(refused({ POLYCHRON_TLS_CERT: '/nowhere' })).rejects.toThrow('there is no such file');
  await expect(refused({ POLYCHRON_TLS_KEY: file('other.pem', other.key) })).rejects.toThrow(
    'not the one of the certificate',
  );
  await expect(refused({ POLYCHRON_TLS_CERT: file('bad.pem', 'no certificate') })).rejects.toThrow('X.509');
  await expect(refused({ POLYCHRON_TLS_KEY: file('bad.pem', 'no key') })).rejects.toThrow('private key');
  await expect(refused({}, later(900))).rejects.toThrow('ended on');
});

test('what is served with it is reached by who trusts it, and by nobody else', async () => {
  const certificate = await certificateOf({}, null, new Date());
  const app = express().get('/', (req, res) => {
    res.send(req.secure ? 'secure' : 'plain');
  });
  const server = listenSecurely(app, certificate, { port: 0, host: '127.0.0.1' }, () => undefined);
  await new Promise((resolve) => {
    server.once('listening', resolve);
  });
  const { port } = server.address() as AddressInfo;
  const ask = (ca?: string): Promise<string> =>
    new Promise((resolve, reject) => {
      const asked = request({ port, host: 'localhost', agent: false, ...(ca ? { ca } : {}) }, (answer) => {
        let text = '';
        answer.on('data', (part: Buffer) => (text += part.toString()));
        answer.on('end', () => resolve(text));
      });
      asked.on('error', reject);
      asked.end();
    });
  try {
    expect(await ask(certificate.cert)).toBe('secure');
    await expect(ask()).rejects.toMatchObject({ code: 'DEPTH_ZERO_SELF_SIGNED_CERT' });
  } finally {
    server.close();
  }
});
