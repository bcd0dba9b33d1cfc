/** The first key of a box: shown to a person, and known only once somebody says so. */
import { appendFileSync, mkdirSync } from 'node:fs';
import { homedir } from 'node:os';
import { dirname } from 'node:path';
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

/** The keys that a box shows now. */
export async function keysShown(target: Target, options: SshOptions): Promise<readonly SeenKey[]> {
  const [program, ...before] = [...(options.through ?? []), 'ssh-keyscan'];
  const settings = await settingsOf(target, options);
  const host = settings.get('hostname') ?? target.host;
  const port = settings.get('port') ?? '22';
  const shown = await ownTool(program, [...before, '-T', '5', '-p', port, '--', host]);
  const alias = settings.get('hostkeyalias') ?? (port === '22' ? host : `[${host}]:${port}`);
  const out: SeenKey[] = [];
  for (const line of (shown ?? '').split('\n')) {
    const m = /^\S+ ((\S+) [A-Za-z0-9+/=]+)$/.exec(line);
    if (!m) continue;
    const known = `${alias} ${m[1]}`;
    const print = await ownTool('ssh-keygen', ['-l', '-f', '-'], `${known}\n`);
    const fingerprint = /SHA256:\S+/.exec(print ?? '')?.[0];
    if (fingerprint !== undefined) out.push({ fingerprint, kind: m[2]!, line: known });
  }
  return out;
}

/** Writes a key that a person has confirmed into the first of their files of known hosts. */
export async function rememberKey(target: Target, options: SshOptions, key: SeenKey): Promise<string> {
  const settings = await settingsOf(target, options);
  const named = (settings.get('userknownhostsfile') ?? '').split(' ').find(Boolean);
  const file = (named ?? '~/.ssh/known_hosts').replace(/^~(?=\/)/, homedir());
  mkdirSync(dirname(file), { recursive: true, mode: 0o700 });
  appendFileSync(file, `${key.line}\n`, { mode: 0o600 });
  return file;
}
