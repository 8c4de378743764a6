import js from '@eslint/js';
import { createNodeResolver, importX } from 'eslint-plugin-import-x';
import jsdoc from 'eslint-plugin-jsdoc';
import reactHooks from 'eslint-plugin-react-hooks';
import globals from 'globals';
import ts from 'typescript-eslint';

/** Arrows between workspaces point one way: web and server know contract and core, contract knows core. */
const strangers = {
  core: ['@polychron/*'],
  contract: ['@polychron/server', '@polychron/web', '@polychron/demo'],
  server: ['@polychron/web', '@polychron/demo'],
  web: ['@polychron/server', '@polychron/demo', '@polychron/cli'],
  cli: ['@polychron/server', '@polychron/demo', '@polychron/web'],
};

/** The folders of each workspace and which of the others each may import (docs/architecture.md). */
const mayImport = {
  'core/src': {
    document: [],
    ledger: [],
    rules: ['document'],
    files: ['document'],
    strand: ['document'],
    acts: ['document', 'rules'],
    compare: ['document', 'files'],
    ruleChange: ['document', 'rules', 'acts'],
    merge: ['document', 'files', 'compare'],
    issue: ['document', 'rules', 'files'],
  },
  'server/src': {
    store: [],
    workers: ['store'],
    access: ['store'],
    content: ['store'],
    standins: [],
    events: ['access', 'store'],
    reads: ['access', 'content', 'standins', 'store', 'workers'],
    acts: ['access', 'content', 'reads', 'standins', 'store', 'workers'],
    jobs: ['access', 'content', 'store', 'acts'],
    protocols: ['access', 'acts', 'content', 'reads', 'store'],
    http: ['access', 'content', 'events', 'protocols', 'reads', 'acts', 'store', 'workers'],
  },
  'web/src': {
    ui: [],
    parts: ['ui'],
    features: ['ui', 'parts', 'app'],
    app: ['ui', 'parts', 'features'],
  },
};
const screens = [
  'account',
  'approvals',
  'compare',
  'desk',
  'document',
  'edit',
  'inForce',
  'outbox',
  'people',
  'register',
  'rulebook',
  'shelf',
];
const features = [...screens, 'sight', 'signIn'];
const downwards = 'Arrows point downwards only (docs/architecture.md).';
const zones = [
  ...Object.entries(mayImport).flatMap(([workspace, folders]) =>
    Object.entries(folders).map(([folder, below]) => ({
      target: `./${workspace}/${folder}`,
      from: Object.keys(folders)
        .filter((other) => other !== folder && !below.includes(other))
        .map((other) => `./${workspace}/${other}`),
      message: downwards,
    })),
  ),
  // Of the frame, a screen knows what it remembers, not how it is drawn.
  {
    target: './web/src/features',
    from: './web/src/app',
    except: ['./preferences.ts', './uploads.ts'],
    message: downwards,
  },
  ...features.map((feature) => ({
    target: `./web/src/features/${feature}`,
    from: features.filter((other) => other !== feature).map((other) => `./web/src/features/${other}`),
    message: 'A screen never imports another; what both need is a part.',
  })),
].filter(({ from }) => from.length > 0);

const role = '/^(reader|auditor|author|approver|controller)$/';
const roleRule =
  'What a role may do is said in core/src/rules/roles.ts alone: ask `may`, or the API\u2019s `acts`.';
