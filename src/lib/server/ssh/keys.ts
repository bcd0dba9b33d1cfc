/** The first key of a box: shown to a person, and known only once somebody says so. */
import { appendFileSync, existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { homedir, tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { ownTool } from './ssh';
import type { SshOptions } from './ssh';
import type { Target } from './target';

export interface SeenKey {
  /** `SHA256:…`, as ssh-keygen(1) shows it. */
  readonly fingerprint: string;
  readonly kind: string;
  /** As it stands in a file of known hosts. */
  readonly line: string;
}

/** What ssh itself would use for a target, by its own account (`ssh -G`). */
export async function settingsOf(
  target: Target,
  { config }: SshOptions,
): Promise<ReadonlyMap<string, string>> {
  const text = await ownTool('ssh', [
    '-G',
    ...(config === undefined ? [] : ['-F', config]),
    ...(target.port === undefined ? [] : ['-p', String(target.port)]),
    '--',
    target.host,
  ]);
  return new Map(
    (text ?? '').split('\n').map((l) => {
      const at = l.indexOf(' ');
      return [l.slice(0, at), l.slice(at + 1)] as const;
    }),
  );
}

/** Seconds until a box that shows no key is given up; behind a jump host its own handshake comes before. */
const SHOWS = 15;

/**
 * The keys that a box shows now: those that ssh itself is shown on its way there, through jump hosts and whatever else its
 * configuration says. Nobody logs in, and nothing is remembered.
 */
export async function keysShown(target: Target, options: SshOptions): Promise<readonly SeenKey[]> {
  const folder = mkdtempSync(join(tmpdir(), 'jg-key-'));
  const seen = join(folder, 'known');
  const option = (text: string) => ['-o', text];
  const [program, ...before] = [...(options.through ?? []), 'ssh'];
  try {
    await ownTool(program, [
      ...before,
      ...(options.config === undefined ? [] : ['-F', options.config]),
      ...option(`UserKnownHostsFile=${seen}`),
      ...option('GlobalKnownHostsFile=/dev/null'),
      ...option('StrictHostKeyChecking=accept-new'),
      ...option('HashKnownHosts=no'),
      ...option('UpdateHostKeys=no'),
      ...option('PreferredAuthentications=none'),
      ...option('BatchMode=yes'),
      ...option('ControlPath=none'),
      ...option(`ConnectTimeout=${SHOWS}`),
      ...(target.user === undefined ? [] : ['-l', target.user]),
      ...(target.port === undefined ? [] : ['-p', String(target.port)]),
      '--',
      target.host,
      'true',
    ]);
    const out: SeenKey[] = [];
    for (const line of existsSync(seen) ? readFileSync(seen, 'utf8').split('\n') : []) {
      const kind = /^\S+ (\S+) [A-Za-z0-9+/=]+/.exec(line)?.[1];
      if (kind === undefined) continue;
      const print = await ownTool('ssh-keygen', ['-l', '-f', '-'], `${line}\n`);
      const fingerprint = /SHA256:\S+/.exec(print ?? '')?.[0];
      if (fingerprint !== undefined) out.push({ fingerprint, kind, line });
    }
    return out;
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

/**
 * Writes a key that a person has confirmed into the first of their files of known hosts; which one it is. Undefined where
 * their configuration says that none is kept (ssh_config(5), UserKnownHostsFile `none`).
 */
export async function rememberKey(
  target: Target,
  options: SshOptions,
  key: SeenKey,
): Promise<string | undefined> {
  const settings = await settingsOf(target, options);
  const named = (settings.get('userknownhostsfile') ?? '').split(' ').find(Boolean);
  if (named === 'none' || named === '/dev/null') return undefined;
  const file = (named ?? '~/.ssh/known_hosts').replace(/^~(?=\/)/, homedir());
  mkdirSync(dirname(file), { recursive: true, mode: 0o700 });
  appendFileSync(file, `${key.line}\n`, { mode: 0o600 });
  return file;
}
