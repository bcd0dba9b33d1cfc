/**
 * A Debian that somebody else has configured, on an emulated machine: ifupdown with a DHCP client of its own, rules that
 * nftables.service loads, a bridge of containers, a tunnel, ssh at another port. It is met, told, started again, and given back.
 */
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  NS,
  WORK,
  inside,
  live,
  powerCut,
  powerOn,
  running,
  seen,
  serve,
  ssh,
  story,
  until,
} from './machine';

const UPSTREAM =
  '-k -C /dev/null --no-resolv --no-hosts --user=root --pid-file= --interface=e1 --listen-address=192.0.2.53 --bind-interfaces --dhcp-authoritative --no-ping --address=/example.com/192.0.2.80 --dhcp-range=198.51.100.18,198.51.100.22,2m --dhcp-option=3,198.51.100.17 --dhcp-option=6,192.0.2.53';

/** What somebody has told this machine before us. */
const BEFORE = `cat >/etc/network/interfaces <<X
source /etc/network/interfaces.d/*
auto lo
iface lo inet loopback
allow-hotplug p1
iface p1 inet dhcp
allow-hotplug p3
iface p3 inet static
  address 10.61.20.1/24
X
cat >/etc/nftables.conf <<X
#!/usr/sbin/nft -f
flush ruleset
table inet filter {
  chain forward { type filter hook forward priority 5; policy accept; tcp dport 25 drop; }
}
table ip nat {
  chain out { type nat hook postrouting priority 100; oifname p1 masquerade; }
}
X
echo net.ipv4.ip_forward=1 >/etc/sysctl.d/router.conf
cat >/etc/systemd/system/others.service <<X
[Unit]
After=lab.service networking.service
[Service]
Type=oneshot
RemainAfterExit=yes
ExecStart=/usr/local/sbin/others
[Install]
WantedBy=multi-user.target
X
cat >/usr/local/sbin/others <<X
#!/bin/sh
ip netns add c1
ip link add ctrs type bridge
ip addr add 10.88.0.1/16 dev ctrs
ip link set ctrs up
ip link add c1 type veth peer name eth0 netns c1
ip link set c1 master ctrs up
ip -n c1 addr add 10.88.0.2/16 dev eth0
ip -n c1 link set eth0 up
ip -n c1 route add default via 10.88.0.1
wg genkey >/run/wg.key
ip link add wg0 type wireguard
wg set wg0 private-key /run/wg.key listen-port 51820
ip addr add 10.77.0.1/24 dev wg0
ip link set wg0 up
X
chmod 755 /usr/local/sbin/others
systemctl -q enable nftables others
sync`;

const DRAFT = `zone world: upstream
zone office:
zone stewards: management
interface fibre: on p1, zone world, address by dhcp
interface desk: on p3, zone office, address 10.61.20.1/24, answers ping
interface console: on p8, zone stewards, address 10.61.99.1/26, answers ping ssh from stewards
passage office > world: allow
passage stewards > any: allow
leave any > world: as interface
`;

const out = (line: string): string => ssh(line).out.trim();
const is = (what: string, got: string, wanted: RegExp): void => {
  if (!wanted.test(got)) throw new Error(`${what}: it says ${got}`);
  seen(what);
};
/** What answers for the ways out of this machine: clients of DHCP, addresses of p1, default routes that every packet without a mark finds. */
const ways = (): string =>
  out('echo $(pgrep -c "^u?dhc") $(ip -4 -o addr show dev p1 | wc -l) $(ip -4 route show default | wc -l)');
const reaches = (ns: string): boolean => inside(ns, 'ping -q -c1 -W2 192.0.2.80').status === 0;
const containerReaches = (): boolean => ssh('ip netns exec c1 ping -q -c1 -W2 192.0.2.80').status === 0;

