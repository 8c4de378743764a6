import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import type { Express, Response } from 'express';
import { docsPage, docsScript } from './page.ts';
import { docsStyle } from './style.ts';

const require = createRequire(import.meta.url);
const drawing = dirname(require.resolve('swagger-ui-dist/package.json'));
const sans = dirname(require.resolve('@fontsource-variable/source-sans-3/package.json'));
const serif = dirname(require.resolve('@fontsource-variable/source-serif-4/package.json'));
const mono = dirname(require.resolve('@fontsource-variable/jetbrains-mono/package.json'));

/** What the page is drawn with, out of the packages that ship with the application. */
const files: Record<string, string> = {
  'swagger-ui-bundle.js': join(drawing, 'swagger-ui-bundle.js'),
  'swagger-ui.css': join(drawing, 'swagger-ui.css'),
  'source-sans-3.woff2': join(sans, 'files/source-sans-3-latin-wght-normal.woff2'),
  'source-serif-4.woff2': join(serif, 'files/source-serif-4-latin-wght-normal.woff2'),
  'jetbrains-mono.woff2': join(mono, 'files/jetbrains-mono-latin-wght-normal.woff2'),
};

const send = (res: Response, type: string, text: string): void => {
  res.type(type).set('Cache-Control', 'no-cache').send(text);
};

/** The HTTP interface for a person to read, at `/api/docs`. */
export function docs(app: Express): void {
  app.get('/api/docs', (_req, res) => send(res, 'html', docsPage()));
  app.get('/api/docs/docs.css', (_req, res) => send(res, 'css', docsStyle));
  app.get('/api/docs/docs.js', (_req, res) => send(res, 'js', docsScript));
  for (const [name, path] of Object.entries(files)) {
    app.get(`/api/docs/${name}`, (_req, res) => {
      res.sendFile(path, { maxAge: '1h' });
    });
  }
}
