import { defineConfig } from '@playwright/test';

const port = process.env['POLYCHRON_TEST_PORT'] ?? '4620';

/** A provider of identities, for the sign-in by it. */
const providerPort = Number(port) + 2;
const issuer = `http://127.0.0.1:${providerPort}`;

/** With answers that come late, the tests that act before the page is ready show. */
const late = process.env['POLYCHRON_LATE_ANSWERS'] ? '--import ./e2e/late.mjs' : '';

export default defineConfig({
  testDir: '.',
  outputDir: '../test-results',
  // Generous: a machine with a cold disk takes long to start a browser.
  timeout: 300_000,
  expect: { timeout: 60_000 },
  // One server, two browsers: much of it is waiting.
  workers: 2,
  retries: 0,
  forbidOnly: true,
  // What core's and the server's tests hold already is tried in the browser by the deep run.
  ...(process.env['POLYCHRON_TEST_RUNS'] ? {} : { grepInvert: /@deep/ }),
  reporter: [['list'], ['json']],
  use: {
    baseURL: `http://127.0.0.1:${port}`,
    viewport: { width: 1280, height: 800 },
    // Nothing moves away under the pointer; what is asked of the page is there at once.
    contextOptions: { reducedMotion: 'reduce' },
    launchOptions: {
      // Debian's Chromium without what draws a window: the same pages for half the work.
      executablePath: '/usr/bin/chromium-headless-shell',
      args: [
        '--no-sandbox',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
        '--no-first-run',
      ],
    },
  },
  projects: [
    // The longest first; it has servers of its own.
    { name: 'start', testMatch: 'start.spec.ts' },
    // What lists are read from is made anew in it, while nobody else works.
    { name: 'rows', testMatch: 'rows.spec.ts' },
    { name: 'rest', testIgnore: ['start.spec.ts', 'rows.spec.ts'], dependencies: ['rows'] },
  ],
  webServer: [
    {
      command: `exec node server/src/testing/provider.mjs ${providerPort} http://127.0.0.1:${port}/api/v1/session/provider/return`,
      cwd: '..',
      url: `${issuer}/.well-known/openid-configuration`,
      gracefulShutdown: { signal: 'SIGTERM', timeout: 5_000 },
      stdout: 'ignore',
      stderr: 'ignore',
    },
    {
      command: `exec node ${late} server/dist/main.js`,
      cwd: '..',
      url: `http://127.0.0.1:${port}/healthz`,
      timeout: 600_000,
      gracefulShutdown: { signal: 'SIGTERM', timeout: 5_000 },
      env: {
        POLYCHRON_PORT: port,
        POLYCHRON_OIDC_ISSUER: issuer,
        POLYCHRON_OIDC_CLIENT_ID: 'polychron',
        POLYCHRON_OIDC_CLIENT_SECRET: 'for the tests',
        POLYCHRON_OIDC_NAME: 'Ropeway sign-in',
      },
      stdout: 'ignore',
      stderr: 'pipe',
    },
  ],
});
