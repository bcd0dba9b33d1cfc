/** A field to try a live box in, with a whole Debian for a box where that is asked for, and Jolly Gate's command in it. */
import { spawn, spawnSync } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';
import { copyFileSync, existsSync, mkdirSync, readFileSync, symlinkSync, writeFileSync } from 'node:fs';
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

/** How long something that must come is waited for, seconds: to catch a hang, not a slow machine. */
const PATIENCE = 600;

/**
 * Waits until something holds; `saw` tells what was there instead where it never does. Between two looks it rests three times
 * as long as one takes: to ask a box what it runs costs half a second of the processor that others wait for.
 */
export async function until(holds: () => boolean, what: string, saw?: () => string): Promise<void> {
  const end = Date.now() + PATIENCE * 1000;
  for (;;) {
    const begun = Date.now();
    if (holds()) return;
    if (Date.now() > end) throw new Error(`waited ${PATIENCE} s for: ${what}${saw ? `; saw: ${saw()}` : ''}`);
    await pause(Math.max(100, 3 * (Date.now() - begun)));
  }
}

/** Where a PC that others come through listens. */
export const JUMP_PORT = 2200;

/** The shell line that has the time of a box's trial be over now: its own timer is told to fire. */
export const TIME_IS_OVER = `cd /run/jolly-gate && exec 9>lock && flock 9 && [ -e trial ] &&
  sed -i 's/^until=.*/until=0/' trial && how=$(sed -n s/^how=//p trial) && pid=$(sed -n s/^pid=//p trial) && exec 9>&- &&
  if [ $how = systemd ]; then systemctl start jolly-gate-back-$pid.service; else pkill -P $pid -x sleep; fi`;

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
  /** `whole`: the box is a Debian of its own, systemd being its process 1, with the programs of this machine. */
  constructor(private readonly whole = false) {
    super();
    this.powerOn();
  }

  override powerOn(): void {
    if (!this.whole) return super.powerOn();
    const { root } = this;
    if (!existsSync(root.at('etc/systemd'))) this.install();
    const nspawn = [
      'systemd-nspawn',
      ...['-q', '-D', root.path, `--network-namespace-path=/run/netns/${this.ns.box}`],
      ...['--capability=CAP_NET_ADMIN,CAP_NET_RAW', '--drop-capability=CAP_SYS_TIME'],
      ...['--register=no', '--keep-unit', `--machine=${this.own}`, '--link-journal=no'],
      ...['--boot', '--console=pipe', 'systemd.unified_cgroup_hierarchy=0'],
    ];
    // The programs of this machine are mounted where only this box sees them.
    const line = `${root.mounts} && exec ${nspawn.join(' ')}`;
    this.nspawn = spawn('unshare', ['-m', '--propagation', 'private', 'sh', '-c', line], {
      stdio: ['ignore', 'ignore', 'inherit'],
      detached: true,
      env: { ...process.env, SYSTEMD_NSPAWN_API_VFS_WRITABLE: 'network' },
    });
    this.listens();
  }
  private nspawn?: ChildProcess;

  /** What a root has before systemd starts in it for the first time. */
  private install(): void {
    const { root } = this;
    for (const d of ['etc/systemd/system', 'etc/systemd/network', 'etc/network', 'etc/default', 'etc/dbus-1'])
      mkdirSync(root.at(d), { recursive: true });
    writeFileSync(root.at('etc/machine-id'), '');
    writeFileSync(root.at('etc/network/interfaces'), '');
    copyFileSync(join(this.folder, 'host'), root.at('etc/ssh/ssh_host_ed25519_key'));
    writeFileSync(root.at('etc/ssh/sshd_config'), 'UsePAM yes\nPasswordAuthentication no\n');
    mkdirSync(root.at('root/.ssh'), { mode: 0o700 });
    copyFileSync(join(this.folder, 'pc', 'admin.pub'), root.at('root/.ssh/authorized_keys'));
    const wants = root.at('etc/systemd/system/multi-user.target.wants');
    mkdirSync(wants);
    symlinkSync('/lib/systemd/system/ssh.service', join(wants, 'ssh.service'));
  }

  protected override pullPlug(): void {
    super.pullPlug();
    // The container's manager locks the disk until it has ended, too.
    const pid = this.nspawn?.pid;
    const lives = () => /^State:\t[^ZX]/m.test(readFileSync(`/proc/${pid}/status`, 'utf8'));
    while (pid !== undefined && existsSync(`/proc/${pid}`) && lives()) spawnSync('sleep', ['0.05']);
  }

  protected override get init(): number | undefined {
    if (!this.whole) return super.init;
    const kids = spawnSync('pgrep', ['-P', String(this.nspawn?.pid)], { encoding: 'utf8' }).stdout.trim();
    return kids === '' ? undefined : Number(kids.split('\n')[0]);
  }

  /** Runs Jolly Gate's command on the administrator's PC. */
  live(...args: string[]): Ran {
    const [verb = '', ...rest] = args;
    const done = spawnSync('ip', this.liveArgs(verb, rest), {
      encoding: 'utf8',
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

  /** Runs an sshd on the PC, through which whoever has this key gets to the box. */
  jumpHost(address: string, publicKey: string): void {
    const keys = this.file('jump-keys', publicKey);
    const words = `-D -f /dev/null -h ${join(this.folder, 'host')} -p ${JUMP_PORT} -o ListenAddress=${address} -o AuthorizedKeysFile=${keys} -o StrictModes=no -o UsePAM=no -o PidFile=none`;
    const line = `mkdir -p /run/sshd && exec /usr/sbin/sshd ${words}`;
    this.runBeside('ip', ['netns', 'exec', this.ns.pc, 'sh', '-c', line]);
  }

  /** Has the time of the trial be over now; whether there was a trial. */
  timeIsOver(): boolean {
    return this.console(TIME_IS_OVER).status === 0;
  }

  /** The box's own log: what it was asked and did, in order. */
  get log(): string {
    return this.console('cat /run/jolly-gate/logs/orders.log').out;
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
}
