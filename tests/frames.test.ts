/** Frames of the bench as another program reads them: every protocol that is spoken, without a fault. */
import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { mustIpv4, parseIp } from '#core/addr';
import { Bench } from '#core/bench';
import { writePcapng } from '#core/formats/pcapng';
import type { CapturedFrame } from '#core/formats/pcapng';
import { modelFrom } from '#core/testkit';

const HEAD = `box first: names 192.0.2.53 2001:db8:53::53, serves names, priority 150, twin second
zone world: upstream
zone office:
passage office > world: allow
leave any > world: as interface
far www.example: address 192.0.2.80 2001:db8:80::80, listens tcp 443
far dns1.example: address 192.0.2.53 2001:db8:53::53, resolves
switch core: at p2, carries 20, jack 1 tag 20
station pc: at core/1, address by dhcp
`;

const SITES: readonly (readonly [what: string, text: string, protocols: readonly string[]])[] = [
  [
    'DHCP on a line, a VLAN inside, IPv6 by every way',
    `interface line: on p1, zone world, address by dhcp, address6 by slaac and dhcpv6
interface desk: on p2 tag 20 pcp 3, zone office, address 10.61.20.1/24, address6 from line subnet 1, advertises,
  lends .50-.60, answers ping dns
circuit northmoor: at p1, lends 198.51.100.100-.110 in 198.51.100.0/24, block6 2001:db8:1::/64,
  lends6 2001:db8:2::/64, delegates6 2001:db8:100::/56, names 192.0.2.53 2001:db8:53::53`,
    ['ARP', 'DHCP', 'DHCPv6', 'DNS', 'ICMP', 'ICMPv6', 'TCP'],
  ],
  [
    'PPPoE on a tag, with IPv6 in the session',
    `interface line: pppoe on p1 tag 7 user "kiln" secret "clay", zone world, address by pppoe, address6 by dhcpv6
interface desk: on p2 tag 20, zone office, address 10.61.20.1/24, address6 from line subnet 2, advertises,
  lends .50-.60, answers ping dns
circuit northmoor: at p1 tag 7, pppoe "kiln" "clay" gives 203.0.113.7 peer 203.0.113.1,
  lends6 2001:db8:2::/64, delegates6 2001:db8:100::/56, names 192.0.2.53 192.0.2.54`,
    ['PPPoED', 'PPP LCP', 'PPP CHAP', 'PPP IPCP', 'PPP IPV6CP', 'DHCPv6', 'ICMPv6', 'TCP'],
  ],
  [
    'two boxes that share their addresses',
    `interface line: on p1, zone world, address 198.51.100.19/29, virtual .18 .21 id 1 with .20, gateway .17,
  address6 by slaac and dhcpv6
interface desk: on p2 tag 20, zone office, address 10.61.20.2/24, virtual .1 id 20 with .3, lends .50-.60, answers ping dns,
  address6 from line subnet 1, advertises
circuit northmoor: at p1, block 198.51.100.16/29, gateway .17, block6 2001:db8:1::/64, lends6 2001:db8:2::/64,
  delegates6 2001:db8:100::/56`,
    ['ARP', 'VRRP', 'DHCP', 'TCP'],
  ],
];

/** Faults of form, and checksums that do not fit. */
const FAULTS = [
  '_ws.malformed',
  ...['ip', 'tcp', 'udp', 'icmp', 'icmpv6', 'vrrp'].map((p) => `${p}.checksum.status == 0`),
].join(' || ');

describe('frames of the bench, read by another program', function () {
  let tshark = '';
  before(function () {
    try {
      tshark = execFileSync('which', ['tshark'], { encoding: 'utf8' }).trim();
    } catch {
      this.skip();
    }
  });

  for (const [what, text, protocols] of SITES)
    it(what, () => {
      const frames: CapturedFrame[] = [];
      const bench = new Bench(modelFrom(HEAD + text), {
        tap: (time, from, to, frame) => {
          const inbound = to.owner.name === 'first';
          const port = (inbound ? to : from).name;
          frames.push({ time, port, inbound, bytes: frame.bytes, followed: true });
        },
      }).boot();
      const pc = bench.hosts.get('pc')!;
      const [www, www6] = [mustIpv4('192.0.2.80'), parseIp('2001:db8:80::80')!];
      const asked = [
        pc.endpoints.connect(www, 443, 1460),
        pc.endpoints.connect(www6, 443, 1440),
        pc.endpoints.resolve(mustIpv4('10.61.20.1'), 'www.example', {}, undefined, 6),
        pc.endpoints.ping(www6),
        pc.endpoints.ask(www, 9999, new Uint8Array(4)),
        pc.endpoints.ask(www6, 9999, new Uint8Array(4)),
      ];
      bench.wait(() => asked.every((a) => a.done), 9000);
      expect(asked.map((a) => a.result)).to.deep.equal([
        ...Array<string>(4).fill('answered'),
        'refused',
        'refused',
      ]);
      const folder = mkdtempSync(join(tmpdir(), 'gate-'));
      const file = join(folder, 'bench.pcapng');
      writeFileSync(
        file,
        writePcapng(frames, () => 'on the bench'),
      );
      const checked = ['ip', 'tcp', 'udp'].flatMap((p) => ['-o', `${p}.check_checksum:TRUE`]);
      const run = (...args: string[]) =>
        execFileSync(tshark, ['-r', file, ...checked, ...args], {
          encoding: 'utf8',
          stdio: ['ignore', 'pipe', 'ignore'],
        });
      const bad = run('-Y', FAULTS);
      const kinds = new Set(run('-T', 'fields', '-e', '_ws.col.Protocol').trim().split('\n'));
      const places = run(
        '-T',
        'fields',
        '-e',
        'frame.interface_name',
        '-e',
        'vlan.id',
        '-e',
        'vlan.priority',
      );
      rmSync(folder, { recursive: true });
      expect(bad).to.equal('');
      expect([...kinds]).to.include.members([...protocols]);
      expect(places.split('\n').filter((p) => p)).to.have.length(frames.length);
      expect(places).to.match(/^p2\t20\t\d$/m);
    });
});
