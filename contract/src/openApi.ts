import { z } from 'zod';
import { Problem } from './common.ts';
import { routes, type Route } from './routes.ts';

type Json = Record<string, unknown>;

/** The OpenAPI 3.1 document of the HTTP interface, made from the same schemas the server parses with. */
export function openApi(): Json {
  const paths: Record<string, Json> = {};
  for (const [name, route] of Object.entries(routes) as [string, Route][]) {
    (paths[route.path] ??= {})[route.method] = operation(name, route);
  }
  return {
    openapi: '3.1.0',
    info: {
      title: 'Polychron',
      version: '1',
      description: 'Controlled document versions over HTTP. Errors are RFC 9457 problem details.',
    },
    servers: [{ url: '/api/v1' }],
    security: [{ session: [] }, { token: [] }],
    paths,
    components: {
      securitySchemes: {
        session: { type: 'apiKey', in: 'cookie', name: 'polychron_session' },
        token: { type: 'http', scheme: 'bearer' },
      },
      schemas: { Problem: schema(Problem, 'output') },
    },
  };
}

function schema(type: z.ZodType, io: 'input' | 'output'): Json {
  const json = z.toJSONSchema(type, { io, unrepresentable: 'any' }) as Json;
  delete json['$schema'];
  return json;
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

function answerOf({ answer, status }: Route): Json {
  if (answer) return { content: { 'application/json': { schema: schema(answer, 'output') } } };
  return status === 204 ? {} : { content: { '*/*': { schema: bytes } } };
}

function operation(name: string, route: Route): Json {
  const problem = {
    description: 'A refusal',
    content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/Problem' } } },
  };
  const answer = answerOf(route);
  return {
    operationId: name,
    summary: route.summary,
    parameters: [
      ...parameters(route.params, 'path'),
      ...parameters(route.query, 'query'),
      ...(route.seenAs ? [seenAs] : []),
    ],
    ...(route.sends ? { requestBody: { required: true, content: requestContent(route) } } : {}),
    responses: { [route.status]: { description: route.summary, ...answer }, '4XX': problem },
    ...(route.open ? { security: [] } : {}),
  };
}

function requestContent(route: Route): Json {
  if (route.sends === 'bytes') return { '*/*': { schema: bytes } };
  const body = route.body ? schema(route.body, 'input') : { type: 'object' };
  if (route.sends === 'json') return { 'application/json': { schema: body } };
  return {
    'multipart/form-data': {
      schema: { ...body, properties: { ...(body['properties'] as Json), file: bytes } },
    },
  };
}

function parameters(type: z.ZodType, where: 'path' | 'query'): Json[] {
  const json = schema(type, 'input') as { properties?: Record<string, Json>; required?: string[] };
  return Object.entries(json.properties ?? {}).map(([name, property]) => ({
    name,
    in: where,
    required: where === 'path' || (json.required ?? []).includes(name),
    schema: property,
  }));
}