story(() => {
  serve(NS.isp, 'dnsmasq', ...UPSTREAM.split(' '));
  serve(NS.isp, 'python3', '-m', 'http.server', '--bind', '192.0.2.80', '--directory', WORK, '80');
  inside(NS.sw, 'ip addr add 10.61.20.50/24 dev trunk; ip route add default via 10.61.20.1');
  const text = join(WORK, 'met.gate');
  writeFileSync(text, DRAFT);

  const told = ssh(BEFORE);
  if (told.status !== 0) throw new Error(told.out);
  powerCut();
  powerOn();
  until('their desk gets out, by their client, address and rules', 120, () => reaches(NS.sw));
  until('and their container', 60, containerReaches);
  is('they have one client, one address and one way out', ways(), /^1 1 1$/);

  const met = live('meet');
  if (met.status !== 0) throw new Error(met.out);
  is('who configures p1 is told', met.out, /p1: ifupdown configures it \(\/etc\/network\/interfaces\)/);
  is('and that nftables.service loads rules that flush ours', met.out, /nftables/);
  const refused = live('try', text, '--seconds', '600');
  is('nothing is tried while two would configure p1', refused.out, /live adopt --take p1/);
  is('nothing has changed by it', ways(), /^1 1 1$/);

  const adopted = live('adopt', '--take', 'p1,p3');
  if (adopted.status !== 0) throw new Error(adopted.out);
  const tried = live('try', text, '--seconds', '600', '--stay-if', 'proven');
  if (tried.status !== 0) throw new Error(tried.out);
  seen('p1 and p3 are handed over: it is tried, proven, and stays');
  is(
    'the container’s bridge is told by name',
    tried.out,
    /ctrs has an address and the text does not name it/,
  );
  is('and the tunnel', tried.out, /wg0 has an address and the text does not name it/);
  until('their chain that judges what we forward is told', 30, () =>
    live('drift').out.includes('inet filter, judges the same packets (forward)'),
  );
  const id = running();
  until('there is one address and one way out, and no client of theirs', 60, () => ways() === '0 1 1');
  until('the desk gets out', 60, () => reaches(NS.sw));
  if (containerReaches()) throw new Error('the container gets out, which nobody said');
  seen('the container does not: no statement lets it');

  ssh('systemctl reload nftables');
  until('nftables.service was loaded again, and our rules are back', 30, () =>
    out('nft list tables').includes('gate'),
  );
  until('and the desk gets out', 60, () => reaches(NS.sw));
  if (live('save').status !== 0) throw new Error('not saved');
  powerCut();
  powerOn();
  until('after a power cut it runs what was saved', 90, () => running() === id);
  until(
    'with one address by a lease of ours, one way out and no client of theirs',
    120,
    () => ways() === '0 1 1',
  );
  until('the desk gets out', 60, () => reaches(NS.sw));
  is('their rules and ours are there', out('nft list tables'), /inet filter[^]*gate|gate[^]*inet filter/);
  // Longer than the lease: somebody asks for it again.
  inside(NS.isp, 'sleep 150');
  is('the lease outlives its two minutes', ways(), /^0 1 1$/);

  ssh('sed -i "s/^#*Port .*//; 1i Port 2222" /etc/ssh/sshd_config && systemctl restart ssh');
  is('ssh has moved: at the old port nobody is reached, and why is told', live('state').out, /refus|reached/);
  inside(NS.pc, `sed -i '1a Port 2222' ${WORK}/config`);
  const lockout = live('try', text, '--seconds', '600');
  is('a text that lets nobody in at the new port is refused', lockout.out, /2222/);
  writeFileSync(text, DRAFT.replace('answers ping ssh from', 'answers ping tcp 2222 from'));
  const moved = live('try', text, '--seconds', '600', '--stay-if', 'proven');
  if (moved.status !== 0) throw new Error(moved.out);
  seen('one that does is tried, proven, and stays');

  const removed = ssh('/usr/local/sbin/jolly-gate-hinge remove');
  if (removed.status !== 0) throw new Error(removed.out);
  until('nothing of ours runs: theirs is as it was', 120, () => ways() === '1 1 1');
  until('their desk gets out', 120, () => reaches(NS.sw));
  until('and their container', 60, containerReaches);
  powerCut();
  powerOn();
  until('and after a power cut', 120, () => ways() === '1 1 1' && reaches(NS.sw) && containerReaches());
});
