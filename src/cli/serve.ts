/** `serve`: starts the web application that `npm run build` made. */
import { existsSync } from 'node:fs';
import { isIP } from 'node:net';
import { dirname, join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import pino from 'pino';
import { Unusable } from './input';

export async function serve(options: { port: string; host: string }): Promise<void> {
  const port = Number(options.port);
  if (!Number.isInteger(port) || port < 0 || port > 65535)
    throw new Unusable(`“${options.port}” is no port; give one from 0 to 65535`);
  const family = isIP(options.host);
  if (!family && options.host !== 'localhost')
    throw new Unusable(
      `“${options.host}” is no address to listen on; give one such as 127.0.0.1, ::1 or 0.0.0.0`,
    );
  const root = join(dirname(fileURLToPath(import.meta.url)), '..');
  const handlerFile = join(root, 'build', 'handler.js');
  if (!existsSync(handlerFile)) throw new Unusable('the application is not built; run `npm run build` first');
  const log = pino({ base: undefined, level: 'info' });
  const open = options.host === '0.0.0.0' || options.host === '::';
  const shown = open ? 'localhost' : family === 6 ? `[${options.host}]` : options.host;
  // The handler reads its origin when it is loaded; without it, forms over plain http are refused.
  process.env.ORIGIN ??= `http://${shown}:${port}`;
  const { handler } = (await import(pathToFileURL(handlerFile).href)) as {
    handler: (req: unknown, res: unknown, next: () => void) => void;
  };
  const { createServer } = await import('node:http');
  const server = createServer((req, res) => {
    // Prerendered pages lose these, so they are set here for all.
    res.setHeader('X-Content-Type-Options', 'nosniff');
    res.setHeader('Referrer-Policy', 'no-referrer');
    handler(req, res, () => {
      res.statusCode = 404;
      res.end('not found');
    });
  });
  server.on('error', (error: NodeJS.ErrnoException) => {
    const why =
      error.code === 'EADDRINUSE'
        ? `port ${port} is taken; give another with --port`
        : error.code === 'EADDRNOTAVAIL'
          ? `${options.host} is no address of this machine`
          : error.message;
    process.stderr.write(`${why}\n`);
    process.exitCode = 2;
  });
  server.listen(port, options.host, () => {
    const address = server.address();
    const at = typeof address === 'object' && address ? address.port : port;
    log.info(`Jolly Gate is at http://${shown}:${at}`);
    if (open || !isLoopback(options.host))
      log.warn(
        'Everybody who reaches this machine can open it, and what they send is not encrypted. Under another name than localhost a browser keeps back what needs a secure page, so some things are done without.',
      );
  });
  const stop = () => {
    server.close();
    server.closeIdleConnections();
    // A connection that idles or hangs must not keep it from ending.
    setTimeout(() => server.closeAllConnections(), GRACE).unref();
  };
  process.on('SIGINT', stop);
  process.on('SIGTERM', stop);
}

/** How long an answer that is being given may take once the end is asked for, milliseconds. */
const GRACE = 1000;

const isLoopback = (host: string): boolean => host === 'localhost' || host === '::1' || /^127\./.test(host);
