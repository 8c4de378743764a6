import { randomUUID } from 'node:crypto';
import { openApi } from '@polychron/contract';
import fc from 'fast-check';
import { docxOf } from '../testing/files.ts';
import { testServer } from '../testing/started.ts';

/** The part of a JSON schema (2020-12) that is generated from. */
interface Schema {
  type?: string;
  format?: string;
  enum?: unknown[];
  const?: unknown;
  anyOf?: Schema[];
  items?: Schema;
  properties?: Record<string, Schema>;
  additionalProperties?: Schema | boolean;
}
interface Operation {
  parameters?: { name: string; in: string; schema: Schema }[];
  requestBody?: { content: Record<string, { schema: Schema }> };
}
interface Target {
  method: 'get' | 'post' | 'put' | 'patch' | 'delete';
  path: string;
  operation: Operation;
}

const server = testServer();
let ids: string[];
beforeAll(async () => {
  const library = await server.library({ custody: 'optional' });
  const held = await server.document(library, 'first\nsecond', { level: 'major' });
  await server.change(held.id, 'other');
  const author = await server.as('author');
  await author.post(`/api/v1/documents/${held.id}/checkout`).send({}).expect(201);
  const free = await server.document(library, 'free');
  const copy = await author.post(`/api/v1/documents/${free.id}/versions/0.1/loose-copy`).send({}).expect(201);
  ids = [library, held.id, free.id, held.latest.id, (copy.body as { id: string }).id, randomUUID()];
});

/** Streams do not end; everything else is asked. */
const targets = (): Target[] =>
  Object.entries(openApi().paths as unknown as Record<string, Record<string, Operation>>).flatMap(
    ([path, methods]) =>
      path.endsWith('/events')
        ? []
        : Object.entries(methods).map(([method, operation]) => ({
            method: method as Target['method'],
            path,
            operation,
          })),
  );

const instants = [
  '2026-04-01T00:00:00Z',
  '9999-12-31T23:59:59-14:00',
  '0000-01-01T00:00:00Z',
  '2026-02-30T00:00:00Z',
];
const words = [
  '',
  ' ',
  'a',
  '0.1',
  '1.0',
  '2~1.0',
  '99999999999999999999.1',
  'ü',
  '\u0000',
  '\ud800',
  '\u202e',
  '%',
  '-1',
  '1e9',
  'null',
  "'; --",
];
const junk = fc.oneof(
  fc.constantFrom<unknown>(
    null,
    true,
    -1,
    0,
    1.5,
    2 ** 31,
    2 ** 53,
    1e308,
    [],
    {},
    [[]],
    { toString: 1 },
    'x'.repeat(5000),
  ),
  fc.constantFrom(...words),
  fc.string({ unit: 'binary', maxLength: 30 }),
);

/** A value that fits the schema, or with some chance one that does not. */
function valueOf(schema: Schema, depth = 0): fc.Arbitrary<unknown> {
  const fitting = fittingOf(schema, depth);
  return fc.oneof({ weight: 6, arbitrary: fitting }, { weight: 1, arbitrary: junk });
}

function fittingOf(schema: Schema, depth: number): fc.Arbitrary<unknown> {
  if (schema.const !== undefined) return fc.constant(schema.const);
  if (schema.enum) return fc.constantFrom(...schema.enum);
  if (schema.anyOf) return fc.oneof(...schema.anyOf.map((one) => fittingOf(one, depth)));
  switch (schema.type) {
    case 'object': {
      const properties = Object.entries(schema.properties ?? {});
      const known = Object.fromEntries(properties.map(([name, one]) => [name, valueOf(one, depth + 1)]));
      return depth > 4 ? fc.constant({}) : fc.record(known, { requiredKeys: [] });
    }
    case 'array':
      return depth > 4 ? fc.constant([]) : fc.array(valueOf(schema.items ?? {}, depth + 1), { maxLength: 3 });
    case 'integer':
    case 'number':
      return fc.oneof(fc.integer({ min: 0, max: 100 }), fc.integer(), fc.double());
    case 'boolean':
      return fc.boolean();
    case 'string':
      if (schema.format === 'uuid') return fc.constantFrom(...ids);
      if (schema.format === 'date-time') return fc.constantFrom(...instants);
      return fc.oneof(
        fc.constantFrom(...words, 'reader', 'author', 'role:reader'),
        fc.string({ unit: 'binary', maxLength: 20 }),
      );
    default:
      return junk;
  }
}

