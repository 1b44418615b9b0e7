import { createServer, type Server } from 'node:http';
import { randomBytes } from 'node:crypto';
import { makeServer } from './server.ts';
import { beginWork, type RunningWork } from './work.ts';

/** The port that is tried first where none is asked for, and how many after it. */
const usual = 4870;
const more = 20;
/** Ms that requests under way are given when the server is asked to stop. */
const patience = 2000;

interface Voice {
  say(words: string): void;
  fail(words: string): void;
}

/** The port asked for: null for none, `bad` for what is no port. 0 takes any that is free. */
export function portOf(text: string | undefined): number | null | 'bad' {
  if (text === undefined || text.trim() === '') return null;
  const port = Number(text);
  return /^\d+$/.test(text.trim()) && port <= 65_535 ? port : 'bad';
}

/**
 * Serves the app until it is told to stop, and says at which address. Without PORT the next free port is taken where the usual one is; with it, a
 * port that is taken is an error.
 * @returns the server, or null where it could not start
 */
export async function serve(folder: string, environment: NodeJS.ProcessEnv, voice: Voice): Promise<Server | null> {
  const wanted = portOf(environment.PORT);
  if (wanted === 'bad') {
    voice.fail(`PORT is “${environment.PORT}”, which is no port. Use a number from 0 (any free one) to 65535.`);
    return null;
  }
  const host = environment.HOST?.trim() || '127.0.0.1';
  const token = environment.JIG_TOKEN?.trim() || randomBytes(18).toString('base64url');
  let work: RunningWork | null = null;
  if (environment.JIG_BATCHES !== undefined || environment.JIG_QUEUE !== undefined) {
    try {
      work = await beginWork(environment);
    } catch (error) {
      voice.fail(`The server cannot start: ${(error as Error).message}`);
      return null;
    }
  }
  const server = createServer(makeServer(folder, work && { ...work, token }));
  // what never finishes its request holds nobody up for long; an upload has its time
  server.headersTimeout = 10_000;
  server.requestTimeout = work ? 3_600_000 : 30_000;
  for (let port = wanted ?? usual; ; port++) {
    const trouble = await listen(server, port, host);
    if (trouble === null) break;
    if (trouble.code === 'EADDRINUSE' && wanted === null && port < usual + more) continue;
    await work?.end();
    voice.fail(`The server cannot start: ${trouble.code === 'EADDRINUSE' ? `port ${port} is taken. Set PORT to another one.` : trouble.message}`);
    return null;
  }
  const stop = () => {
    const closed = new Promise<void>((done) => server.close(() => done()));
    server.closeIdleConnections();
    // what is worked is taken up again at the next start
    void Promise.all([closed, work?.end()]).then(() => process.exit(0));
    setTimeout(() => {
      server.closeAllConnections();
      process.exit(0);
    }, patience).unref();
  };
  for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, stop);
  const address = server.address();
  const port = address && typeof address === 'object' ? address.port : '';
  voice.say(`Jig Peel is at http://localhost:${port}`);
  if (host !== '127.0.0.1' && host !== 'localhost')
    voice.say(`From other machines: http://${host === '0.0.0.0' ? 'this-machine' : host}:${port}/?token=${token}`);
  return server;
}

function listen(server: Server, port: number, host: string): Promise<NodeJS.ErrnoException | null> {
  return new Promise((done) => {
    const failed = (error: NodeJS.ErrnoException) => {
      server.removeListener('listening', listening);
      done(error);
    };
    const listening = () => {
      server.removeListener('error', failed);
      done(null);
    };
    server.once('error', failed);
    server.once('listening', listening);
    server.listen(port, host);
  });
}
