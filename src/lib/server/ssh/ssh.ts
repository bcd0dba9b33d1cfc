/**
 * The system's OpenSSH client, told by an argument array: the administrator's configuration, agent, hardware keys, jump
 * hosts and known hosts work as they are used to. No key and no password is ours.
 */
import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { lstatSync, mkdirSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Target } from './target';

/** Why a box is not reached. */
export type Trouble =
  | 'no-ssh'
  | 'host-key-unknown'
  | 'host-key-changed'
  | 'denied'
  | 'no-route'
  | 'refused'
  | 'timeout'
  | 'unresolved'
  | 'lost'
  | 'other';

export interface Reply {
  /** The exit status of what was run there; absent where it was not, or its end was not heard. */
  readonly status?: number;
  readonly out: string;
  readonly err: string;
  readonly trouble?: Trouble;
}

export interface SshOptions {
  /** A configuration file instead of the administrator's own. */
  readonly config?: string;
  /** Seconds until a connection counts as failed. */
  readonly connect?: number;
  /** A command that runs ssh elsewhere, as in a namespace. */
  readonly through?: readonly string[];
}

export interface Call {
  readonly input?: string;
  /** Another address of the same box: its key stays the one that is known of the target. */
  readonly at?: string;
  /** Seconds until it is given up. */
  readonly within?: number;
  /** By a connection that stays open for a while: quick, for what only asks. It proves nothing of who gets in. */
  readonly shared?: boolean;
}

/** What ssh says where it fails, and what that means; the first that fits. */
const SAYINGS: readonly (readonly [RegExp, Trouble])[] = [
  [/REMOTE HOST IDENTIFICATION HAS CHANGED/, 'host-key-changed'],
  [/Host key verification failed|host key is known for/, 'host-key-unknown'],
  [/Permission denied|Too many authentication failures|No more authentication/, 'denied'],
  [/Could not resolve hostname/, 'unresolved'],
  [/No route to host|Network is unreachable/, 'no-route'],
  [/Connection refused/, 'refused'],
  [/timed out|Timeout, server/, 'timeout'],
  [/closed by|Broken pipe|reset by peer|not responding/, 'lost'],
];

/** ssh itself failed (ssh(1), EXIT STATUS). */
const OWN_FAULT = 255;
/**
 * Seconds until a connection counts as failed: a first SYN that is lost is sent again after 1, 3 and 7 s (RFC 6298 section
 * 2), and a slow box takes seconds for its part of the key exchange.
 */
const CONNECT = 15;
const LONGEST = 64 * 1024 * 1024;

export class Ssh {
  constructor(
    readonly target: Target,
    private readonly options: SshOptions = {},
  ) {}

  private get configFile(): string[] {
    return this.options.config === undefined ? [] : ['-F', this.options.config];
  }

  /** Who is called, behind all options. */
  private get called(): string[] {
    const { user, host, port } = this.target;
    return [
      ...(user === undefined ? [] : ['-l', user]),
      ...(port === undefined ? [] : ['-p', String(port)]),
      '--',
      host,
    ];
  }

  /**
   * What tells this box from another: all that the client's configuration says of it (address, port, user, jump hosts;
   * ssh(1), -G) and the host keys that are known of it. A connection that stays open has its name from here, so that
   * neither a box of the same address behind another jump host nor one whose key is another answers in its place.
   */
  private get identity(): string {
    return (this.known ??= (() => {
      const { stdout } = spawnSync('ssh', [...this.configFile, '-G', ...this.called], { encoding: 'utf8' });
      const said = (key: string) =>
        stdout
          .split('\n')
          .find((line) => line.startsWith(`${key} `))
          ?.slice(key.length + 1) ?? '';
      const name = said('hostkeyalias') || said('hostname') || this.target.host;
      const port = said('port');
      const entry = port === '' || port === '22' ? name : `[${name}]:${port}`;
      const keys = `${said('userknownhostsfile')} ${said('globalknownhostsfile')}`
        .split(' ')
        .filter(Boolean)
        .map((file) => spawnSync('ssh-keygen', ['-F', entry, '-f', file], { encoding: 'utf8' }).stdout);
      return JSON.stringify([stdout, keys]);
    })());
  }
  private known?: string;

  /** The socket of the connection that stays open to an address of the box; undefined where none may be had. */
  private socket(at?: string): string | undefined {
    const folder = socketFolder();
    if (folder === undefined) return undefined;
    const digest = createHash('sha256').update(JSON.stringify([this.identity, at]));
    return join(folder, digest.digest('hex').slice(0, 24));
  }

