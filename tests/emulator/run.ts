/**
 * `npm run lab:emulator`: the demo's box file on an emulated machine with Debian's own kernel: real VLANs on a trunk, a
 * real PPPoE session, ports by their names, power cuts. Prints what it saw; exits with 1 at the first thing that is not so.
 */
import { spawn, spawnSync } from 'node:child_process';
import { copyFileSync, existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';

const IMAGE = resolve(process.env.JG_IMAGE ?? 'build/emulator');
const WORK = join(tmpdir(), `jolly-gate-emulated-${process.pid}`);
const own = `je${process.pid}`;
const NS = { wire: `${own}-wire`, pc: `${own}-pc`, desk: `${own}-desk`, sw: `${own}-sw`, isp: `${own}-isp` };
const BOX = 'root@10.61.99.1';
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

const must = (command: string, args: readonly string[], input?: string): string => {
  const done = spawnSync(command, args, { encoding: 'utf8', input });
  if (done.status !== 0) throw new Error(`${command} ${args.join(' ')}: ${done.stdout}${done.stderr}`);
  return done.stdout;
};
const inside = (ns: string, line: string): { status: number | null; out: string } => {
  const done = spawnSync('ip', ['netns', 'exec', ns, 'sh', '-c', line], { encoding: 'utf8' });
  return { status: done.status, out: done.stdout + done.stderr };
};
const serve = (ns: string | undefined, command: string, ...args: string[]): number => {
  const [c, a] = ns === undefined ? [command, args] : ['ip', ['netns', 'exec', ns, command, ...args]];
  const child = spawn(c, a, { stdio: 'ignore', detached: true });
  children.push(child.pid!);
  return child.pid!;
};
const sleep = (seconds: number): void => void spawnSync('sleep', [String(seconds)]);
const ssh = (line: string) => inside(NS.pc, `ssh -F ${WORK}/config ${BOX} '${line}'`);
const live = (verb: string, ...args: string[]) => {
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
const seen = (what: string): void => {
  passed++;
  console.log(`${String(Math.round((Date.now() - start) / 1000)).padStart(5)} s  ${what}`);
};
/** How many times as long as it takes on a quiet machine something may take: a limit is there to catch a hang. */
const SLOW = 5;
function until(what: string, seconds: number, holds: () => boolean): void {
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
  // A wheel's PC on tag 20 of the trunk: tags are put on and taken off by the kernel itself.
  inside(
    NS.sw,
    `ip link add q20 type veth peer name x20; ip link set q20 up; ip link set x20 up; ip link add d20 type veth peer name eth0 netns ${NS.desk}; ip link set d20 up; ip link add b20 type bridge; ip link set x20 master b20; ip link set d20 master b20; ip link set b20 up`,
  );
  must(
    'python3',
    ['tests/lab/tags.py'],
    JSON.stringify([{ netns: NS.sw, trunk: 'trunk', vid: 20, port: 'q20' }]),
  );
  inside(NS.desk, 'ip link set eth0 up');
  const dns =
    '--no-resolv --no-hosts --user=root --pid-file= --bind-interfaces --address=/example.com/192.0.2.80';
  serve(
    NS.isp,
    'dnsmasq',
    ...`-k -C /dev/null ${dns} --listen-address=192.0.2.53 --listen-address=192.0.2.54`.split(' '),
  );
  serve(
    NS.isp,
    'dnsmasq',
    ...`-k -C /dev/null --port=0 --interface=e2 --bind-interfaces --dhcp-authoritative --no-ping --dhcp-range=203.0.113.140,203.0.113.150,1h --dhcp-option=3,203.0.113.129 --dhcp-leasefile=${WORK}/leases --pid-file= --user=root`.split(
      ' ',
    ),
  );
  serve(NS.isp, 'python3', '-m', 'http.server', '--bind', '192.0.2.80', '--directory', WORK, '80');
  writeFileSync(
    join(WORK, 'hook'),
    '#!/bin/sh\n[ "$1" = bound ] && { ip addr add $ip/$mask dev $interface; ip route replace default via $router; }\nexit 0\n',
    { mode: 0o755 },
  );
  writeFileSync(
    join(WORK, 'config'),
    `Host *\n IdentityFile ${IMAGE}/admin\n IdentitiesOnly yes\n UserKnownHostsFile ${WORK}/known\n StrictHostKeyChecking accept-new\n BatchMode yes\n ConnectTimeout 3\n`,
  );
}

let machine = 0;
function powerOn(): void {
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
function powerCut(): void {
  process.kill(-machine, 'SIGKILL');
  sleep(1);
  seen('the power is cut');
}

const overrule = ['lends-covers-box', 'names-unanswered', 'expectation-failed'].flatMap((c) => [
  '--overrule',
  c,
]);
const proven = (): boolean => {
  const ran = live('prove', '--json');
  if (!ran.out.startsWith('{')) return false;
  const { uplinks } = JSON.parse(ran.out) as { uplinks: { stages: { result: string }[] }[] };
  return (
    uplinks.length === 3 &&
    uplinks.every((u) => u.stages.length > 8 && u.stages.every((s) => s.result !== 'fail'))
  );
};
const way = (): string | undefined => /dev (\S+)/.exec(ssh('ip route get 192.0.2.80').out)?.[1];
const running = (): string =>
  (JSON.parse(live('state', '--json').out) as { box: { running: string } }).box.running;

let failed = 0;
try {
  rmSync(WORK, { recursive: true, force: true });
  mkdirSync(WORK, { recursive: true });
  const made = spawnSync('bash', ['tests/emulator/image.sh', IMAGE], { stdio: 'inherit' });
  if (made.status !== 0 || !existsSync(join(IMAGE, 'disk.img'))) throw new Error('no image was made');
  copyFileSync(join(IMAGE, 'disk.img'), join(WORK, 'disk.img'));
  layOut();
  powerOn();
  const tried = live('try', 'demo/box.gate', '--seconds', '300', '--stay-if', 'proven', ...overrule);
  if (tried.status !== 0) throw new Error(tried.out);
  seen('the demo’s box file is tried and stays, as it stands');
  until('every rung of its three uplinks is proven', 90, proven);
  const id = running();
  if (live('save').status !== 0) throw new Error('not saved');
  seen('saved');
  // Debian's own profiles confine what serves, and let it read what it was told.
  for (const daemon of ['kea-dhcp4', 'unbound', 'chronyd'])
    until(`${daemon} serves and is confined`, 30, () =>
      ssh(`cat /proc/$(pidof ${daemon} | cut -d" " -f1)/attr/current`).out.includes('jolly-gate (enforce)'),
    );
  until(
    'a PC on tag 20 of the trunk has a lease',
    60,
    () => inside(NS.desk, `udhcpc -f -q -n -t 2 -i eth0 -s ${WORK}/hook`).status === 0,
  );
  until('and gets out', 20, () => inside(NS.desk, 'ping -q -c1 -W1 192.0.2.80').status === 0);
  until('by the fibre', 10, () => way() === 'p1');
  inside(NS.isp, 'ip link set e1 down');
  until('the fibre is cut: the harbour line takes over', 40, () => way() === 'p2');
  until('and the PC gets out', 20, () => inside(NS.desk, 'ping -q -c1 -W1 192.0.2.80').status === 0);
  inside(NS.isp, 'ip link set e2 down');
  until('the harbour line, too: the session takes over', 60, () => way() === 'ppp-garden');
  until('and the PC gets out', 20, () => inside(NS.desk, 'ping -q -c1 -W1 192.0.2.80').status === 0);
  inside(NS.isp, 'ip link set e1 up; ip link set e2 up');
  until('the fibre is back and settled', 120, () => way() === 'p1');
  const other = join(WORK, 'other.gate');
  writeFileSync(other, readFileSync('demo/box.gate', 'utf8').replaceAll('10.61.40.', '10.61.41.'));
  live('try', other, '--seconds', '150', ...overrule);
  if (running() === id) throw new Error('the trial did not begin');
  seen('another text is on trial');
  // The trial's time is the machine's, not that of a clock that somebody sets.
  for (const jump of ['+3 days', '-400 days', '+397 days']) {
    ssh(`date -s "${jump}"`);
    if (running() === id) throw new Error(`it went back as the clock jumped ${jump}`);
  }
  seen('its clock jumps, and the trial goes on');
  until('nobody stays: it went back by itself', 240, () => running() === id);
  live('try', other, '--seconds', '600', ...overrule);
  powerCut();
  powerOn();
  until('it starts with what was saved', 60, () => running() === id);
  until('and every rung is proven again', 120, proven);
  until('nothing has drifted', 30, () => live('drift').out.includes('as it was told'));
  if (live('try', other, '--seconds', '300', '--stay-if', 'proven', ...overrule).status !== 0)
    throw new Error('the other text does not stay');
  const newer = running();
  ssh('cat /dev/zero >/var/filler; cat /dev/zero >/etc/filler');
  const saved = live('save');
  powerCut();
  powerOn();
  const wanted = saved.status === 0 ? newer : id;
  until(
    `the disk is full: what it said of saving is so (${saved.out.trim()})`,
    90,
    () => running() === wanted,
  );
  ssh('rm -f /var/filler /etc/filler');
  until('and nothing has drifted', 30, () => live('drift').out.includes('as it was told'));
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
