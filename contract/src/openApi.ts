import { z } from 'zod';
import { Problem } from './common.ts';
import { routes, type Route } from './routes.ts';

type Json = Record<string, unknown>;

/** The OpenAPI 3.1 document of the HTTP interface, made from the same schemas the server parses with. */
export function openApi(): Json {
  const shared: Shared = {};
  const paths: Record<string, Json> = {};
  for (const [name, route] of Object.entries(routes) as [string, Route][]) {
    (paths[route.path] ??= {})[route.method] = operation(name, route, shared);
  }
  shared['Problem'] = schema(Problem, 'output', shared);
  return {
    openapi: '3.1.0',
    info: {
      title: 'Polychron',
      version: '1',
      description: 'Controlled document versions over HTTP. Errors are RFC 9457 problem details.',
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

const bytes = { type: 'string', format: 'binary' };

function answerOf({ answer, status }: Route, shared: Shared): Json {
  if (answer) return { content: { 'application/json': { schema: schema(answer, 'output', shared) } } };
  return status === 204 ? {} : { content: { '*/*': { schema: bytes } } };
}

function operation(name: string, route: Route, shared: Shared): Json {
  const problem = {
    description: 'A refusal',
    content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/Problem' } } },
  };
  const answer = answerOf(route, shared);
  return {
    operationId: name,
    summary: route.summary,
    tags: subjects.flatMap(([subject, fits]) => (fits.test(route.path) ? [subject] : [])).slice(0, 1),
    parameters: [
      ...parameters(route.params, 'path', shared),
      ...parameters(route.query, 'query', shared),
      ...(route.seenAs ? [seenAs] : []),
    ],
    ...(route.sends ? { requestBody: { required: true, content: requestContent(route, shared) } } : {}),
    responses: { [route.status]: { description: route.summary, ...answer }, '4XX': problem },
    ...(route.open ? { security: [] } : {}),
  };
}

function requestContent(route: Route, shared: Shared): Json {
  if (route.sends === 'bytes') return { '*/*': { schema: bytes } };
  const body = route.body ? schema(route.body, 'input', shared) : { type: 'object' };
  if (route.sends === 'json') return { 'application/json': { schema: body } };
  return {
    'multipart/form-data': {
      schema: { ...body, properties: { ...(body['properties'] as Json), file: bytes } },
    },
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