const noRoles = [
  {
    selector: `CallExpression[callee.property.name=/^(has|includes)$/] > Literal[value=${role}]`,
    message: roleRule,
  },
  { selector: `BinaryExpression[operator=/^[!=]==$/] > Literal[value=${role}]`, message: roleRule },
];
const storeRule = 'SQL is in server/src/store alone.';
const noSql = [
  { selector: 'MemberExpression[property.name="models"]', message: storeRule },
  {
    selector: 'CallExpression[callee.object.property.name="db"][callee.property.name="query"]',
    message: storeRule,
  },
  {
    selector: 'TemplateElement[value.raw=/\\b(SELECT|INSERT INTO|DELETE FROM|UPDATE \\w+ SET)\\b/]',
    message: storeRule,
  },
  { selector: 'Literal[value=/\\b(SELECT|INSERT INTO|DELETE FROM|UPDATE \\w+ SET)\\b/]', message: storeRule },
];
/** The computation stays free of I/O and clocks. */
const clockRule = 'core has no clock: take `now`.';
const noClock = [
  {
    selector: "CallExpression[callee.object.name='Date'][callee.property.name='now']",
    message: clockRule,
  },
  { selector: "NewExpression[callee.name='Date'][arguments.length=0]", message: clockRule },
  { selector: 'ImportDeclaration[source.value=/^node:/]', message: 'core does no I/O.' },
];
const outside = ['process', 'Buffer', 'fetch', 'setTimeout', 'setInterval', 'window', 'document'];

const tests = ['**/*.test.{ts,tsx}', '**/testing/**'];

export default ts.config(
  {
    ignores: ['**/dist/**', '**/node_modules/**', '.polychron/**', 'test-results/**', 'playwright-report/**'],
  },
  js.configs.recommended,
  ...ts.configs.recommended,
  { languageOptions: { globals: { ...globals.node } } },
  {
    plugins: { 'import-x': importX },
    settings: { 'import-x/resolver-next': [createNodeResolver({ extensions: ['.ts', '.tsx', '.js'] })] },
    rules: {
      '@typescript-eslint/consistent-type-imports': 'error',
      '@typescript-eslint/no-unused-vars': [
        'error',
        { varsIgnorePattern: '^_+$', argsIgnorePattern: '^_+$' },
      ],
      eqeqeq: 'error',
      'import-x/no-cycle': ['error', { ignoreExternal: true }],
      'import-x/no-restricted-paths': ['error', { basePath: import.meta.dirname, zones }],
      'max-len': [
        'error',
        {
          code: 110,
          ignoreStrings: true,
          ignoreTemplateLiterals: true,
          ignoreRegExpLiterals: true,
          ignoreUrls: true,
        },
      ],
      'max-params': ['error', 4],
      'no-nested-ternary': 'error',
    },
  },
  {
    files: ['{core,contract,server}/src/**/*.ts', 'web/src/**/*.{ts,tsx}'],
    ignores: tests,
    plugins: { jsdoc },
    rules: {
      'jsdoc/require-jsdoc': [
        'error',
        {
          publicOnly: true,
          require: { ArrowFunctionExpression: true, ClassDeclaration: true, FunctionDeclaration: true },
        },
      ],
    },
  },
  // A test may go through every floor, and its helpers name what they vary.
  { files: [...tests, 'e2e/**'], rules: { 'import-x/no-restricted-paths': 'off', 'max-params': 'off' } },
  {
    files: ['web/src/**/*.{ts,tsx}'],
    plugins: { 'react-hooks': reactHooks },
    // It warns of libraries that the React compiler would pass over; none is used.
    rules: { ...reactHooks.configs.recommended.rules, 'react-hooks/incompatible-library': 'off' },
    languageOptions: { globals: globals.browser },
  },
  ...Object.entries(strangers).map(([workspace, group]) => ({
    files: [`${workspace}/src/**/*.{ts,tsx}`],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            { group, message: `${workspace} must not know that workspace (docs/architecture.md).` },
            {
              group: ['**/../{core,contract,server,web,demo,cli}/**'],
              message: 'Import another workspace by its name.',
            },
          ],
        },
      ],
    },
  })),
  {
    files: ['{contract,server,web}/src/**/*.{ts,tsx}'],
    ignores: tests,
    rules: { 'no-restricted-syntax': ['error', ...noRoles] },
  },
  {
    files: ['server/src/**/*.ts'],
    ignores: [...tests, 'server/src/store/**'],
    rules: { 'no-restricted-syntax': ['error', ...noRoles, ...noSql] },
  },
  {
    files: ['core/src/**/*.ts'],
    ignores: [...tests, 'core/src/rules/roles.ts'],
    rules: {
      'no-restricted-globals': ['error', ...outside],
      'no-restricted-syntax': ['error', ...noRoles, ...noClock],
    },
  },
);
