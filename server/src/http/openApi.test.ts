import { execFile, execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { openApi } from '@polychron/contract';
import { TestServer } from '../testing/server.ts';

/** Within the packages, so that what is generated finds them. */
const folder = mkdtempSync(join(process.cwd(), 'node_modules', '.client-'));
afterAll(() => rmSync(folder, { recursive: true }));
const document = join(folder, 'openapi.json');
writeFileSync(document, JSON.stringify(openApi()));

const validators = `
import { readFileSync } from 'node:fs';
import { Validator } from '@seriousme/openapi-schema-validator';
import { compileErrors, validate } from '@readme/openapi-parser';
const api = JSON.parse(readFileSync(process.argv[2], 'utf8'));
const one = await new Validator().validate(structuredClone(api));
const two = await validate(structuredClone(api));
console.log(JSON.stringify([one.valid, one.errors ?? null, two.valid, two.valid ? null : compileErrors(two)]));
`;

/** The main job, by a client that a generator made of the document: openapi-typescript and openapi-fetch. */
const mainJob = `
import createClient from 'openapi-fetch';
import type { components, paths } from './api.ts';

const headers = { Authorization: 'Bearer ' + process.argv[3] };
const client = createClient<paths>({ baseUrl: process.argv[2] + '/api/v1', headers });
function had<T>({ data, error }: { data?: T; error?: unknown }): T {
  if (data === undefined) throw new Error(JSON.stringify(error));
  return data;
}
const form = (body: Record<string, unknown>): FormData => {
  const data = new FormData();
  for (const [name, value] of Object.entries(body))
    if (value instanceof Blob) data.append(name, value, 'op.txt');
    else if (value !== undefined) data.append(name, String(value));
  return data;
};
const file = (text: string): string => new Blob([text], { type: 'text/plain' }) as unknown as string;

const libraries = had(await client.GET('/libraries'));
const id = libraries.items[0]?.id ?? '';
const made: components['schemas']['Document'] = had(
  await client.POST('/libraries/{id}/documents', {
    params: { path: { id } },
    body: { fields: JSON.stringify({ title: 'Opening the line' }), comment: 'First', level: 'minor', file: file('Open.') },
    bodySerializer: form,
  }),
);
const path = { id: made.id };
had(await client.POST('/documents/{id}/checkout', { params: { path }, body: {} }));
const second: components['schemas']['Version'] = had(
  await client.POST('/documents/{id}/checkin', {
    params: { path },
    body: { comment: 'Second', level: 'minor', keepCheckedOut: false, keepFileName: true, confirm: '', file: file('Open it.') },
    bodySerializer: form,
  }),
);
const compared = had(
  await client.GET('/documents/{id}/compare', { params: { path, query: { from: '0.1', to: second.label } } }),
);
const published = had(await client.POST('/documents/{id}/publish', { params: { path }, body: { comment: 'Go' } }));
const refused = await client.POST('/documents/{id}/publish', { params: { path }, body: {} });
const text = await client.GET('/documents/{id}/content', { params: { path }, parseAs: 'text' });
console.log(
  JSON.stringify([second.label, compared.changes.length, published.label, refused.error?.code, text.data]),
);
`;

test('two validators accept the document', () => {
  const script = join(folder, 'validators.mjs');
  writeFileSync(script, validators);
  expect(JSON.parse(execFileSync('node', [script, document], { encoding: 'utf8' }))).toEqual([
    true,
    null,
    true,
    null,
  ]);
});

test('a client that is generated from the document compiles, and does the main job', async () => {
  execFileSync('node_modules/.bin/openapi-typescript', [document, '-o', join(folder, 'api.ts')], {
    stdio: 'pipe',
  });
  writeFileSync(join(folder, 'package.json'), '{"type":"module"}');
  writeFileSync(join(folder, 'main.ts'), mainJob);
  const options =
    '--ignoreConfig --strict --module nodenext --target es2022 --skipLibCheck --allowImportingTsExtensions';
  const emitted = '--rewriteRelativeImportExtensions --types node';
  // By its file: two compilers are installed, and either may have the name.
  execFileSync(
    'node',
    [
      'node_modules/typescript-native/bin/tsc',
      ...`${options} ${emitted}`.split(' '),
      join(folder, 'main.ts'),
    ],
    {
      stdio: 'pipe',
      encoding: 'utf8',
    },
  );
  const server = await TestServer.start();
  const listening = server.app.listen(0, '127.0.0.1');
  try {
    await server.library();
    const author = await server.as('author');
    const { token } = (
      await author.post('/api/v1/tokens').send({ name: 'client', scope: 'work' }).expect(201)
    ).body as { token: string };
    const { port } = listening.address() as AddressInfo;
    // Not waited for in this thread: it is what answers.
    const { stdout } = await promisify(execFile)('node', [
      join(folder, 'main.js'),
      `http://127.0.0.1:${port}`,
      token,
    ]);
    expect(JSON.parse(stdout)).toEqual(['0.2', 1, '1.0', expect.any(String), 'Open it.']);
  } finally {
    listening.close();
    await server.stop();
  }
});
