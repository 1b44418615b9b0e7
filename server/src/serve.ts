import { createServer, type Server } from 'node:http';
import { makeServer } from './server.ts';

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
  const server = createServer(makeServer(folder));
  // what never finishes its request holds nobody up for long
  server.headersTimeout = 10_000;
  server.requestTimeout = 30_000;
  for (let port = wanted ?? usual; ; port++) {
    const trouble = await listen(server, port);
    if (trouble === null) break;
    if (trouble.code === 'EADDRINUSE' && wanted === null && port < usual + more) continue;
    voice.fail(`The server cannot start: ${trouble.code === 'EADDRINUSE' ? `port ${port} is taken. Set PORT to another one.` : trouble.message}`);
    return null;
  }
  const stop = () => {
    server.close(() => process.exit(0));
    server.closeIdleConnections();
    setTimeout(() => {
      server.closeAllConnections();
      process.exit(0);
    }, patience).unref();
  };
  for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, stop);
  const address = server.address();
  voice.say(`Jig Peel is at http://localhost:${address && typeof address === 'object' ? address.port : ''}`);
  return server;
}

function listen(server: Server, port: number): Promise<NodeJS.ErrnoException | null> {
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
    server.listen(port, '127.0.0.1');
  });
}