  /** The arguments up to the command. */
  args(at?: string, isShared = false): string[] {
    const { host } = this.target;
    const option = (text: string) => ['-o', text];
    const socket = isShared ? this.socket(at) : undefined;
    return [
      ...this.configFile,
      ...option('StrictHostKeyChecking=yes'),
      ...option(`ConnectTimeout=${this.options.connect ?? CONNECT}`),
      ...option('ConnectionAttempts=1'),
      ...option('ServerAliveInterval=2'),
      ...option('ServerAliveCountMax=4'),
      ...(socket !== undefined
        ? [
            ...option('ControlMaster=auto'),
            ...option(`ControlPath=${socket}`),
            ...option('ControlPersist=30'),
          ]
        : // A connection of its own: one that is open already proves nothing of who gets in.
          [...option('ControlMaster=no'), ...option('ControlPath=none')]),
      ...option('ForwardAgent=no'),
      ...option('ClearAllForwardings=yes'),
      ...option('RequestTTY=no'),
      ...(process.stdin.isTTY ? [] : option('BatchMode=yes')),
      ...(at === undefined ? [] : [...option(`HostKeyAlias=${host}`), ...option(`HostName=${at}`)]),
      ...this.called,
    ];
  }

  /** Runs one command on the box. */
  async run(command: string, call: Call = {}): Promise<Reply> {
    const reply = await this.once(command, call);
    // The box may have gone from under a connection that was open: then it is asked by a new one.
    return call.shared && reply.trouble ? this.once(command, { ...call, shared: false }) : reply;
  }

  private once(command: string, { input, at, within = 60, shared }: Call): Promise<Reply> {
    return new Promise((resolve) => {
      const [program, ...before] = [...(this.options.through ?? []), 'ssh'];
      const child = spawn(program, [...before, ...this.args(at, shared), command], {
        stdio: ['pipe', 'pipe', 'pipe'],
      });
      const heard = { out: [] as Buffer[], err: [] as Buffer[], size: 0 };
      let late = false;
      const take = (list: Buffer[]) => (chunk: Buffer) => {
        heard.size += chunk.length;
        if (heard.size > LONGEST) child.kill('SIGKILL');
        else list.push(chunk);
      };
      child.stdout.on('data', take(heard.out));
      child.stderr.on('data', take(heard.err));
      const timer = setTimeout(() => {
        late = true;
        child.kill('SIGKILL');
      }, within * 1000);
      const text = (list: Buffer[]) => new TextDecoder().decode(Buffer.concat(list));
      child.on('error', (error: NodeJS.ErrnoException) => {
        clearTimeout(timer);
        resolve({ out: '', err: error.message, trouble: error.code === 'ENOENT' ? 'no-ssh' : 'other' });
      });
      child.on('close', (status) => {
        clearTimeout(timer);
        const [out, err] = [text(heard.out), text(heard.err)];
        if (late) resolve({ out, err, trouble: 'timeout' });
        else if (status === null || status === OWN_FAULT)
          resolve({ out, err, trouble: SAYINGS.find(([says]) => says.test(err))?.[1] ?? 'other' });
        else resolve({ status, out, err });
      });
      // A box that hangs up while it is being told is heard by how the call ends.
      child.stdin.on('error', () => undefined);
      child.stdin.end(input ?? '');
    });
  }
}

/** Where connections that stay open have their sockets: a folder that is this user's and nobody else may enter. */
function socketFolder(): string | undefined {
  const user = process.getuid?.() ?? 0;
  const folder = join(process.env.XDG_RUNTIME_DIR ?? tmpdir(), `jolly-gate-${user}`);
  try {
    mkdirSync(folder, { recursive: true, mode: 0o700 });
    // Somebody else may have made it before, or a link in its place.
    const is = lstatSync(folder);
    return is.isDirectory() && is.uid === user && (is.mode & 0o077) === 0 ? folder : undefined;
  } catch {
    return undefined;
  }
}

/** Runs a program of this machine and gives what it prints; undefined where it fails. */
export const ownTool = (command: string, args: readonly string[], input = ''): Promise<string | undefined> =>
  new Promise((resolve) => {
    const child = spawn(command, args, { stdio: ['pipe', 'pipe', 'ignore'] });
    const out: Buffer[] = [];
    child.stdout.on('data', (chunk: Buffer) => out.push(chunk));
    child.on('error', () => resolve(undefined));
    child.on('close', (status) =>
      resolve(status === 0 ? new TextDecoder().decode(Buffer.concat(out)) : undefined),
    );
    child.stdin.on('error', () => undefined);
    child.stdin.end(input);
  });
