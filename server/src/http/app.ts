import { existsSync } from 'node:fs';
import { join } from 'node:path';
import compression from 'compression';
import express, { type Express, type Request, type RequestHandler, type Response } from 'express';
import staticGzip from 'express-static-gzip';
import helmet from 'helmet';
import { openApi } from '@polychron/contract';
import type { Context } from '../context.ts';
import { webdav } from '../protocols/webdav/door.ts';
import { isReady } from '../store/migrate.ts';
import { approvalRoutes } from './approval.ts';
import { custodyRoutes } from './custody.ts';
import { deskRoutes } from './desk.ts';
import { docs } from './docs/docs.ts';
import { documentRoutes } from './documents.ts';
import { noteArrival } from './evenly.ts';
import { libraryRoutes } from './libraries.ts';
import { outboxRoutes } from './outbox.ts';
import { peopleRoutes } from './people.ts';
import { type OnRefusal, problems, sendProblem } from './problem.ts';
import { providerRoutes } from './provider.ts';
import { ContractRouter } from './router.ts';
import { rulebookRoutes } from './rulebooks.ts';
import { sessionRoutes } from './sessions.ts';
import { signedIn } from './signedIn.ts';
import { mailPace, signInPace } from './signInPace.ts';
import { uploads, uploadsPath } from './uploads.ts';
import { standingRoutes } from './standing.ts';
import { requireModest } from './wellFormed.ts';
import { versionRoutes } from './versions.ts';

/** Every resource's routes. */
const resources = [
  sessionRoutes,
  libraryRoutes,
  rulebookRoutes,
  peopleRoutes,
  providerRoutes,
  documentRoutes,
  versionRoutes,
  standingRoutes,
  approvalRoutes,
  custodyRoutes,
  deskRoutes,
  outboxRoutes,
];

/** Where the application stands. */
export interface Place {
  /** The built web application, where there is one. */
  webFolder?: string;
  /**
   * Whose word is taken for scheme and address of a request (`X-Forwarded-Proto`, `X-Forwarded-For`): a
   * number of proxies before us, or their addresses. Nobody's where it is left out.
   */
  trustProxy?: number | string;
  /** Whether answers about what is hidden take as long as those about what does not exist; they do. */
  evenly?: boolean;
  /** Told of every refusal: by which operation, with which code. */
  onRefusal?: OnRefusal;
}

/** Puts the HTTP interface together. */
export function createApp(
  context: Context,
  { webFolder, trustProxy, evenly = true, onRefusal }: Place = {},
): Express {
  const app = express();
  app.use(noteArrival);
  if (trustProxy !== undefined) app.set('trust proxy', trustProxy);
  app.disable('x-powered-by').set('query parser', 'simple').set('etag', false);
  app.use(
    helmet({
      contentSecurityPolicy: {
        directives: {
          defaultSrc: ["'self'"],
          imgSrc: ["'self'", 'data:', 'blob:'],
          styleSrc: ["'self'", "'unsafe-inline'"],
          upgradeInsecureRequests: null,
        },
      },
      strictTransportSecurity: false,
    }),
  );
  app.use(compression({ filter: isCompressed }));
  app.get('/healthz', async (_req, res) => {
    const ready = await isReady(context.db).catch((error: unknown) => {
      context.log.warn({ err: error }, 'health check failed');
      return false;
    });
    res.status(ready ? 200 : 503).json({ ready });
  });
  docs(app);
  app.get('/api/v1/openapi.json', (_req, res) => {
    res.json(openApi());
  });

  const router = new ContractRouter(context);
  for (const connect of resources) connect(router);
  app.use(
    '/api/v1',
    (_req, res, next) => {
      res.set('Cache-Control', 'private, no-store');
      next();
    },
    express.json({ limit: '2mb', verify: (_req, _res, body) => requireModest(body) }),
  );
  app.post('/api/v1/session', signInPace());
  app.post('/api/v1/mail', mailPace());
  app.use('/api/v1', signedIn(context));
  app.all(new RegExp(`^${uploadsPath}(/|$)`), uploads(context));
  app.use('/api/v1', router.router, (_req, res) => nothingHere(res));
  app.use('/dav', webdav(context));
  if (webFolder && existsSync(webFolder)) serveWeb(app, webFolder);
  app.use(problems(context, { evenly, onRefusal }));
  return app;
}

/**
 * Whether an answer goes out compressed: JSON and pages do. What carries an entity tag does not, since the
 * tag is of its bytes (RFC 9110, 8.8.3); nor do contents, which are sent as they were checked in, nor events.
 */
function isCompressed(_req: Request, res: Response): boolean {
  const type = String(res.getHeader('Content-Type') ?? '');
  return /^(application\/(problem\+)?json|text\/html)/.test(type) && !res.hasHeader('ETag');
}

/**
 * The web application: its files, and its page for every other address, since its routes live in the browser.
 */
function serveWeb(app: Express, folder: string): void {
  const compressed = { enableBrotli: true, orderPreference: ['br', 'gzip'], index: false };
  const forGood = { immutable: true, maxAge: '1y' };
  app.use(
    '/assets',
    whereReadable(staticGzip(join(folder, 'assets'), { ...compressed, serveStatic: forGood })),
    (_req, res) => nothingHere(res),
  );
  app.use(whereReadable(staticGzip(folder, compressed)));
  app.get(/^\/(?!api\/)/, (_req, res) => {
    res.set('Cache-Control', 'no-cache').sendFile(join(folder, 'index.html'));
  });
}

/** Asks for a file only by an address whose percent signs can be read (RFC 3986, 2.1). */
function whereReadable(files: RequestHandler): RequestHandler {
  return (req, res, next) => {
    try {
      decodeURIComponent(req.path);
    } catch (error) {
      if (!(error instanceof URIError)) throw error;
      next();
      return;
    }
    void files(req, res, next);
  };
}

const nothingHere = (res: Response): void =>
  sendProblem(res, {
    status: 404,
    code: 'no-such-route',
    detail: 'There is nothing at this address with this method.',
  });
