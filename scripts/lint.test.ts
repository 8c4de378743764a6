import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';

const root = join(import.meta.dirname, '..');
const folder = mkdtempSync(join(tmpdir(), 'planted-'));
afterAll(() => rmSync(folder, { recursive: true }));

/** Files of a tree laid out as this one; each but the first few breaks one rule. */
const planted: Record<string, string> = {
  'core/src/document/version.ts': 'export const version = 1;\n',
  'core/src/acts/state.ts': 'export const state = 1;\n',
  'web/src/features/desk/Desk.ts': 'export const desk = 1;\n',
  'web/src/app/Shell.ts': 'export const shell = 1;\n',
  'server/src/acts/checkIn.ts': 'export const checkIn = 1;\n',

  'core/src/rules/upwards.ts': "import { state } from '../acts/state.ts';\n\nexport const a = state;\n",
  'core/src/ledger/typeUpwards.ts': "import type { A } from '../acts/alias.ts';\n\nexport type B = A;\n",
  'core/src/acts/alias.ts': 'export type A = number;\n',
  'server/src/reads/upwards.ts':
    "import { checkIn } from '../acts/checkIn.ts';\n\nexport const a = checkIn;\n",
  'web/src/features/shelf/other.ts': "import { desk } from '../desk/Desk.ts';\n\nexport const a = desk;\n",
  'web/src/features/shelf/frame.ts':
    "import { shell } from '../../app/Shell.ts';\n\nexport const a = shell;\n",
  'server/src/drawer/unlisted.ts':
    "import { checkIn } from '../acts/checkIn.ts';\n\nexport const a = checkIn;\n",
  'core/src/compare/one.ts':
    "import { two } from './two.ts';\n\n/** One. */\nexport const one = (): number => two();\n",
  'core/src/compare/two.ts':
    "import { one } from './one.ts';\n\n/** Two. */\nexport const two = (): number => one();\n",
  'core/src/merge/three.ts':
    "import type { Four } from './four.ts';\n\nexport interface Three {\n  four: Four;\n}\n",
  'core/src/merge/four.ts':
    "import type { Three } from './three.ts';\n\nexport interface Four {\n  three: Three;\n}\n",

  'server/src/reads/sql.ts': "/** Rows. */\nexport const sql = 'SELECT id FROM versions';\n",
  'server/src/jobs/sqlInParts.ts': '/** Rows. */\nexport const sql = (a: string) => `DELETE FROM ${a}`;\n',
  'server/src/http/models.ts': '/** Rows. */\nexport const all = (a: { models: object }) => a.models;\n',
  'server/src/http/query.ts':
    "/** Rows. */\nexport const all = (a: { db: { query: (sql: string) => void } }) => a.db.query('SHOW TABLES');\n",
  'web/src/parts/role.ts':
    "/** Whether. */\nexport const may = (roles: ReadonlySet<string>) => roles.has('controller');\n",
  'server/src/access/role.ts': "/** Whether. */\nexport const may = (role: string) => role === 'author';\n",
  'server/src/access/roleOf.ts':
    "/** Whether. */\nexport const may = (role: string) => ['author', 'approver'].includes(role);\n",
  'server/src/access/roleCase.ts':
    "/** Whether. */\nexport function may(role: string) {\n  switch (role) {\n    case 'auditor':\n      return 1;\n    default:\n      return 0;\n  }\n}\n",
  'server/src/http/queryToo.ts':
    "/** Rows. */\nexport const all = (db: { query: (sql: string) => void }) => db.query('SHOW TABLES');\n",
  'core/src/acts/role.ts': "/** Whether. */\nexport const may = (role: string) => role !== 'reader';\n",
  'core/src/acts/clock.ts': '/** Now. */\nexport const now = () => new Date();\n',
  'core/src/acts/clockToo.ts': '/** Now. */\nexport const now = () => Date.now();\n',
  'core/src/files/disk.ts': "export { readFileSync } from 'node:fs';\n",
  'core/src/files/reads.ts':
    "import { readFileSync } from 'node:fs';\n\n/** Reads. */\nexport const read = () => readFileSync('a');\n",
  'core/src/files/outside.ts': "/** Asks. */\nexport const ask = () => fetch('/');\n",
  'core/src/files/stranger.ts':
    "import { a } from '@polychron/contract';\n\n/** A. */\nexport const b = () => a;\n",
  'contract/src/stranger.ts':
    "import { a } from '@polychron/server';\n\n/** A. */\nexport const b = () => a;\n",
  'web/src/parts/stranger.ts':
    "import { a } from '@polychron/server';\n\n/** A. */\nexport const b = () => a;\n",
  'server/src/reads/stranger.ts':
    "import { a } from '@polychron/web';\n\n/** A. */\nexport const b = () => a;\n",
  'server/src/reads/byPath.ts':
    "import { state } from '../../../core/src/acts/state.ts';\n\n/** A. */\nexport const b = () => state;\n",
  'core/src/acts/silent.ts': 'export const silent = () => 1;\n',
  'core/src/acts/nested.ts':
    '/** N. */\nexport const nested = (a: boolean, b: boolean) => (a ? 1 : b ? 2 : 3);\n',
  'core/src/acts/many.ts':
    '/** M. */\nexport const many = (a: 1, b: 2, c: 3, d: 4, e: 5) => [a, b, c, d, e];\n',
  'core/src/acts/long.ts': `/** L. */\nexport const long = () => [${'1, '.repeat(40)}1];\n`,
  'web/src/parts/Unlabelled.tsx':
    '/** A press. */\nexport const Pressed = () => <div onClick={() => undefined}>x</div>;\n',
  'web/src/parts/Picture.tsx': '/** A picture. */\nexport const Picture = () => <img src="x" />;\n',
};

