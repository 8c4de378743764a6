import { z } from 'zod';
import { Problem } from './common.ts';
import { descriptions } from './descriptions.ts';
import { examples } from './examples.ts';
import { commonRefusals, refusalCodes, refusals } from './refusals.ts';
import { routes, type Route } from './routes.ts';

type Json = Record<string, unknown>;

/** The OpenAPI 3.1 document of the HTTP interface, made from the same schemas the server parses with. */
export function openApi(): Json {
  const shared: Shared = {};
  const paths: Record<string, Json> = {};
  for (const [name, route] of Object.entries(routes) as [Operation, Route][]) {
    (paths[route.path] ??= {})[route.method] = operation(name, route, shared);
  }
  shared['Problem'] = schema(Problem, 'output', shared);
  return {
    openapi: '3.1.0',
    info: {
      title: 'Polychron',
      version: '1',
      description: `Controlled document versions over HTTP. What is refused is answered with problem details (RFC 9457) and a stable code. Besides those named with an operation each may answer: ${commonRefusals.join(', ')}.`,
    },
    servers: [{ url: '/api/v1' }],
    security: [{ session: [] }, { token: [] }],
    tags: subjects.map(([name]) => ({ name })),
    paths,
    components: {
      securitySchemes: {
        session: { type: 'apiKey', in: 'cookie', name: 'polychron_session' },
        token: { type: 'http', scheme: 'bearer' },
      },
      schemas: shared,
    },
  };
}

/** What the operations are grouped by: the first that fits an address names its subject. */
const subjects: readonly (readonly [name: string, fits: RegExp])[] = [
  ['Sign-in', /^\/(session|tokens|sessions)/],
  ['People', /^\/(people|groups)/],
  ['Rules', /\/rulebook/],
  ['Custody', /\/(checkout|checkin)/],
  ['Approval', /\/(submit|decision|call-back|publish)$/],
  ['Comparing', /\/(compare|so-far)$/],
  ['Versions', /^\/documents\/\{id\}\/(versions|restore|content)/],
  ['Documents', /^\/documents|^\/libraries\/\{id\}\/documents/],
  ['Libraries', /^\/libraries/],
  ['Desk', /^\/(desk|notices)/],
  ['System', /./],
];

/** Schemas that several operations refer to, by name. */
type Shared = Record<string, Json>;

/**
 * A schema as JSON Schema. What it refers to by name goes among the shared ones, where a reference from
 * anywhere in the document finds it.
 */
function schema(type: z.ZodType, io: 'input' | 'output', shared: Shared): Json {
  const json = z.toJSONSchema(type, { io, unrepresentable: 'any' }) as Json;
  const text = JSON.stringify(json).replaceAll('"#/$defs/', '"#/components/schemas/');
  const { $defs = {}, $schema: _, ...own } = JSON.parse(text) as Json & { $defs?: Shared };
  for (const [name, definition] of Object.entries($defs)) {
    const present = shared[name];
    if (present && JSON.stringify(present) !== JSON.stringify(definition))
      throw new Error(`two schemas are called ${name}`);
    shared[name] = definition;
  }
  return own;
}

/** Every route that shows something takes it, for controllers. */
const seenAs = {
  name: 'as',
  in: 'query',
  required: false,
  schema: { type: 'string' },
  description: 'See as another person (an account) or role (`role:reader`); for controllers',
};

/** Every route that shows what can be looked back at takes it. */
const asOf = {
  name: 'asOf',
  in: 'query',
  required: false,
  schema: { type: 'string', format: 'date-time' },
  description: 'As of an earlier moment: what the caller saw then and may see now; read-only',
};

const bytes = { type: 'string', format: 'binary' };

type Operation = keyof typeof routes;

/** A schema with an example, where there is one. */
const withExample = (of: Json, example: unknown): Json =>
  example === undefined ? { schema: of } : { schema: of, example };

function answerOf(name: Operation, { answer, status }: Route, shared: Shared): Json {
  if (answer) {
    const of = schema(answer, 'output', shared);
    return { content: { 'application/json': withExample(of, examples[name]?.answer) } };
  }
  return status === 204 ? {} : { content: { '*/*': { schema: bytes } } };
}

/** What an operation is refused with, by status, with an example of each code. */
function refusalsOf(name: Operation): Record<string, Json> {
  const byStatus = new Map<number, string[]>();
  for (const code of refusals[name]) {
    const status = refusalCodes[code]?.status ?? 400;
    byStatus.set(status, [...(byStatus.get(status) ?? []), code]);
  }
  const problem = (status: number, code: string): Json => ({
    type: `/api/docs#${code}`,
    status,
    detail: refusalCodes[code]?.says,
    code,
  });
  return Object.fromEntries(
    [...byStatus].map(([status, codes]) => [
      status,
      {
        description: codes.join(', '),
        content: {
          'application/problem+json': {
            schema: { $ref: '#/components/schemas/Problem' },
            examples: Object.fromEntries(codes.map((code) => [code, { value: problem(status, code) }])),
          },
        },
      },
    ]),
  );
}

function operation(name: Operation, route: Route, shared: Shared): Json {
  const problem = {
    description: 'Another refusal',
    content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/Problem' } } },
  };
  const answer = answerOf(name, route, shared);
  return {
    operationId: name,
    summary: route.summary,
    description: descriptions[name],
    tags: subjects.flatMap(([subject, fits]) => (fits.test(route.path) ? [subject] : [])).slice(0, 1),
    parameters: [
      ...parameters(route.params, 'path', shared),
      ...parameters(route.query, 'query', shared),
      ...(route.seenAs ? [seenAs] : []),
      ...(route.asOf ? [asOf] : []),
    ],
    ...(route.sends ? { requestBody: { required: true, content: requestContent(name, route, shared) } } : {}),
    responses: {
      [route.status]: { description: route.summary, ...answer },
      ...refusalsOf(name),
      '4XX': problem,
    },
    ...(route.open ? { security: [] } : {}),
  };
}

function requestContent(name: Operation, route: Route, shared: Shared): Json {
  if (route.sends === 'bytes') return { '*/*': { schema: bytes } };
  const body = route.body ? schema(route.body, 'input', shared) : { type: 'object' };
  const example = examples[name]?.request;
  if (route.sends === 'json') return { 'application/json': withExample(body, example) };
  return {
    'multipart/form-data': withExample(
      { ...body, properties: { ...(body['properties'] as Json), file: bytes } },
      example,
    ),
  };
}

function parameters(type: z.ZodType, where: 'path' | 'query', shared: Shared): Json[] {
  const json = schema(type, 'input', shared) as { properties?: Record<string, Json>; required?: string[] };
  return Object.entries(json.properties ?? {}).map(([name, property]) => ({
    name,
    in: where,
    required: where === 'path' || (json.required ?? []).includes(name),
    schema: property,
  }));
}
