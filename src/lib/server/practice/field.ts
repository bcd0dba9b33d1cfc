/**
 * A field of network namespaces to practise in: a box with a real sshd that is told as any other, the administrator's PC,
 * a desk and a provider. The box has a root, processes and a network of its own; no packet leaves the field.
 */
import { spawn, spawnSync } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';
import {
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  readdirSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { BOX_PATH, OwnRoot } from './root';

const NEEDED = ['ip', 'nft', 'ssh', 'sshd', 'ssh-keygen', 'unshare', 'nsenter', 'setpriv', 'ping', 'python3'];
/** What a box may never do: set the clock, which is this machine's too. */
const NO_CLOCK = ['setpriv', '--bounding-set=-sys_time'];
/** Ends what it stands before with the process that began it, however that ends (prctl(2), PR_SET_PDEATHSIG). */
const WITH_US = ['--pdeathsig', 'KILL'];

/** Why no field can be laid here, or undefined where it can. */
export function noField(more: readonly string[] = []): string | undefined {
  if (process.getuid?.() !== 0) return 'it takes root to lay network namespaces';
  for (const tool of [...NEEDED, ...more])
    if (spawnSync('sh', ['-c', `command -v ${tool} || test -x /usr/sbin/${tool}`]).status !== 0)
      return `${tool} is missing`;
  const name = `jf${process.pid}-try`;
  const made = spawnSync('ip', ['netns', 'add', name]);
  if (made.status !== 0) return 'no network namespaces may be made';
  const inside = 'mount --make-rprivate / && mount -t tmpfs none /run && nft add table inet gate';
  const can = spawnSync('ip', ['netns', 'exec', name, 'unshare', '-m', 'sh', '-c', inside]);
  spawnSync('ip', ['netns', 'del', name]);
  return can.status === 0 ? undefined : 'no mounts, or no nftables, in a namespace';
}

export interface Ran {
  readonly status: number | null;
  readonly out: string;
  readonly err: string;
}

/** Addresses of the field; all that is not the box's stays where it is. */
export const PLACES = {
  console: '10.61.99.1',
  pc: '10.61.99.10',
  desk: '10.61.20.50',
  provider: '198.51.100.17',
  far: '192.0.2.80',
} as const;

/** What the provider of the first line sends to its customers. */
export const LINE_SHEET = `Northmoor Broadband, your fixed line
Address   198.51.100.18
Netmask   255.255.255.248
Gateway   ${PLACES.provider}
DNS       192.0.2.53
`;

/** What the provider shows on its page. */
const PAGE = '<!doctype html><title>far</title><p>A page from far away.</p>\n';

let fields = 0;

const pidsIn = (ns: string): number[] =>
  spawnSync('ip', ['netns', 'pids', ns], { encoding: 'utf8' }).stdout.split('\n').filter(Boolean).map(Number);

/**
 * Ends what runs in a namespace, whatever it is. Who is listed may have a child before its end that is not, so that it is
 * asked again until nobody is there.
 */
function endAllIn(ns: string): void {
  const end = Date.now() + 10_000;
  for (let pids = pidsIn(ns); pids.length; pids = pidsIn(ns)) {
    if (Date.now() > end) throw new Error(`what runs in ${ns} does not end: ${pids.join(' ')}`);
    for (const pid of pids)
      try {
        process.kill(pid, 'SIGKILL');
      } catch {
        // It has ended by itself meanwhile.
      }
  }
}

/** Takes up what a program left that was killed before it could. */
export function sweep(): void {
  const all = spawnSync('ip', ['netns', 'list'], { encoding: 'utf8' }).stdout;
  for (const [ns, pid] of all.matchAll(/^jf(\d+)-\S+/gm)) {
    if (existsSync(`/proc/${pid}`)) continue;
    endAllIn(ns);
    spawnSync('ip', ['netns', 'del', ns]);
  }
  // Its keys among the rest.
  for (const name of readdirSync(tmpdir())) {
    const pid = /^jg-field-(\d+)-/.exec(name)?.[1];
    if (pid !== undefined && !existsSync(`/proc/${pid}`))
      rmSync(join(tmpdir(), name), { recursive: true, force: true });
  }
}

export class Field {
  protected readonly own = `jf${process.pid}-${fields++}`;
  readonly folder = mkdtempSync(join(tmpdir(), `jg-field-${process.pid}-`));
  readonly ns = {
    box: `${this.own}-box`,
    pc: `${this.own}-pc`,
    desk: `${this.own}-desk`,
    isp: `${this.own}-isp`,
  };
  private readonly beside: ChildProcess[] = [];
  protected readonly root = new OwnRoot(this.folder);

  /** Lays the field; the box is still off. */
  constructor() {
    const { box, pc, desk, isp } = this.ns;
    for (const n of Object.values(this.ns)) {
      this.must('ip', ['netns', 'add', n]);
      this.must('ip', ['-n', n, 'link', 'set', 'lo', 'up']);
      this.in(
        n,
        'sysctl -qw net.ipv6.conf.default.accept_dad=0 net.ipv4.icmp_ratelimit=0 net.ipv4.ip_forward=0',
      );
    }
    this.batch(undefined, [
      `link add p1 netns ${box} address 02:61:00:00:00:01 type veth peer name e1 netns ${isp}`,
      `link add p2 netns ${box} address 02:61:00:00:00:02 type veth peer name e2 netns ${isp}`,
      `link add p3 netns ${box} address 02:61:00:00:00:03 type veth peer name d1 netns ${desk}`,
      `link add p8 netns ${box} address 02:61:00:00:00:08 type veth peer name s1 netns ${pc}`,
    ]);
    this.batch(isp, [
      'link set e1 up',
      'link set e2 up',
      'addr add 198.51.100.17/29 dev e1',
      'addr add 203.0.113.17/29 dev e2',
      'addr add 192.0.2.1/32 dev lo',
      'addr add 192.0.2.2/32 dev lo',
      'addr add 192.0.2.53/32 dev lo',
      'addr add 192.0.2.80/32 dev lo',
    ]);
    this.batch(desk, [
      'link set d1 up',
      'addr add 10.61.20.50/24 dev d1',
      'route add default via 10.61.20.1',
    ]);
    this.batch(pc, ['link set s1 up', 'addr add 10.61.99.10/26 dev s1', 'route add default via 10.61.99.1']);
    this.freshConsole();
    mkdirSync(join(this.folder, 'pc'));
    mkdirSync(join(this.folder, 'page'));
    writeFileSync(join(this.folder, 'page', 'index.html'), PAGE);
    this.must('ssh-keygen', ['-q', '-t', 'ed25519', '-N', '', '-f', this.key]);
    this.must('ssh-keygen', ['-q', '-t', 'ed25519', '-N', '', '-f', join(this.folder, 'host')]);
    this.writeConfig();
    this.provider();
  }

  /** A fresh box has its console's address only. */
  private freshConsole(): void {
    this.batch(this.ns.box, ['link set p8 up', `addr add ${PLACES.console}/26 dev p8`]);
  }

  /** The box as it was at first: nobody has told it anything. Its host key and whom it lets in stay. */
  protected setUpAnew(): void {
    this.powerCut();
    this.root.anew();
    this.freshConsole();
    this.powerOn();
  }

  /** What the provider's side runs: a resolver that knows one name, and a page. */
  private provider(): void {
    const { isp } = this.ns;
    // Who changes its user or group forgets with whom it ends (prctl(2), PR_SET_PDEATHSIG).
    const quiet =
      '-k -C /dev/null --no-resolv --no-hosts --user=root --group=root --pid-file= --bind-interfaces';
    this.serve(
      isp,
      'dnsmasq',
      ...quiet.split(' '),
      '--listen-address=192.0.2.53',
      `--address=/example.com/${PLACES.far}`,
    );
    const page = join(this.folder, 'page');
    this.serve(isp, 'python3', '-m', 'http.server', '--bind', PLACES.far, '--directory', page, '80');
  }

  private get key(): string {
    return join(this.folder, 'pc', 'admin');
  }

  /** The ssh configuration of the PC, as the administrator has it. */
  get config(): string {
    return join(this.folder, 'pc', 'config');
  }

  /** The file of known hosts of the PC. */
  get known(): string {
    return join(this.folder, 'pc', 'known_hosts');
  }

  /** The host key's public half, as a file of known hosts has it behind the name. */
  get hostKey(): string {
    return readFileSync(join(this.folder, 'host.pub'), 'utf8').split(' ').slice(0, 2).join(' ');
  }

  writeConfig(more = ''): void {
    // No packet leaves the field: OpenSSH's own first choice of key exchange takes 0.4 s of processor time each time.
    writeFileSync(
      this.config,
      `Host *\n  User root\n  KexAlgorithms curve25519-sha256\n  IdentityFile ${this.key}\n  IdentitiesOnly yes\n  UserKnownHostsFile ${this.known}\n  GlobalKnownHostsFile /dev/null\n  BatchMode yes\n${more}`,
    );
    writeFileSync(this.known, `${PLACES.console} ${this.hostKey}\n`);
  }

  protected must(command: string, args: readonly string[], input?: string): string {
    const done = spawnSync(command, args, { input, encoding: 'utf8' });
    if (done.status !== 0) throw new Error(`${command} ${args.join(' ')}: ${done.stderr}`);
    return done.stdout;
  }

  protected batch(ns: string | undefined, lines: readonly string[]): void {
    this.must('ip', [...(ns === undefined ? [] : ['-n', ns]), '-batch', '-'], `${lines.join('\n')}\n`);
  }

  /** Runs a line of shell in a namespace. */
  in(ns: string, line: string, input?: string): Ran {
    const done = spawnSync('ip', ['netns', 'exec', ns, 'sh', '-c', line], { input, encoding: 'utf8' });
    return { status: done.status, out: done.stdout, err: done.stderr };
  }

  /** Switches the box on: sshd, and what it starts with. */
  powerOn(): void {
    const ssh = [
      'Port 22',
      'HostKey /etc/ssh/host',
      'PasswordAuthentication no',
      'UsePAM no',
      'AuthorizedKeysFile .ssh/authorized_keys',
      'PidFile none',
    ];
    writeFileSync(this.root.at('etc/ssh/sshd_config'), ssh.map((line) => `${line}\n`).join(''));
    copyFileSync(join(this.folder, 'host'), this.root.at('etc/ssh/host'));
    const keys = this.root.at('root/.ssh');
    mkdirSync(keys, { recursive: true, mode: 0o700 });
    // Whoever changed it meanwhile keeps what was written.
    if (!existsSync(join(keys, 'authorized_keys')))
      copyFileSync(`${this.key}.pub`, join(keys, 'authorized_keys'));
    const line = [
      this.root.mounts,
      this.root.pivot(true),
      '{ [ ! -x /usr/local/sbin/jolly-gate-hinge ] || /usr/local/sbin/jolly-gate-hinge boot; }',
      '{ /usr/sbin/sshd -D -e -f /etc/ssh/sshd_config & }',
      // Process 1 of the box: it inherits what loses its parent, and waits for it.
      'while :; do wait; sleep 1; done',
    ].join(' && ');
    this.started = this.switchOn(line);
    this.listens();
  }

  /** Starts process 1 of the box, which all others end with. */
  protected switchOn(line: string): ChildProcess {
    const apart = ['unshare', '-m', '--propagation', 'private', '-p', '-f', '--kill-child=KILL'];
    return spawn(
      'setpriv',
      [...WITH_US, 'ip', 'netns', 'exec', this.ns.box, ...apart, ...NO_CLOCK, 'sh', '-c', line],
      {
        stdio: 'ignore',
        detached: true,
        env: { PATH: BOX_PATH },
      },
    );
  }
  private started?: ChildProcess;

  /** Process 1 of the box as this machine numbers it; undefined while the box is off. */
  protected get init(): number | undefined {
    const pid = this.started?.pid;
    if (pid === undefined) return undefined;
    try {
      const [first = ''] = readFileSync(`/proc/${pid}/task/${pid}/children`, 'utf8').split(' ');
      return first === '' ? undefined : Number(first);
    } catch {
      return undefined; // It has ended.
    }
  }

  /** Waits until somebody can log in. */
  protected listens(): void {
    for (let n = 0; n < 3000; n++) {
      if (this.in(this.ns.box, 'ss -Hltn sport = :22 | grep -q . ').status === 0) return;
      spawnSync('sleep', ['0.1']);
    }
    throw new Error('the box does not come up');
  }

  /** Pulls the box's plug: all that runs there ends at once, and its kernel forgets everything. */
  powerCut(): void {
    this.pullPlug();
    this.in(
      this.ns.box,
      `nft flush ruleset; for d in $(ls /sys/class/net); do case $d in p[0-9]) ip addr flush dev $d; ip link set $d down ;; esac; done
       for d in $(ls /sys/class/net); do [ "$(cat /sys/class/net/$d/ifalias 2>/dev/null)" = jolly-gate ] && ip link del $d; done
       for f in 4 6; do ip -$f rule flush; ip -$f rule add pref 32766 lookup main; ip -$f rule add pref 32767 lookup default; done
       ip route flush table all proto 77 2>/dev/null; ip -6 route flush table all proto 77 2>/dev/null
       sysctl -qw net.ipv4.ip_forward=0 net.ipv6.conf.all.forwarding=0`,
    );
    spawnSync('sleep', ['0.05']);
  }

  /** Ends process 1 of the box, and with it all others. */
  protected pullPlug(): void {
    const init = this.init;
    if (init !== undefined) process.kill(init, 'SIGKILL');
    endAllIn(this.ns.box);
  }

  /** Processes of the box whose command line holds a text. */
  pidsOfBox(text: string): number[] {
    return pidsIn(this.ns.box).filter((pid) => {
      try {
        return readFileSync(`/proc/${pid}/cmdline`, 'utf8').replaceAll('\0', ' ').includes(text);
      } catch {
        return false;
      }
    });
  }

  /** What the box itself is told at its console: a line of shell beside its process 1. */
  console(line: string, input?: string): Ran {
    const spaces = ['-m', '-n', '-p', '-u', '-i'];
    const done = spawnSync('nsenter', ['-t', String(this.init), ...spaces, ...NO_CLOCK, 'sh', '-c', line], {
      input,
      encoding: 'utf8',
      env: { PATH: BOX_PATH, HOME: '/root' },
    });
    return { status: done.status, out: done.stdout, err: done.stderr };
  }

  /** Of each PC its own: connections that stay open are found by a file, which namespaces of networks do not part. */
  protected get env(): NodeJS.ProcessEnv {
    return { ...process.env, XDG_RUNTIME_DIR: this.folder };
  }

  /** Something that runs beside in a namespace until the field is taken up. */
  serve(ns: string, command: string, ...args: string[]): ChildProcess {
    return this.runBeside('ip', ['netns', 'exec', ns, command, ...args]);
  }

  protected runBeside(command: string, args: readonly string[]): ChildProcess {
    const child = spawn('setpriv', [...WITH_US, command, ...args], {
      stdio: 'ignore',
      detached: true,
      env: this.env,
    });
    this.beside.push(child);
    return child;
  }

  takeUp(): void {
    this.pullPlug();
    for (const n of Object.values(this.ns)) endAllIn(n);
    spawnSync('sleep', ['0.05']);
    for (const n of Object.values(this.ns)) spawnSync('ip', ['netns', 'del', n]);
    rmSync(this.folder, { recursive: true, force: true });
  }
}
