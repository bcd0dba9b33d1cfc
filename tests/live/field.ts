/**
 * A field to try a live box in: the box with a real sshd, the administrator's PC, a desk and a provider, each a network
 * namespace; the box has places of its own over those of this machine. No packet leaves it.
 */
import { spawn, spawnSync } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const NEEDED = [
  'ip',
  'nft',
  'ssh',
  'sshd',
  'ssh-keygen',
  'unshare',
  'ping',
  'arping',
  'python3',
  'conntrack',
];

/** Why a whole Debian cannot be started here, or undefined where it can. */
export function noWholeBox(): string | undefined {
  const why = noField();
  if (why !== undefined) return why;
  for (const tool of ['systemd-nspawn', 'nsenter'])
    if (spawnSync('sh', ['-c', `command -v ${tool}`]).status !== 0) return `${tool} is missing`;
  return existsSync('/lib/systemd/systemd-networkd') ? undefined : 'systemd-networkd is missing';
}

/** Why no field can be laid here, or undefined where it can. */
export function noField(): string | undefined {
  if (process.getuid?.() !== 0) return 'not root';
  for (const tool of NEEDED)
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

export const pause = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms));

/** Waits until something holds, at most so many seconds. */
export async function until(holds: () => boolean, seconds: number, what: string): Promise<void> {
  const end = Date.now() + seconds * 1000;
  while (!holds()) {
    if (Date.now() > end) throw new Error(`not within ${seconds} s: ${what}`);
    await pause(100);
  }
}

export interface Ran {
  readonly status: number | null;
  readonly out: string;
  readonly err: string;
}

let fields = 0;

/** Addresses of the field; all that is not the box's stays where it is. */
export const PLACES = {
  console: '10.61.99.1',
  pc: '10.61.99.10',
  desk: '10.61.20.50',
  provider: '198.51.100.17',
  far: '192.0.2.80',
} as const;

/** A box that works in the field: one uplink, a network inside, the console. */
export const WORKS = `box edge: names 192.0.2.53
zone world: upstream
zone studio:
zone stewards: management
interface fibre: on p1, zone world, address 198.51.100.18/29, gateway .17, watch 192.0.2.1 every 1s lost 2, settle 2s, answers ping, guard
interface studio: on p3, zone studio, address 10.61.20.1/24, answers ping
interface console: on p8, zone stewards, address 10.61.99.1/26, answers ping ssh
passage studio > world: allow
passage stewards > any: allow
leave any > world: as interface
`;

export class Field {
  private readonly own = `jf${process.pid}-${fields++}`;
  readonly folder = mkdtempSync(join(tmpdir(), 'jg-field-'));
  readonly ns = {
    box: `${this.own}-box`,
    pc: `${this.own}-pc`,
    desk: `${this.own}-desk`,
    isp: `${this.own}-isp`,
  };
  private sshd?: ChildProcess;
  private readonly beside: ChildProcess[] = [];

  /** `whole`: the box is a Debian of its own, systemd being its process 1, on an overlay of this machine's disk. */
  constructor(private readonly whole = false) {
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
    // As a fresh box: its console's address only.
    this.batch(box, ['link set p8 up', 'addr add 10.61.99.1/26 dev p8']);
    mkdirSync(join(this.folder, 'pc'));
    const key = join(this.folder, 'pc', 'admin');
    this.must('ssh-keygen', ['-q', '-t', 'ed25519', '-N', '', '-f', key]);
    this.must('ssh-keygen', ['-q', '-t', 'ed25519', '-N', '', '-f', join(this.folder, 'host')]);
    this.writeConfig();
    this.provider();
    this.powerOn();
  }

