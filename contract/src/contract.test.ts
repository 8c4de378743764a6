import { CheckInForm } from './custody.ts';
import { DocumentQuery, NewDocumentForm } from './documents.ts';
import { NewLibrary } from './libraries.ts';
import { openApi } from './openApi.ts';
import { type Route, routes } from './routes.ts';
import { Fields } from './versions.ts';

test('a check-in form is read from text fields', () => {
  expect(
    CheckInForm.parse({
      level: 'minor',
      comment: 'x',
      keepCheckedOut: 'true',
      confirm: 'same-bytes, other-name',
    }),
  ).toEqual({
    level: 'minor',
    comment: 'x',
    keepCheckedOut: true,
    keepFileName: false,
    confirm: ['same-bytes', 'other-name'],
  });
  expect(CheckInForm.parse({ level: 'major', confirm: '' })).toMatchObject({
    comment: '',
    keepCheckedOut: false,
    confirm: [],
  });
});

test.each([
  { level: 'minor', confirm: 'everything' },
  { level: 'medium' },

  { level: 'minor', keepCheckedOut: 'perhaps' },
  { level: 'minor', colour: 'red' },
])('the check-in form %j is refused', (form) => {
  expect(CheckInForm.safeParse(form).success).toBe(false);
});

test('the fields of a new document come as JSON, and JSON that is none is an issue, not an exception', () => {
  expect(NewDocumentForm.parse({ fields: '{"title":" A title "}' })).toMatchObject({
    fields: { title: 'A title' },
  });
  expect(NewDocumentForm.safeParse({ fields: '{' }).success).toBe(false);
  expect(NewDocumentForm.safeParse({ fields: '"text"' }).success).toBe(false);
});

test('review dates are ISO 8601 dates that exist', () => {
  for (const [reviewBy, good] of [
    ['2028-02-29', true],
    ['2026-02-29', false],
    ['2026-2-1', false],
    ['1 May 2026', false],
  ] as const) {
    expect(Fields.safeParse({ title: 'T', reviewBy }).success).toBe(good);
  }
});

test('a library says only what differs from the defaults; a page has a size within bounds', () => {
  expect(NewLibrary.parse({ name: 'Plans', code: 'RP' })).toEqual({
    name: 'Plans',
    code: 'RP',
    purpose: '',
    rulebook: {},
  });
  expect(DocumentQuery.parse({})).toEqual({ limit: 50, sort: 'number' });
  for (const limit of ['0', '201', '1.5', 'many'])
    expect(DocumentQuery.safeParse({ limit }).success).toBe(false);
});

test('the OpenAPI document has every route once, with its path parameters', () => {
  const { paths } = openApi() as {
    paths: Record<
      string,
      Record<string, { operationId: string; parameters: { name: string; in: string }[] }>
    >;
  };
  for (const [name, route] of Object.entries(routes) as [string, Route][]) {
    const operation = paths[route.path]?.[route.method];
    expect(operation?.operationId).toBe(name);
    expect(
      operation?.parameters.filter((parameter) => parameter.in === 'path').map((parameter) => parameter.name),
    ).toEqual([...route.path.matchAll(/\{(\w+)\}/g)].map(([, parameter]) => parameter));
  }
});
