import { defineConfig } from '@playwright/test';
import others from './playwright.config.ts';

/** Tests that start whole sites by the project's command: they need no server, and run beside others. */
export default defineConfig({
  ...others,
  testMatch: 'start.spec.ts',
  testIgnore: [],
  outputDir: '../test-results/start',
  webServer: [],
});