const text = (value: unknown): string => (typeof value === 'string' ? value : (JSON.stringify(value) ?? ''));

/** One request for a route: its address, its query and what it sends. */
function requestOf({ path, operation }: Target) {
  const parameters = operation.parameters ?? [];
  const inPath = parameters
    .filter((each) => each.in === 'path')
    .map(({ name, schema }) => [name, valueOf(schema)] as const);
  const inQuery = parameters
    .filter((each) => each.in === 'query')
    .map(({ name, schema }) => [name, valueOf(schema)] as const);
  const [kind, body] = Object.entries(operation.requestBody?.content ?? {})[0] ?? [null, null];
  return fc.record({
    address: fc.record(Object.fromEntries(inPath)).map((values) =>
      path.replace(/\{(\w+)\}/g, (_, name: string) => {
        const value = text((values as Record<string, unknown>)[name]);
        return encodeURIComponent(value.replace(/\p{Cs}/gu, 'x')) || '%20';
      }),
    ),
    query: fc.record(Object.fromEntries(inQuery), { requiredKeys: [] }),
    kind: fc.constant(kind),
    body: body ? valueOf(body.schema) : fc.constant(undefined),
    account: fc.constantFrom('reader', 'author', 'approver', 'controller', 'admin', 'stranger'),
    ifMatch: fc.option(fc.constantFrom('*', '"x"', 'W/"x"', 'x'), { freq: 6 }),
  });
}

async function send(
  { method }: Target,
  asked: {
    address: string;
    query: object;
    kind: string | null;
    body: unknown;
    account: string;
    ifMatch: string | null;
  },
) {
  const query = Object.fromEntries(Object.entries(asked.query).map(([name, value]) => [name, text(value)]));
  const agent = await server.as(asked.account);
  const sending = agent[method](`/api/v1${asked.address}`).query(query).buffer();
  if (asked.ifMatch !== null) sending.set('If-Match', asked.ifMatch);
  if (asked.kind === 'application/json')
    return sending.set('Content-Type', 'application/json').send(JSON.stringify(asked.body) ?? '');
  if (asked.kind === 'multipart/form-data') {
    for (const [name, value] of Object.entries((asked.body ?? {}) as object))
      if (name !== 'file') sending.field(name, text(value));
    return sending.attach('file', docxOf(text(asked.body).replace(/[^\w ]/g, '')), 'op.docx');
  }
  if (asked.kind !== null)
    return sending.set('Content-Type', 'application/octet-stream').send(Buffer.from(text(asked.body)));
  return sending;
}

test('no request the interface describes, nor one that is near it, is answered with a fault of ours', async () => {
  const all = targets();
  expect(all.length).toBeGreaterThan(60);
  const statuses = new Map<number, number>();
  let done = 0;
  const total = Number(process.env['POLYCHRON_FUZZ_REQUESTS'] ?? 600);
  for (const target of all) {
    await fc.assert(
      fc.asyncProperty(requestOf(target), async (asked) => {
        const answer = await send(target, asked);
        statuses.set(answer.status, (statuses.get(answer.status) ?? 0) + 1);
        if (target.method !== 'get' && answer.status < 300) done += 1;
        const told = `${target.method} ${asked.address} ${answer.status} ${answer.status < 500 ? '' : answer.text}`;
        expect(told).toMatch(/ [1-4]\d\d $/);
        if (answer.status >= 400)
          expect(answer.headers['content-type']).toMatch(/^application\/problem\+json/);
      }),
      { numRuns: Math.ceil(total / all.length), endOnFailure: true },
    );
  }
  // It reaches past the door: acts are done, and refused by rule and not only by shape.
  for (const status of [200, 403, 404, 422])
    expect([status, (statuses.get(status) ?? 0) > 0]).toEqual([status, true]);
  expect(done).toBeGreaterThan(0);
  // A code that one request in thousands meets is looked for where many are made, not by chance.
  if (process.env['POLYCHRON_FUZZ_REQUESTS'] === undefined) server.undeclared.clear();
});
