import js from '@eslint/js';
import jsdoc from 'eslint-plugin-jsdoc';
import jsxA11y from 'eslint-plugin-jsx-a11y-x';
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

const role = '/^(reader|auditor|author|approver|controller)$/';
const roleRule =
  'What a role may do is said in core/src/rules/roles.ts alone: ask `may`, or the API\u2019s `acts`.';
const noRoles = [
  `CallExpression[callee.property.name=/^(has|includes|indexOf)$/] > Literal[value=${role}]`,
  `CallExpression > MemberExpression[property.name=/^(includes|indexOf)$/] > ArrayExpression > Literal[value=${role}]`,
  `BinaryExpression[operator=/^[!=]==$/] > Literal[value=${role}]`,
  `SwitchCase > Literal[value=${role}]`,
].map((selector) => ({ selector, message: roleRule }));
const storeRule = 'SQL is in server/src/store alone.';
const statement =
  '/\\b(SELECT|(INSERT|REPLACE)( IGNORE)? INTO|DELETE FROM|UPDATE \\w+ SET|TRUNCATE|(ALTER|CREATE|DROP) TABLE)\\b/';
const noSql = [
  'MemberExpression[property.name="models"]',
  'CallExpression[callee.object.property.name="db"][callee.property.name="query"]',
  'CallExpression[callee.object.name="db"][callee.property.name="query"]',
  `TemplateElement[value.raw=${statement}]`,
  `Literal[value=${statement}]`,
].map((selector) => ({ selector, message: storeRule }));
/** The computation stays free of I/O and clocks. */
const clockRule = 'core has no clock: take `now`.';
const noClock = [
  {
    selector: "CallExpression[callee.object.name='Date'][callee.property.name='now']",
    message: clockRule,
  },
  { selector: "NewExpression[callee.name='Date'][arguments.length=0]", message: clockRule },
  { selector: '[source.value=/^node:/]', message: 'core does no I/O.' },
];
const outside = ['process', 'Buffer', 'fetch', 'setTimeout', 'setInterval', 'window', 'document'];

/** Components of our own and of Ant Design that a label around them names. */
const fields = ['Input', 'Input.TextArea', 'DateField', 'MomentField'];
/** Handlers that only what a person acts on may have; files are dropped on anything. */
const pressed = ['onClick', 'onMouseDown', 'onMouseUp', 'onKeyPress', 'onKeyDown', 'onKeyUp'];

const tests = ['**/*.test.{ts,tsx}', '**/testing/**'];

export default ts.config(
  {
    ignores: [
      '**/dist/**',
      '**/node_modules/**',
      '.polychron/**',
      'test-results/**',
      'playwright-report/**',
      '.stryker-tmp/**',
    ],
  },
  js.configs.recommended,
  ...ts.configs.recommended,
  { languageOptions: { globals: { ...globals.node } } },
  {
    rules: {
      '@typescript-eslint/consistent-type-imports': 'error',
      '@typescript-eslint/no-unused-vars': [
        'error',
        { varsIgnorePattern: '^_+$', argsIgnorePattern: '^_+$' },
      ],
      eqeqeq: 'error',
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
  // A test's helpers name what they vary.
  {
    // What comes from others is printed without what a terminal obeys.
    files: ['cli/src/**/*.ts'],
    ignores: ['cli/src/say.ts'],
    rules: { 'no-console': 'error' },
  },
  { files: [...tests, 'e2e/**'], rules: { 'max-params': 'off' } },
  {
    files: ['web/src/**/*.{ts,tsx}'],
    plugins: { 'react-hooks': reactHooks, 'jsx-a11y-x': jsxA11y },
    rules: {
      ...reactHooks.configs.recommended.rules,
      // It warns of libraries that the React compiler would pass over; none is used.
      'react-hooks/incompatible-library': 'off',
      ...jsxA11y.configs.strict.rules,
      // What is drawn by a component is looked at by axe, in the browser tests.
      'jsx-a11y-x/aria-role': ['error', { ignoreNonDOM: true }],
      'jsx-a11y-x/no-autofocus': ['error', { ignoreNonDOM: true }],
      'jsx-a11y-x/label-has-associated-control': ['error', { controlComponents: fields }],
      // What scrolls is reached by keys (axe, scrollable-region-focusable); what says why says it on focus.
      'jsx-a11y-x/no-noninteractive-tabindex': ['error', { tags: [], roles: ['region', 'img', 'note'] }],
      'jsx-a11y-x/no-noninteractive-element-interactions': [
        'error',
        // A form hears the keys of its fields.
        { handlers: pressed, form: ['onKeyDown'] },
      ],
    },
    languageOptions: { globals: globals.browser },
  },
  {
    // A separator that takes the focus is a control (WAI-ARIA 1.2, separator), which the rules do not know.
    files: ['web/src/features/register/Columns.tsx'],
    rules: {
      'jsx-a11y-x/no-noninteractive-tabindex': 'off',
      'jsx-a11y-x/no-noninteractive-element-interactions': 'off',
    },
  },
  {
    // A press anywhere on a row chooses it for the pointer; by keys its document's own link and letters do.
    files: ['web/src/features/register/RegisterRow.tsx'],
    rules: {
      'jsx-a11y-x/click-events-have-key-events': 'off',
      'jsx-a11y-x/interactive-supports-focus': 'off',
    },
  },
  ...Object.entries(strangers).map(([workspace, group]) => ({
    files: [`${workspace}/src/**/*.{ts,tsx}`],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [{ group, message: `${workspace} must not know that workspace (docs/architecture.md).` }],
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
