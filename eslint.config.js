import js from '@eslint/js';
import globals from 'globals';
import reactHooks from 'eslint-plugin-react-hooks';
import ts from 'typescript-eslint';

/** Arrows between workspaces point one way: web and server know contract and core, contract knows core. */
const forbidden = {
  core: ['@polychron/*'],
  contract: ['@polychron/server', '@polychron/web', '@polychron/demo'],
  server: ['@polychron/web', '@polychron/demo'],
  web: ['@polychron/server', '@polychron/demo'],
};
const oneWay = Object.entries(forbidden).map(([workspace, patterns]) => ({
  files: [`${workspace}/src/**/*.{ts,tsx}`],
  rules: {
    'no-restricted-imports': ['error', {
      patterns: [
        { group: patterns, message: `${workspace} must not know that workspace (docs/architecture.md).` },
        { group: ['**/../{core,contract,server,web,demo}/**'], message: 'Import another workspace by its name.' },
      ],
    }],
  },
}));
/** The computation stays free of I/O and clocks. */
const pureCore = {
  files: ['core/src/**/*.ts'],
  ignores: ['core/src/**/*.test.ts'],
  rules: {
    'no-restricted-globals': ['error', 'process', 'Buffer', 'fetch', 'setTimeout', 'setInterval', 'window', 'document'],
    'no-restricted-syntax': ['error',
      { selector: "CallExpression[callee.object.name='Date'][callee.property.name='now']", message: 'core has no clock: take `now`.' },
      { selector: "NewExpression[callee.name='Date'][arguments.length=0]", message: 'core has no clock: take `now`.' },
      { selector: "ImportDeclaration[source.value=/^node:/]", message: 'core does no I/O.' },
    ],
  },
};

export default ts.config(
  { ignores: ['**/dist/**', '**/node_modules/**', '.polychron/**', 'test-results/**', 'playwright-report/**'] },
  js.configs.recommended,
  ...ts.configs.recommended,
  { languageOptions: { globals: { ...globals.node } } },
  { rules: { '@typescript-eslint/consistent-type-imports': 'error', eqeqeq: 'error' } },
  { files: ['web/src/**/*.{ts,tsx}'], plugins: { 'react-hooks': reactHooks }, rules: reactHooks.configs.recommended.rules,
    languageOptions: { globals: globals.browser } },
  ...oneWay,
  pureCore,
);
