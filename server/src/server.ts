import { existsSync } from 'node:fs';
import { join } from 'node:path';
import compression from 'compression';
import express, { type ErrorRequestHandler, type Express } from 'express';
import helmet from 'helmet';

/**
 * The web server: the built app and the samples, cross-origin isolated (so that workers may share memory), nothing else.
 * @param folder the built app
 */
export function makeServer(folder: string): Express {
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
  app.use(compression());
  app.use('/assets', express.static(join(folder, 'assets'), { immutable: true, maxAge: '1y', fallthrough: false }));
  app.use(express.static(folder, { index: false }));
  app.get('/health', (_request, response) => {
    response.json({ ok: true });
  });
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