/** Runs a tool of this project over the planted tree; what it says as JSON. */
function run(tool: string, ...parts: string[]): unknown {
  const options = { cwd: folder, encoding: 'utf8' as const, maxBuffer: 1 << 28 };
  const { stdout, stderr } = spawnSync(
    process.execPath,
    [join(root, 'node_modules', tool), ...parts],
    options,
  );
  if (!stdout) throw new Error(stderr);
  return JSON.parse(stdout);
}

beforeAll(() => {
  for (const [path, text] of Object.entries(planted)) {
    mkdirSync(dirname(join(folder, path)), { recursive: true });
    writeFileSync(join(folder, path), text);
  }
});

test('what breaks an arrow of the architecture, or goes in a circle, is named; nothing else is', () => {
  interface Told {
    summary: { violations: { from: string; rule: { name: string } }[] };
  }
  const { summary } = run(
    'dependency-cruiser/bin/dependency-cruise.mjs',
    ...['--config', join(root, '.dependency-cruiser.js'), '--output-type', 'json'],
    ...['core/src', 'server/src', 'web/src'],
  ) as Told;
  const told = summary.violations.map(({ from, rule }) => `${from}: ${rule.name}`);
  const circle = 'nothing goes in a circle, types neither';
  expect(told.sort()).toEqual([
    `core/src/compare/one.ts: ${circle}`,
    'core/src/ledger/typeUpwards.ts: core/src/ledger imports what stands below it',
    `core/src/merge/four.ts: ${circle}`,
    'core/src/rules/upwards.ts: core/src/rules imports what stands below it',
    'server/src/drawer/unlisted.ts: every folder of server/src is listed',
    'server/src/reads/byPath.ts: another workspace is imported by its name',
    'server/src/reads/upwards.ts: server/src/reads imports what stands below it',
    'web/src/features/shelf/frame.ts: web/src/features imports what stands below it',
    'web/src/features/shelf/other.ts: a screen imports no other; what both need is a part',
  ]);
});

test('SQL outside the store, roles outside core, clocks in core, strangers, what cannot be reached by keys: each is refused', () => {
  const files = run('eslint/bin/eslint.js', '-c', join(root, 'eslint.config.js'), '-f', 'json', '.') as {
    filePath: string;
    messages: { ruleId: string; message: string }[];
  }[];
  const told = files.flatMap(({ filePath, messages }) =>
    [...new Set(messages.map(({ ruleId }) => ruleId))].map(
      (ruleId) => `${filePath.slice(folder.length + 1)}: ${ruleId}`,
    ),
  );
  const [syntax, imports] = ['no-restricted-syntax', 'no-restricted-imports'];
  expect(told.sort()).toEqual(
    [
      `server/src/reads/sql.ts: ${syntax}`,
      `server/src/jobs/sqlInParts.ts: ${syntax}`,
      `server/src/http/models.ts: ${syntax}`,
      `server/src/http/query.ts: ${syntax}`,
      `web/src/parts/role.ts: ${syntax}`,
      `server/src/http/queryToo.ts: ${syntax}`,
      `server/src/access/role.ts: ${syntax}`,
      `server/src/access/roleOf.ts: ${syntax}`,
      `server/src/access/roleCase.ts: ${syntax}`,
      `core/src/acts/role.ts: ${syntax}`,
      `core/src/acts/clock.ts: ${syntax}`,
      `core/src/acts/clockToo.ts: ${syntax}`,
      `core/src/files/disk.ts: ${syntax}`,
      `core/src/files/reads.ts: ${syntax}`,
      'core/src/files/outside.ts: no-restricted-globals',
      `core/src/files/stranger.ts: ${imports}`,
      `contract/src/stranger.ts: ${imports}`,
      `web/src/parts/stranger.ts: ${imports}`,
      `server/src/reads/stranger.ts: ${imports}`,
      'core/src/acts/silent.ts: jsdoc/require-jsdoc',
      'core/src/acts/nested.ts: no-nested-ternary',
      'core/src/acts/many.ts: max-params',
      'core/src/acts/long.ts: max-len',
      'web/src/parts/Unlabelled.tsx: jsx-a11y-x/click-events-have-key-events',
      'web/src/parts/Unlabelled.tsx: jsx-a11y-x/no-static-element-interactions',
      'web/src/parts/Picture.tsx: jsx-a11y-x/alt-text',
    ].sort(),
  );
});
