/**
 * A machine emulated, with Debian's own kernel and what hangs on its ports: its power is cut and comes back, it is spoken to
 * by ssh from a PC on p8. One machine a process; what was made for it goes with `story`.
 */
import { spawn, spawnSync } from 'node:child_process';
import { copyFileSync, existsSync, mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';

const IMAGE = resolve(process.env.JG_IMAGE ?? 'build/emulator');
export const WORK = join(tmpdir(), `jolly-gate-emulated-${process.pid}`);
const own = `je${process.pid}`;
export const NS = {
  wire: `${own}-wire`,
  pc: `${own}-pc`,
  desk: `${own}-desk`,
  sw: `${own}-sw`,
  isp: `${own}-isp`,
};
export const BOX = 'root@10.61.99.1';
const children: number[] = [];

for (const tool of [
  'ip',
  'ssh',
  'qemu-system-x86_64',
  'mmdebstrap',
  'mke2fs',
  'dnsmasq',
  'python3',
  'udhcpc',
  'tc',
])
  if (
    process.getuid?.() !== 0 ||
    spawnSync('sh', ['-c', `command -v ${tool} || test -x /usr/sbin/${tool}`]).status !== 0
  ) {
    console.log(`nothing is emulated here: ${process.getuid?.() === 0 ? `${tool} is missing` : 'not root'}`);
    console.log('0 passed, 0 failed, 1 skipped');
    process.exit(0);
  }

export const must = (command: string, args: readonly string[], input?: string): string => {
  const done = spawnSync(command, args, { encoding: 'utf8', input });
  if (done.status !== 0) throw new Error(`${command} ${args.join(' ')}: ${done.stdout}${done.stderr}`);
  return done.stdout;
};
export const inside = (ns: string, line: string): { status: number | null; out: string } => {
  const done = spawnSync('ip', ['netns', 'exec', ns, 'sh', '-c', line], { encoding: 'utf8' });
  return { status: done.status, out: done.stdout + done.stderr };
};
export const serve = (ns: string | undefined, command: string, ...args: string[]): number => {
  const [c, a] = ns === undefined ? [command, args] : ['ip', ['netns', 'exec', ns, command, ...args]];
  const child = spawn(c, a, { stdio: 'ignore', detached: true });
  children.push(child.pid!);
  return child.pid!;
};
export const sleep = (seconds: number): void => void spawnSync('sleep', [String(seconds)]);
export const ssh = (line: string) => inside(NS.pc, `ssh -F ${WORK}/config ${BOX} '${line}'`);
export const live = (verb: string, ...args: string[]) => {
  const all = [
    'netns',
    'exec',
    NS.pc,
    process.execPath,
    'bin/jolly-gate.js',
    'live',
    verb,
    '--ssh-config',
    `${WORK}/config`,
    BOX,
    ...args,
  ];
  const done = spawnSync('ip', all, { encoding: 'utf8' });
  return { status: done.status, out: done.stdout + done.stderr };
};
const start = Date.now();
let passed = 0;
export const seen = (what: string): void => {
  passed++;
  console.log(`${String(Math.round((Date.now() - start) / 1000)).padStart(5)} s  ${what}`);
};
/** How many times as long as it takes on a quiet machine something may take: a limit is there to catch a hang. */
const SLOW = 5;
export function until(what: string, seconds: number, holds: () => boolean): void {
  const end = Date.now() + SLOW * seconds * 1000;
  while (!holds()) {
    if (Date.now() > end) throw new Error(`not within ${SLOW * seconds} s: ${what}`);
    sleep(1);
  }
  seen(what);
}

/** Ports of the box, and what hangs on them; p4 is inside the machine. */
const PORTS: readonly (readonly [number, string, string])[] = [
  [1, NS.isp, 'e1'],
  [2, NS.isp, 'e2'],
  [3, NS.sw, 'trunk'],
  [5, NS.sw, 'g5'],
  [6, NS.sw, 'g6'],
  [7, NS.sw, 'g7'],
  [8, NS.pc, 's1'],
];

function layOut(): void {
  for (const n of Object.values(NS)) {
    must('ip', ['netns', 'add', n]);
    inside(
      n,
      'ip link set lo up; sysctl -qw net.ipv6.conf.all.disable_ipv6=1 net.ipv6.conf.default.disable_ipv6=1',
    );
  }
  for (const [i, ns, dev] of PORTS)
    inside(
      NS.wire,
      `ip link add v${i} type veth peer name ${dev} netns ${ns}; ip tuntap add t${i} mode tap; ip link add b${i} type bridge
       for x in v${i} t${i}; do ip link set $x master b${i}; ip link set $x up; done; ip link set b${i} up`,
    );
  for (const [, ns, dev] of PORTS) inside(ns, `ip link set ${dev} up`);
  inside(
    NS.isp,
    'ip addr add 198.51.100.17/29 dev e1; ip addr add 203.0.113.129/26 dev e2; for a in 1 53 54 80 123; do ip addr add 192.0.2.$a/32 dev lo; done',
  );
  inside(NS.pc, 'ip addr add 10.61.99.10/26 dev s1; ip route add default via 10.61.99.1');
  writeFileSync(
    join(WORK, 'config'),
    `Host *\n IdentityFile ${IMAGE}/admin\n IdentitiesOnly yes\n UserKnownHostsFile ${WORK}/known\n StrictHostKeyChecking accept-new\n BatchMode yes\n ConnectTimeout 3\n`,
  );
}

let machine = 0;
export function powerOn(): void {
  const nics = PORTS.flatMap(([i]) => [
    '-netdev',
    `tap,id=n${i},ifname=t${i},script=no,downscript=no`,
    '-device',
    `virtio-net-pci,netdev=n${i},mac=02:61:00:00:00:0${i}`,
  ]);
  const words = 'root=/dev/vda rw console=ttyS0 quiet mitigations=off audit=0';
  machine = serve(
    NS.wire,
    'qemu-system-x86_64',
    ...`-accel tcg,thread=multi -smp 2 -m 768 -nographic -no-reboot -kernel ${IMAGE}/vmlinuz -initrd ${IMAGE}/initrd.img -append`.split(
      ' ',
    ),
    words,
    ...`-drive file=${WORK}/disk.img,if=virtio,format=raw,cache=writeback -device virtio-rng-pci -monitor none -serial file:${WORK}/console.log`.split(
      ' ',
    ),
    ...nics,
  );
  until('the machine is up', 240, () => ssh('true').status === 0);
}
export function powerCut(): void {
  process.kill(-machine, 'SIGKILL');
  sleep(1);
  seen('the power is cut');
}

/** The generation that runs. */
export const running = (): string =>
  (JSON.parse(live('state', '--json').out) as { box: { running: string } }).box.running;

/** Tells what happens to a machine that was just put up, and what was seen of it; 1 at the first thing that is not so. */
export function story(tell: () => void): void {
  let failed = 0;
  try {
    rmSync(WORK, { recursive: true, force: true });
    mkdirSync(WORK, { recursive: true });
    const made = spawnSync('bash', ['tests/emulator/image.sh', IMAGE], { stdio: 'inherit' });
    if (made.status !== 0 || !existsSync(join(IMAGE, 'disk.img'))) throw new Error('no image was made');
    copyFileSync(join(IMAGE, 'disk.img'), join(WORK, 'disk.img'));
    layOut();
    powerOn();
    tell();
  } catch (error) {
    failed = 1;
    console.log(String(error));
    console.log(live('prove').out);
    console.log(ssh('tail -30 /run/jolly-gate/logs/orders.log; dmesg | grep -i apparmor.*denied | tail').out);
  } finally {
    for (const pid of children)
      try {
        process.kill(-pid, 'SIGKILL');
      } catch {
        // It has ended by itself.
      }
    sleep(0.5);
    for (const n of Object.values(NS)) spawnSync('ip', ['netns', 'del', n]);
    rmSync(WORK, { recursive: true, force: true });
  }
  console.log(`${passed} passed, ${failed} failed, 0 skipped`);
  process.exitCode = failed;
}
