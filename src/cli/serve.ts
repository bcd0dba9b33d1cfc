/** `serve`: starts the web application that `npm run build` made, and its relay to live boxes. */
import { existsSync } from 'node:fs';
import { homedir, networkInterfaces } from 'node:os';
import { isIP } from 'node:net';
import { dirname, join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import pino from 'pino';
import { readBoxes } from '../lib/server/live/boxes';
import type { BoxEntry } from '../lib/server/live/boxes';
import { Guard } from '../lib/server/live/guard';
import { handOver } from '../lib/server/live/handoff';
import { noField } from '../lib/server/practice/field';
import { Practice } from '../lib/server/practice/practice';
import { Unusable } from './input';
import { aside } from './outlet';

type Handler = (req: unknown, res: unknown, next: () => void) => void;

/** Words of the command. */
export interface ServeOptions {
  readonly port: string;
  readonly host: string;
  /** A list of live boxes instead of the user's own. */
  readonly boxes?: string;
  /** Whether a box to practise with is made. */
  readonly practice?: boolean;
}

/** The boxes of a list that was named, or of the user's own where there is one. */
function boxesOf(file: string | undefined): readonly BoxEntry[] {
  const own = join(process.env.XDG_CONFIG_HOME ?? join(homedir(), '.config'), 'jolly-gate', 'boxes.json');
  if (file === undefined && !existsSync(own)) return [];
  const read = readBoxes(file ?? own);
  if (!read.ok) throw new Unusable(read.why);
  return read.boxes;
}

/** Where a browser opens a server that listens here. */
function originsOf(host: string, port: number): string[] {
  const name = (address: string) => (isIP(address) === 6 ? `[${address}]` : address);
  const everywhere = host === '0.0.0.0' || host === '::';
  const own = everywhere
    ? Object.values(networkInterfaces()).flatMap((list) => (list ?? []).map((i) => i.address))
    : [host];
  return [...new Set([...own, ...(isLoopback(host) || everywhere ? ['localhost'] : [])])].map(
    (a) => `http://${name(a)}:${port}`,
  );
}

/** Serves the application until it is interrupted. Throws Unusable where the call cannot be used. */
export async function serve(options: ServeOptions): Promise<void> {
  const port = Number(options.port);
  if (!Number.isInteger(port) || port < 0 || port > 65535)
    throw new Unusable(`“${options.port}” is no port; give one from 0 to 65535`);
  const family = isIP(options.host);
  if (!family && options.host !== 'localhost')
    throw new Unusable(
      `“${options.host}” is no address to listen on; give one such as 127.0.0.1, ::1 or 0.0.0.0`,
    );
  const root = join(dirname(fileURLToPath(import.meta.url)), '..');
  const handlerFile = join(root, 'build', 'page', 'handler.js');
  if (!existsSync(handlerFile)) throw new Unusable('the application is not built; run `npm run build` first');
  const log = pino({ base: undefined, level: 'info' });
  const boxes = [...boxesOf(options.boxes)];
  const noPractice = options.practice ? noField(['dnsmasq']) : undefined;
  const practice = options.practice && noPractice === undefined ? new Practice() : undefined;
  if (practice) boxes.push(practice.entry);
  const open = options.host === '0.0.0.0' || options.host === '::';
  const shown = open ? 'localhost' : family === 6 ? `[${options.host}]` : options.host;
  // A box file with its wiring may be sent to be tried.
  process.env.BODY_SIZE_LIMIT ??= '16M';
  let handler: Handler = (_req, _res, next) => next();
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
    aside(why);
    practice?.takeUp();
    process.exitCode = 2;
  });
  // With port 0 the system chooses the port, so it is read from the socket.
  const announce = async (): Promise<void> => {
    const address = server.address();
    const at = typeof address === 'object' && address ? address.port : port;
    // The handler reads its origin when it is loaded; without it, forms over plain http are refused.
    process.env.ORIGIN ??= `http://${shown}:${at}`;
    ({ handler } = (await import(pathToFileURL(handlerFile).href)) as { handler: Handler });
    log.info(`Jolly Gate is at http://${shown}:${at}`);
    if (boxes.length || noPractice !== undefined) {
      const guard = new Guard(originsOf(options.host, at));
      handOver({ guard, boxes, noPractice, hand: practice && ((hand) => practice.hand(hand)) });
      if (boxes.length)
        log.info(
          `For live boxes (${boxes.map((b) => b.name).join(', ')}) open http://${shown}:${at}/#live=${guard.link ?? ''} (this link works once)`,
        );
      if (practice) log.info(`The practice box’s console shows its host key as ${practice.fingerprint}`);
      if (noPractice !== undefined) log.info(`There is no practice box: ${noPractice}`);
    }
    if (open || !isLoopback(options.host))
      log.warn(
        'Everybody who reaches this machine can open it, and what they send is not encrypted. Under another name than localhost a browser keeps back what needs a secure page, so some things are done without.',
      );
  };
  server.listen(port, options.host, () => void announce());
  const stop = () => {
    server.close();
    server.closeIdleConnections();
    // A connection that idles or hangs must not keep it from ending.
    setTimeout(() => server.closeAllConnections(), GRACE).unref();
    practice?.takeUp();
  };
  // A terminal that is closed ends it, too.
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const) process.on(signal, stop);
}

/** How long an answer that is being given may take once the end is asked for, milliseconds. */
const GRACE = 1000;

const isLoopback = (host: string): boolean => host === 'localhost' || host === '::1' || /^127\./.test(host);
