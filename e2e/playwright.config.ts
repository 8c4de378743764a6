import { defineConfig } from '@playwright/test';

const port = process.env['POLYCHRON_TEST_PORT'] ?? '4620';

export default defineConfig({
  testDir: '.',
  outputDir: '../test-results',
  // Generous: a machine with a cold disk takes long to start a browser.
  timeout: 600_000,
  expect: { timeout: 60_000 },
  workers: 1,
  retries: 0,
  forbidOnly: true,
  reporter: [['list'], ['json']],
  use: {
    baseURL: `http://127.0.0.1:${port}`,
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
        '--no-first-run',
      ],
    },
  },
  webServer: {
    command: 'node demo/dist/load.js && exec node server/dist/main.js',
    cwd: '..',
    url: `http://127.0.0.1:${port}/healthz`,
    timeout: 600_000,
    gracefulShutdown: { signal: 'SIGTERM', timeout: 5_000 },
    env: { POLYCHRON_PORT: port },
    stdout: 'ignore',
    stderr: 'pipe',
  },
});
