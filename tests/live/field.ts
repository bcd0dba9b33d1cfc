/** A field to try a live box in, with a whole Debian for a box where that is asked for, and Jolly Gate's command in it. */
import { spawn, spawnSync } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';
import { existsSync, mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { homedir } from 'node:os';
import { join } from 'node:path';
import { Field as Laid, noField as noneLaid } from '../../src/lib/server/practice/field';
import type { Ran } from '../../src/lib/server/practice/field';

export { PLACES } from '../../src/lib/server/practice/field';
export type { Ran };

/** Why no field can be laid here, or undefined where it can. */
export const noField = (): string | undefined => noneLaid(['arping', 'conntrack', 'dnsmasq']);

/** Why a whole Debian cannot be started here, or undefined where it can. */
export function noWholeBox(): string | undefined {
  const why = noField();
  if (why !== undefined) return why;
  for (const tool of ['systemd-nspawn', 'nsenter'])
    if (spawnSync('sh', ['-c', `command -v ${tool}`]).status !== 0) return `${tool} is missing`;
  return existsSync('/lib/systemd/systemd-networkd') ? undefined : 'systemd-networkd is missing';
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

export class Field extends Laid {
  /** `whole`: the box is a Debian of its own, systemd being its process 1, on an overlay of this machine's disk. */
  constructor(private readonly whole = false) {
    super();
    this.powerOn();
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
        'isc-dhcp-relay',
        'keepalived',
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
      // Nor is what this machine's shells do when they begin.
      for (const f of ['.bashrc', '.profile', '.bash_profile'])
        rmSync(join(disk, homedir(), f), { force: true });
      const keys = join(disk, homedir(), '.ssh');
      rmSync(keys, { recursive: true, force: true });
      mkdirSync(keys, { recursive: true, mode: 0o700 });
      this.must('cp', [join(folder, 'pc', 'admin.pub'), join(keys, 'authorized_keys')]);
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

  override powerOn(): void {
    if (!this.whole) return super.powerOn();
    this.boot();
    this.listens();
  }

  protected override pullPlug(): void {
    const init = this.init;
    // With process 1 all others of its namespace end.
    if (init !== undefined) process.kill(init, 'SIGKILL');
    super.pullPlug();
    if (this.nspawn) spawnSync('sleep', ['0.3']);
  }

  protected override get process1() {
    return this.whole ? { pid: this.init, spaces: ['-m', '-n', '-p', '-u', '-i'] } : super.process1;
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
    return this.runBeside('ip', this.liveArgs(verb, rest));
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

  override takeUp(): void {
    this.pullPlug();
    if (this.whole) spawnSync('umount', [this.disk]);
    super.takeUp();
  }
}
