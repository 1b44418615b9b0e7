import { createServer } from 'node:http';
import { fileURLToPath } from 'node:url';
import pino from 'pino';
import { makeServer } from './server.ts';

const log = pino({ level: process.env.LOG_LEVEL ?? 'warn' });
const wanted = Number(process.env.PORT ?? 4870);
const server = createServer(makeServer(fileURLToPath(new URL('../../app/dist', import.meta.url))));

/** Takes the wanted port, or the next free one if somebody has it. */
function listen(port: number) {
  server.once('error', (error: NodeJS.ErrnoException) => {
    if (error.code === 'EADDRINUSE' && !process.env.PORT && port < wanted + 20) listen(port + 1);
    else {
      log.error(error);
      console.error(`The server cannot start: ${error.code === 'EADDRINUSE' ? `port ${port} is taken. Set PORT to another one.` : error.message}`);
      process.exitCode = 1;
    }
  });
  server.listen(port, '127.0.0.1', () => console.log(`Jig Peel is at http://localhost:${port}`));
}

listen(wanted);
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => server.close(() => process.exit(0)));
