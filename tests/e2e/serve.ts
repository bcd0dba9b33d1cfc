/** The application as its own command serves it. */
import { spawn } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';

/** A server that runs. */
export interface Served {
  readonly child: ChildProcess;
  /** Where a browser opens it. */
  readonly origin: string;
  /** All that it has printed so far. */
  readonly printed: () => string;
}

/** Starts the application on a free port, or on one that is said; rejects where it ends before it listens. */
export async function serve(
  more: readonly string[] = [],
  port = 0,
  env: NodeJS.ProcessEnv = process.env,
): Promise<Served> {
  const child = spawn(process.execPath, ['bin/jolly-gate.js', 'serve', '--port', String(port), ...more], {
    stdio: ['ignore', 'pipe', 'inherit'],
    env,
  });
  let printed = '';
  const origin = await new Promise<string>((resolve, reject) => {
    child.once('exit', (code) => reject(new Error(`serve ended with ${code}: ${printed}`)));
    child.stdout.on('data', (data: Buffer) => {
      printed += data.toString();
      const at = /Jolly Gate is at (http:[^\s"]+)/.exec(printed)?.[1];
      if (at !== undefined) resolve(at);
    });
  });
  return { child, origin, printed: () => printed };
}
