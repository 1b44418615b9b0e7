import { existsSync } from 'node:fs';
import { join } from 'node:path';
import compression from 'compression';
import express, { type ErrorRequestHandler, type Express } from 'express';
import helmet from 'helmet';
import type { WorkQueue } from '@jig-peel/batch';
import { guarded, tokenByLink } from './access.ts';
import { batchRoutes } from './batchRoutes.ts';
import type { Batches } from './batches.ts';
import { metrics } from './metrics.ts';
import type { UploadLimits } from './upload.ts';

/** What the server does besides giving the app. */
export interface Work {
  batches: Batches;
  queue: WorkQueue;
  limits: UploadLimits;
  /** Asked of everyone but callers of this machine. */
  token: string;
}

/**
 * The web server: the built app and the samples, cross-origin isolated (so that workers may share memory), and batches of files.
 * @param folder the built app
 * @param work without it there are no batches
 */
export function makeServer(folder: string, work: Work | null = null): Express {
  const app = express();
  app.disable('x-powered-by');
  app.use(
    helmet({
      crossOriginOpenerPolicy: { policy: 'same-origin' },
      crossOriginEmbedderPolicy: { policy: 'require-corp' },
      contentSecurityPolicy: {
        directives: {
          defaultSrc: ["'self'"],
          scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
          workerSrc: ["'self'", 'blob:'],
          styleSrc: ["'self'", "'unsafe-inline'"],
          imgSrc: ["'self'", 'blob:', 'data:'],
          fontSrc: ["'self'", 'data:'],
          connectSrc: ["'self'", 'blob:', 'data:'],
          upgradeInsecureRequests: null,
        },
      },
      strictTransportSecurity: false,
    }),
  );
  // events are said at once, and results are large and packed by themselves
  app.use(compression({ filter: (request, response) => !request.path.startsWith('/api/') && compression.filter(request, response) }));
  if (work) app.use(tokenByLink(work.token));
  app.use('/assets', express.static(join(folder, 'assets'), { immutable: true, maxAge: '1y', fallthrough: false }));
  app.use(express.static(folder, { index: false }));
  app.get('/health', (_request, response) => {
    response.json({ ok: true });
  });
  if (work) {
    app.use('/api', guarded(work.token), batchRoutes(work.batches, work.limits));
    app.get('/metrics', guarded(work.token), metrics(work.batches, work.queue));
  }
  app.use('/api', (_request, response) => void response.status(404).json({ sentence: 'The server does not do this.' }));
  // every other address is a page of the app
  app.get('/{*path}', (request, response) => {
    const index = join(folder, 'index.html');
    if (/\.[a-z0-9]+$/i.test(request.path) || !existsSync(index)) response.status(404).type('text').send('Not found');
    else response.sendFile(index);
  });
  app.use(plainErrors);
  return app;
}

/** What went wrong in one line: no path of this machine, no code. */
const plainErrors: ErrorRequestHandler = (error: { status?: number; statusCode?: number }, _request, response, next) => {
  if (response.headersSent) {
    next(error);
    return;
  }
  const status = error.status ?? error.statusCode ?? 500;
  response
    .status(status)
    .type('text')
    .send(status === 404 ? 'Not found' : status < 500 ? 'The address cannot be read' : 'The server could not answer');
};