  /** What the provider's side runs: a resolver that knows one name, and a page. */
  private provider(): void {
    const { isp } = this.ns;
    this.serve(
      isp,
      'dnsmasq',
      '-k',
      '-C',
      '/dev/null',
      '--no-resolv',
      '--no-hosts',
      '--user=root',
      '--pid-file=',
      '--listen-address=192.0.2.53',
      '--bind-interfaces',
      '--address=/example.com/192.0.2.80',
    );
    this.serve(
      isp,
      'python3',
      '-m',
      'http.server',
      '--bind',
      '192.0.2.80',
      '--directory',
      join(this.folder, 'pc'),
      '80',
    );
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
    writeFileSync(
      this.config,
      `Host *\n  User root\n  IdentityFile ${join(this.folder, 'pc', 'admin')}\n  IdentitiesOnly yes\n  UserKnownHostsFile ${this.known}\n  GlobalKnownHostsFile /dev/null\n  BatchMode yes\n${more}`,
    );
    writeFileSync(this.known, `${PLACES.console} ${this.hostKey}\n`);
  }

  private must(command: string, args: readonly string[], input?: string): string {
    const done = spawnSync(command, args, { input, encoding: 'utf8' });
    if (done.status !== 0) throw new Error(`${command} ${args.join(' ')}: ${done.stderr}`);
    return done.stdout;
  }

  private batch(ns: string | undefined, lines: readonly string[]): void {
    this.must('ip', [...(ns === undefined ? [] : ['-n', ns]), '-batch', '-'], `${lines.join('\n')}\n`);
  }

  /** Runs a line of shell in a namespace. */
  in(ns: string, line: string, input?: string): Ran {
    const done = spawnSync('ip', ['netns', 'exec', ns, 'sh', '-c', line], { input, encoding: 'utf8' });
    return { status: done.status, out: done.stdout, err: done.stderr };
  }

  /** The shell line that gives the box places of its own: what it keeps is in this folder, what runs is volatile. */
  private get places(): string {
    const over = (place: string) => {
      const at = join(this.folder, 'disk', place.replaceAll('/', '_'));
      mkdirSync(`${at}/up`, { recursive: true });
      mkdirSync(`${at}/work`, { recursive: true });
      return `mount -t overlay overlay -o lowerdir=${place},upperdir=${at}/up,workdir=${at}/work ${place}`;
    };
    return [
      'mount --make-rprivate /',
      over('/etc'),
      over('/usr/local'),
      over('/root'),
      over('/var/lib'),
      'mount -t tmpfs none /run',
      'mkdir -p /run/sshd /run/netns',
    ].join(' && ');
  }

  /** Where the disk of a whole box is. */
  private get disk(): string {
    return join(this.folder, 'merged');
  }

  /** Starts systemd as process 1 of the box. */
  private boot(): void {
    const { disk, folder } = this;
    if (!existsSync(disk)) {
      for (const d of ['up', 'work', 'merged']) mkdirSync(join(folder, d));
      this.must('mount', [
        '-t',
        'overlay',
        'overlay',
        '-o',
        `lowerdir=/,upperdir=${folder}/up,workdir=${folder}/work`,
        disk,
      ]);
      const units = join(disk, 'etc/systemd/system');
      // What this machine happens to run is not the box's.
      for (const u of [
        'kea-dhcp4-server',
        'unbound',
        'chrony',
        'ulogd2',
        'radvd',
        'postgresql',
        'e2scrub_reap',
        'systemd-timesyncd',
      ])
        spawnSync('ln', ['-sf', '/dev/null', join(units, `${u}.service`)]);
      spawnSync('rm', ['-f', join(disk, 'etc/machine-id'), join(disk, 'usr/sbin/policy-rc.d')]);
      writeFileSync(join(disk, 'etc/machine-id'), '');
      rmSync(join(disk, 'etc/jolly-gate'), { recursive: true, force: true });
      rmSync(join(disk, 'root/.ssh'), { recursive: true, force: true });
      mkdirSync(join(disk, 'root/.ssh'), { recursive: true, mode: 0o700 });
      this.must('cp', [join(folder, 'pc', 'admin.pub'), join(disk, 'root/.ssh/authorized_keys')]);
      this.must('sh', [
        '-c',
        `rm -f ${disk}/etc/ssh/ssh_host_* && cp ${folder}/host ${disk}/etc/ssh/ssh_host_ed25519_key && chmod 600 ${disk}/etc/ssh/ssh_host_ed25519_key`,
      ]);
      writeFileSync(join(disk, 'etc/network/interfaces'), '');
      this.must('systemctl', ['--root', disk, '-q', 'enable', 'ssh.service']);
    }
    this.nspawn = spawn(
      'systemd-nspawn',
      [
        '-q',
        '-D',
        disk,
        `--network-namespace-path=/run/netns/${this.ns.box}`,
        '--capability=CAP_NET_ADMIN,CAP_NET_RAW',
        '--register=no',
        '--keep-unit',
        `--machine=${this.own}`,
        '--link-journal=no',
        '--boot',
        '--console=pipe',
        'systemd.unified_cgroup_hierarchy=0',
      ],
      {
        stdio: 'ignore',
        detached: true,
        env: { ...process.env, SYSTEMD_NSPAWN_API_VFS_WRITABLE: 'network' },
      },
    );
  }
  private nspawn?: ChildProcess;

