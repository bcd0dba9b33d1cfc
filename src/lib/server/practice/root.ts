/**
 * A root file system for a box of a field: the programs of this machine, read-only, and nothing else of it. `/etc`, `/var`,
 * `/root` and `/usr/local` begin empty or with what programs need to start, so that neither a box that was told by hand on
 * this machine nor a service that it happens to run is seen by the box, and nothing that the box writes is seen by the
 * machine.
 */
import { spawnSync } from 'node:child_process';
import {
  chmodSync,
  cpSync,
  existsSync,
  lstatSync,
  mkdirSync,
  readFileSync,
  readlinkSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';

/** What programs read to start at all: names of protocols, libraries, alternatives, the login stack. Never a service. */
const NEEDED_IN_ETC = [
  'alternatives',
  'debian_version',
  'ethertypes',
  'host.conf',
  'iproute2',
  'ld.so.cache',
  'ld.so.conf',
  'ld.so.conf.d',
  'login.defs',
  'nsswitch.conf',
  'os-release',
  'pam.conf',
  'pam.d',
  'protocols',
  'security',
  'services',
  'shells',
  'ssl/openssl.cnf',
];
/** Where a box looks for programs. */
export const BOX_PATH = '/usr/local/sbin:/usr/local/bin:/usr/sbin:/usr/bin:/sbin:/bin';
/** Top-level folders that hold programs; links into /usr where the machine's /usr is merged. */
const PROGRAMS = ['bin', 'sbin', 'lib', 'lib32', 'lib64', 'libx32'];
/** Users with a lower number are services' own (Debian Policy 9.2.2). */
const FIRST_PERSON = 1000;
const NOBODY = 65534;

/**
 * Where settings of programs lie: of those that were unpacked beside this machine's instead of installed (`JG_TOOLS`, which
 * scripts/with-tools.sh sets), and this machine's own, which count where both have one.
 */
const settings = (): string[] => {
  const tools = process.env.JG_TOOLS;
  return [...(tools === undefined ? [] : [join(tools, 'etc')]), '/etc'];
};

/** Lines of /etc/passwd or /etc/group that belong to the system: the number stands third. */
const systemLines = (file: string): string[] =>
  readFileSync(file, 'utf8')
    .split('\n')
    .filter((line) => {
      const id = Number(line.split(':')[2]);
      return line !== '' && (id < FIRST_PERSON || id === NOBODY);
    });

export class OwnRoot {
  /** Where it lies on this machine. */
  readonly path: string;

  /** Makes it inside a folder, which must exist. */
  constructor(private readonly folder: string) {
    this.path = join(folder, 'root');
    this.make();
  }

  /** Makes it once more, as it was at first; nobody may be in it. */
  anew(): void {
    rmSync(this.path, { recursive: true, force: true });
    rmSync(this.local, { recursive: true, force: true });
    this.make();
  }

  private make(): void {
    const dirs = [
      'dev',
      'etc/ssl',
      'etc/ssh',
      'home',
      'mnt',
      'opt',
      'proc',
      'root',
      'run',
      'srv',
      'sys',
      'usr',
    ];
    for (const d of [
      ...dirs,
      'etc/kea',
      'etc/unbound',
      'var/cache',
      'var/lib/chrony',
      'var/log',
      'var/spool',
      'var/empty',
    ])
      mkdirSync(this.at(d), { recursive: true });
    for (const d of ['tmp', 'var/tmp']) {
      mkdirSync(this.at(d));
      chmodSync(this.at(d), 0o1777);
    }
    symlinkSync('/run', this.at('var/run'));
    chmodSync(this.at('root'), 0o700);
    mkdirSync(this.local);
    for (const d of ['bin', 'sbin', 'lib', 'share']) mkdirSync(join(this.local, d));
    for (const d of PROGRAMS) {
      if (!existsSync(`/${d}`)) continue;
      if (lstatSync(`/${d}`).isSymbolicLink()) symlinkSync(readlinkSync(`/${d}`), this.at(d));
      else mkdirSync(this.at(d));
    }
    for (const etc of settings())
      for (const name of NEEDED_IN_ETC)
        if (existsSync(join(etc, name)))
          cpSync(join(etc, name), this.at('etc', name), { recursive: true, verbatimSymlinks: true });
    const users = systemLines('/etc/passwd').map((line) =>
      line.startsWith('root:') ? 'root:x:0:0:root:/root:/bin/sh' : line,
    );
    const groups = systemLines('/etc/group');
    this.write('etc/passwd', users);
    this.write('etc/group', groups);
    // Nobody has a password: keys alone let somebody in.
    this.write(
      'etc/shadow',
      users.map((line) => `${line.split(':')[0]}:*:19000:0:99999:7:::`),
      0o640,
    );
    this.write(
      'etc/gshadow',
      groups.map((line) => `${line.split(':')[0]}:*::`),
      0o640,
    );
    this.write('etc/hosts', ['127.0.0.1 localhost', '::1 localhost']);
    this.write('etc/hostname', ['box']);
    this.write('etc/resolv.conf', []);
  }

  /** A place in it, as this machine calls it. */
  at(...place: string[]): string {
    return join(this.path, ...place);
  }

  /** Puts a program into its /usr/local/sbin. */
  install(name: string, text: string): void {
    writeFileSync(join(this.local, 'sbin', name), text, { mode: 0o755 });
  }

  private write(place: string, lines: readonly string[], mode = 0o644): void {
    writeFileSync(this.at(place), lines.map((line) => `${line}\n`).join(''), { mode });
  }

  /** What lies over /usr/local, which only the box writes to. */
  private get local(): string {
    return join(this.folder, 'usr-local');
  }

  /**
   * Shell lines that mount what it shares with this machine. They are run in a mount namespace of their own, which takes
   * the mounts with it when its last process ends.
   */
  get mounts(): string {
    const { path } = this;
    const shared = [
      'usr',
      ...PROGRAMS.filter((d) => existsSync(`/${d}`) && !lstatSync(`/${d}`).isSymbolicLink()),
    ];
    return [
      'mount --make-rprivate /',
      `mount --bind ${path} ${path}`,
      ...shared.flatMap((d) => [`mount --bind /${d} ${path}/${d}`, `mount -o remount,bind,ro ${path}/${d}`]),
      `mount --bind ${this.local} ${path}/usr/local`,
    ].join(' && ');
  }

  /** Shell lines that make it the root, behind `mounts`. `isVolatile`: /run and /tmp are gone with the namespace. */
  pivot(isVolatile: boolean): string {
    const { path } = this;
    return [
      `mount -t proc proc ${path}/proc`,
      `mount -t sysfs sysfs ${path}/sys`,
      `mount --rbind /dev ${path}/dev`,
      ...(isVolatile ? ['run', 'tmp'].map((d) => `mount -t tmpfs -o mode=1777 tmpfs ${path}/${d}`) : []),
      `mkdir -p ${path}/run/sshd ${path}/run/netns`,
      `cd ${path} && pivot_root . mnt && umount -l /mnt && cd /`,
    ].join(' && ');
  }

  /**
   * The call, without its command, that runs something in a network namespace with this root. What it leaves running has
   * mounts of its own; what lies on disk, /run included, is the same for every call. So the hinge has to keep what runs on
   * disk, too, instead of on a file system of its own: it is told the place.
   */
  enter(ns: string): string[] {
    const script = `${this.mounts} && ${this.pivot(false)} && export JG_RUN=/run/jolly-gate && exec "$@"`;
    return ['netns', 'exec', ns, 'unshare', '-m', '--propagation', 'private', 'sh', '-c', script, 'box'];
  }

  /** Runs a line of shell in a network namespace with this root. */
  run(ns: string, line: string, input?: string, env: NodeJS.ProcessEnv = {}) {
    return spawnSync('ip', [...this.enter(ns), 'sh', '-c', line], {
      encoding: 'utf8',
      input,
      env: { PATH: BOX_PATH, ...env },
    });
  }
}
