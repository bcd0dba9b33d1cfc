/**
 * The demo's box file on an emulated machine: real VLANs on a trunk, a real PPPoE session, ports by their names, power cuts,
 * clocks that jump, a full disk.
 */
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  NS,
  WORK,
  inside,
  live,
  must,
  powerCut,
  powerOn,
  running,
  seen,
  serve,
  ssh,
  story,
  until,
} from './machine';

function layOut(): void {
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
story(() => {
  layOut();
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
  // The provider's web server sends packets of 1500 bytes, and never hears that the session takes 1492.
  until(
    'and 20 MB come through it, though no larger packet does',
    60,
    () => inside(NS.desk, 'curl -sS -m 280 http://192.0.2.80/large | wc -c').out.trim() === '20000000',
  );
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
  // A slow, lossy way to the box, in both directions together.
  for (const delay of [50, 200]) {
    ssh(`tc qdisc replace dev p8 root netem delay ${delay}ms loss 1%`);
    const text = join(WORK, `slow-${delay}.gate`);
    writeFileSync(text, readFileSync('demo/box.gate', 'utf8').replaceAll('10.61.40.', `10.61.${delay}.`));
    const stays = live('try', text, '--seconds', '600', '--stay-if', 'proven', ...overrule);
    if (stays.status !== 0) throw new Error(stays.out);
    seen(`over ${delay} ms with 1 % loss another text is tried, proven, and stays`);
  }
  ssh('tc qdisc del dev p8 root');
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
});