  /** Process 1 of a whole box. */
  private get init(): number | undefined {
    const kids = spawnSync('pgrep', ['-P', String(this.nspawn?.pid)], { encoding: 'utf8' }).stdout.trim();
    return kids === '' ? undefined : Number(kids.split('\n')[0]);
  }

  /** Switches the box on: sshd, and what it starts with. */
  powerOn(): void {
    if (this.whole) {
      this.boot();
      this.listens();
      return;
    }
    const ssh = [
      'Port 22',
      `HostKey ${join(this.folder, 'host')}`,
      'PasswordAuthentication no',
      'UsePAM no',
      'AuthorizedKeysFile /root/.ssh/authorized_keys',
      'PidFile none',
    ].join('\n');
    writeFileSync(join(this.folder, 'sshd_config'), `${ssh}\n`);
    const line = [
      this.places,
      'mkdir -p /root/.ssh && chmod 700 /root /root/.ssh',
      `{ [ -e /root/.ssh/authorized_keys ] || cp ${join(this.folder, 'pc', 'admin.pub')} /root/.ssh/authorized_keys; }`,
      'chmod 600 /root/.ssh/authorized_keys',
      '{ [ ! -x /usr/local/sbin/jolly-gate-hinge ] || /usr/local/sbin/jolly-gate-hinge boot; }',
      `exec /usr/sbin/sshd -D -e -f ${join(this.folder, 'sshd_config')}`,
    ].join(' && ');
    this.sshd = spawn(
      'ip',
      ['netns', 'exec', this.ns.box, 'unshare', '-m', '--propagation', 'private', 'sh', '-c', line],
      {
        stdio: 'ignore',
        detached: true,
      },
    );
    this.listens();
  }

  /** Waits until somebody can log in. */
  private listens(): void {
    for (let n = 0; n < 300; n++) {
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
      `nft flush ruleset; for d in p1 p2 p3 p8; do ip addr flush dev $d; ip link set $d down; done
       for d in $(ls /sys/class/net); do [ "$(cat /sys/class/net/$d/ifalias 2>/dev/null)" = jolly-gate ] && ip link del $d; done
       for f in 4 6; do ip -$f rule flush; ip -$f rule add pref 32766 lookup main; ip -$f rule add pref 32767 lookup default; done
       ip route flush table all proto 77 2>/dev/null; ip -6 route flush table all proto 77 2>/dev/null
       sysctl -qw net.ipv4.ip_forward=0 net.ipv6.conf.all.forwarding=0`,
    );
    spawnSync('sleep', ['0.05']);
  }

  private pullPlug(): void {
    const init = this.init;
    // With process 1 all others of its namespace end.
    if (init !== undefined) process.kill(init, 'SIGKILL');
    this.killIn(this.ns.box);
    if (this.nspawn) spawnSync('sleep', ['0.3']);
  }

  private killIn(ns: string): void {
    const pids = spawnSync('ip', ['netns', 'pids', ns], { encoding: 'utf8' })
      .stdout.split('\n')
      .filter(Boolean);
    for (const pid of pids)
      try {
        process.kill(Number(pid), 'SIGKILL');
      } catch {
        // It has ended by itself meanwhile.
      }
  }

  /** Processes of the box whose command line holds a text. */
  pidsOfBox(text: string): number[] {
    const pids = spawnSync('ip', ['netns', 'pids', this.ns.box], { encoding: 'utf8' }).stdout.split('\n');
    return pids
      .filter(Boolean)
      .map(Number)
      .filter((pid) => {
        try {
          return readFileSync(`/proc/${pid}/cmdline`, 'utf8').replaceAll('\0', ' ').includes(text);
        } catch {
          return false;
        }
      });
  }

  /** What the box itself is told at its console: a line of shell where sshd is. */
  console(line: string, input?: string): Ran {
    const pid = this.whole ? this.init : this.pidsOfBox('sshd -D')[0];
    const spaces = this.whole ? ['-m', '-n', '-p', '-u', '-i'] : ['-m', '-n'];
    const done = spawnSync('nsenter', ['-t', String(pid), ...spaces, 'sh', '-c', line], {
      input,
      encoding: 'utf8',
    });
    return { status: done.status, out: done.stdout, err: done.stderr };
  }

  /** Of each PC its own: connections that stay open are found by a file, which namespaces of networks do not part. */
  private get env(): NodeJS.ProcessEnv {
    return { ...process.env, XDG_RUNTIME_DIR: this.folder };
  }

  /** Runs Jolly Gate's command on the administrator's PC. */
  live(...args: string[]): Ran {
    const [verb = '', ...rest] = args;
    const done = spawnSync('ip', this.liveArgs(verb, rest), {
      encoding: 'utf8',
      timeout: 120_000,
      env: this.env,
    });
    return { status: done.status, out: done.stdout, err: done.stderr };
  }

  private liveArgs = (verb: string, rest: readonly string[]): string[] => [
    'netns',
    'exec',
    this.ns.pc,
    process.execPath,
    'bin/jolly-gate.js',
    'live',
    verb,
    '--ssh-config',
    this.config,
    ...rest,
  ];

  /** The same, without waiting for its end. */
  begin(...args: string[]): ChildProcess {
    const [verb = '', ...rest] = args;
    const child = spawn('ip', this.liveArgs(verb, rest), { stdio: 'ignore', detached: true, env: this.env });
    this.beside.push(child);
    return child;
  }

  /** Something that runs beside in a namespace until the field is taken up. */
  serve(ns: string, command: string, ...args: string[]): ChildProcess {
    const child = spawn('ip', ['netns', 'exec', ns, command, ...args], {
      stdio: 'ignore',
      detached: true,
      env: this.env,
    });
    this.beside.push(child);
    return child;
  }

  /** Whether somebody reaches an address by ping from a namespace. */
  pings(ns: string, address: string): boolean {
    return this.in(ns, `ping -q -c1 -W1 ${address}`).status === 0;
  }

  /** Writes a text where the PC finds it. */
  file(name: string, text: string): string {
    const path = join(this.folder, 'pc', name);
    writeFileSync(path, text);
    return path;
  }

  takeUp(): void {
    this.pullPlug();
    for (const n of Object.values(this.ns)) this.killIn(n);
    if (this.whole) spawnSync('umount', [this.disk]);
    spawnSync('sleep', ['0.05']);
    for (const n of Object.values(this.ns)) spawnSync('ip', ['netns', 'del', n]);
    rmSync(this.folder, { recursive: true, force: true });
  }
}
