import { expect } from 'chai';
import fc from 'fast-check';
import { readFileSync } from 'node:fs';
import { parseDocument } from '#core/notation';
import { anySite, modelFrom, siteFrom } from '#core/testkit';
import { deviceOf, generationOf, idOf, numbersOf, scriptOf, streamOf } from './index';

const told = (text: string) => generationOf(modelFrom(text), [{ name: 'box.gate', text }]);
const file = (text: string, name: string): string =>
  told(text).files.find((f) => f.name === name)?.text ?? '';

const OFFICE = `box edge: priority 150, twin edge-b, lowers 60 without fibre, names 192.0.2.53, time 192.0.2.123, serves names
zone world: upstream
zone office:
interface fibre: on p1, zone world, address 198.51.100.18/29, gateway .17
interface desk: on p3 tag 20, zone office, address 10.61.20.1/24, lends .50-.60, answers ping dns
`;

/** Two boxes, one uplink of which is the first one's alone. */
const TWO = `interface outer: on p2, zone world, address 198.51.100.27/29, virtual .26 id 1 with .29, gateway .25
interface shop: on p4, zone office, address 10.61.40.2/24, virtual .1 id 40 with .3, lends .100-.110
leave any > outer: as 198.51.100.28
`;

/** What a text has in it, where a box is told it, and why that matters. */
const ROWS: readonly (readonly [why: string, text: string, file: string, has: string | RegExp])[] = [
  [
    'a host by its suffix, whatever prefix is delegated',
    'interface v6: on p6, zone office, address 10.61.6.1/24, address6 from fibre subnet 6, advertises\npassage world > office: allow tcp 443, to ::53 of v6\n',
    'gate.nft',
    /oifname "p6" ip6 daddr & ::ffff:ffff:ffff:ffff == ::53 tcp dport 443 counter/,
  ],
  ['a port that is off goes down', 'port p7: off\n', 'links', 'p7 port - - down 1500 - - -'],
  [
    'an aggregation is there before its ports, which go into it',
    'port up: over p5 p6 fast\nport p6: off\ninterface agg: on up tag 7, zone studio, address 10.61.7.1/24\n',
    'links',
    /^up bond lacp-fast - up 1500 - - -\n(.*\n)*p5 port - - up - - up -\np6 port - - down - - up -\n(.*\n)*up\.7 vlan up 7 up 1500 - - -$/m,
  ],
  ['a VLAN brings its port up', '', 'links', /^p3 port - - up .*\n(.*\n)*p3\.20 vlan p3 20 up 1500 - - -$/m],
  [
    'a tagged bridge has a VLAN on each port',
    'interface lan: bridge p5 p6 tag 30, zone office, address 10.61.30.1/24\n',
    'links',
    /^br-lan bridge[^]*p5\.30 vlan p5 30 up 1500 - br-lan -\np6\.30 vlan p6 30 up 1500 - br-lan -$/m,
  ],
  [
    'the priority of frames',
    'interface v: on p3 tag 9 pcp 5, zone office\n',
    'links',
    /p3\.9 vlan p3 9 .* 5$/m,
  ],
  [
    'an interface has its own MAC',
    'interface m: on p9, zone office, mac 02:61:00:00:00:09\n',
    'links',
    /^p9 port - - up \S+ 02:61:00:00:00:09/m,
  ],
  [
    'secondary addresses keep their order',
    'interface n: on p9, zone office, address 10.9.0.1/24, also .3 .2\n',
    'addresses',
    'p9 10.9.0.1/24\np9 10.9.0.3/24\np9 10.9.0.2/24\n',
  ],
  [
    'a dead uplink loses its routes, its own table keeps them',
    '',
    'routes',
    /^4 fibre default via 198\.51\.100\.17 dev p1 metric \d+\n4 - default via 198\.51\.100\.17 dev p1 table \d+/m,
  ],
  [
    'a gateway off the subnet is on the link where the text says so',
    'interface s: on p9, zone world, address 203.0.113.9/32, gateway 203.0.113.1 onlink\n',
    'routes',
    /default via 203\.0\.113\.1 dev p9 .*onlink/,
  ],
  [
    'a route that drops',
    'table main: route 10.70.0.0/16 drop\n',
    'routes',
    /^4 - unreachable 10\.70\.0\.0\/16 metric/m,
  ],
  [
    'what an uplink learns is copied to where it counts, by its priority',
    'interface harbour: on p2, zone world, address by dhcp, priority 2\n',
    'learned',
    /^4 harbour p2 \d+ 254 1 10000200 yes$/m,
  ],
  [
    'networkd learns into a table of its own',
    'interface harbour: on p2, zone world, address by dhcp, address6 by slaac and dhcpv6\n',
    'network/10-gate-harbour.network',
    /DHCP=yes[^]*IPv6AcceptRA=yes[^]*RouteTable=77[^]*UseAutonomousPrefix=yes/,
  ],
  [
    'a delegated network is handed on',
    `interface harbour: on p2, zone world, address6 by dhcpv6
interface inner: on p9, zone office, address6 from harbour subnet 3, advertises\n`,
    'network/10-gate-inner.network',
    /IPv6SendRA=yes\nDHCPPrefixDelegation=yes[^]*UplinkInterface=p2\nSubnetId=3/,
  ],
  [
    'pools with what they tell',
    '',
    'kea4-main.json',
    /"pool": "10\.61\.20\.50 - 10\.61\.20\.60"[^]*"routers",\s*"data": "10\.61\.20\.1"[^]*"domain-name-servers",\s*"data": "10\.61\.20\.1"/,
  ],
  ['names served go on to the resolvers of the box', '', 'unbound.conf', 'forward-addr: 192.0.2.53'],
  ['who serves names asks itself', '', 'resolv', 'nameserver 127.0.0.1'],
  ['a clock', '', 'chrony.conf', 'server 192.0.2.123 iburst'],
  [
    'a session logs in with what is in the text, quotes and all',
    'interface g: pppoe on p4 tag 7 user "kiln" secret "a \\"b\\" c", zone world, address by pppoe\n',
    'ppp/g',
    /p4\.7\nuser "kiln"\npassword "a \\"b\\" c"\nifname ppp-g/,
  ],
  [
    'segments fit a session',
    'interface g: pppoe on p4 user "k" secret "s", zone world, address by pppoe\n',
    'gate.nft',
    'oifname "ppp-g" meta nfproto ipv4 tcp flags & (syn | rst) == syn tcp option maxseg size set 1452',
  ],
  [
    'watches with their times',
    'interface w: on p2, zone world, address 203.0.113.2/24, gateway .1, watch 192.0.2.1 192.0.2.2 every 2s lost 4, settle 60s\n',
    'watches',
    /^w p2 \d+ 2 4 60 203\.0\.113\.1 - 192\.0\.2\.1,192\.0\.2\.2 -$/m,
  ],
  [
    'a statement counts, and logs where it says so, no more than a box can keep',
    'passage office > world: allow tcp 80 443, log\n',
    'gate.nft',
    `    oifname @zone/world tcp dport { 80, 443 } limit rate 10/second burst 50 packets log prefix "gate passage/office/world " group 77
    oifname @zone/world tcp dport { 80, 443 } counter name "passage/office/world" accept comment "passage office > world"`,
  ],
  [
    'who leaves, and is sent, by what a name leads to',
    'known kiln: name kiln.example\nleave kiln > fibre: as 198.51.100.19\nsend kiln by fibre:\n',
    'gate.nft',
    /ip saddr @named4\/kiln meta mark set [^]*oifname "p1" ip saddr @named4\/kiln snat ip to 198\.51\.100\.19/,
  ],
  [
    'a prefix is shown as another packet by packet, sums and all',
    'interface in6: on p9, zone office, address6 fd61:20:30:1::1/64\nleave fd61:20:30::/48 > fibre: as 2001:db8:2200::/48\n',
    'gate.nft',
    /chain npt\/0\/out \{[^]*@nh,112,16 0x0-0x5206 @nh,120,8 <= 0x7 [^\n]*@nh,64,48 set 0x20010db82200 accept[^]*iifname "p1" ip6 daddr 2001:db8:2200::\/48 fib daddr type != local goto npt\/0\/in/,
  ],
  [
    'of two boxes each holds its own address, and what is shared comes and goes',
    TWO,
    'addresses',
    /^p2 198\.51\.100\.27\/29\np4 10\.61\.40\.2\/24\n$/m,
  ],
  [
    'doors and leaves are the active one’s, too',
    TWO,
    'shared',
    'p2 198.51.100.26/29\np2 198.51.100.28/32\np4 10.61.40.1/24\n',
  ],
  [
    'all that is shared goes together, and a dead uplink lowers it',
    TWO,
    'keepalived.conf',
    /vrrp_sync_group all \{\n {2}group \{\n {4}outer\n {4}shop\n {2}\}\n {2}track_file \{[^]*interface p2\n {2}virtual_router_id 1\n {2}priority 150[^]*excluded \{\n {4}198\.51\.100\.28\/32 dev p2/,
  ],
  [
    'a port that is off keeps nobody from being active',
    `${TWO}port p4: off\n`,
    'keepalived.conf',
    /^(?!.*(sync_group|shop))[^]*vrrp_instance outer/s,
  ],
  ['what lowers it', TWO, 'lowers', '60 fibre\n'],
  [
    'the second box is heard, and nobody else who would be active',
    TWO,
    'gate.nft',
    'iifname "p4" ip saddr 10.61.40.3 ip daddr 224.0.0.18 meta l4proto 112 accept',
  ],
  [
    'only the active one lends, and says what is shared',
    TWO,
    'active/kea4-active.main.json',
    /"interfaces": \[\s*"p4"\s*\][^]*"routers",\s*"data": "10\.61\.40\.1"/,
  ],
  [
    'a rejection tells who asked',
    'passage office > world: reject\n',
    'gate.nft',
    /meta l4proto 6 counter name "passage\/office\/world" reject with tcp reset/,
  ],
  [
    'a moved port leads to where the service listens',
    'interface c: on p8, zone office, address 10.61.99.1/26, answers ssh 2222\n',
    'gate.nft',
    /iifname "p8" .*tcp dport 2222 redirect to :22[^]*tcp dport 22 ct original proto-dst 2222 fib daddr type local/,
  ],
  [
    'a door at a learned address follows it',
    `interface harbour: on p2, zone world, address by dhcp
door shop: harbour tcp 443 > 10.61.20.9 tcp 8443\n`,
    'gate.nft',
    /set moment\/harbour[^]*iifname @outer ip daddr @moment\/harbour tcp dport 443 .*dnat ip to 10\.61\.20\.9:8443/,
  ],
  [
    'flows are sent by a chosen uplink while it lives, else nowhere',
    'send office tcp 25 by fibre else never:\n',
    'gate.nft',
    /tcp dport 25 meta mark set 0x[0-9a-f]+ meta mark != @dead [^\n]*\n[^\n]*tcp dport 25 [^\n]*ct mark or 0xffff0000/,
  ],
  ['IPv6 stays shut where nothing speaks it', '', 'forwarding', 'net/ipv6/conf/all/forwarding 0'],
  [
    'IPv6 passes where something speaks it',
    'interface six: on p9, zone office, address6 2001:db8:61::1/64\n',
    'forwarding',
    'net/ipv6/conf/all/forwarding 1',
  ],
];

describe('a site told to a Linux box', () => {
  for (const [why, text, name, has] of ROWS)
    it(why, () => {
      const got = file(OFFICE + text, name);
      if (typeof has === 'string') expect(got).to.contain(has);
      else expect(got).to.match(has);
    });

  it('says what a Linux box cannot be told', () => {
    const codes = (text: string) => told(OFFICE + text).lacks.map((l) => l.code);
    expect(codes('')).to.deep.equal([]);
    expect(
      codes(`interface a: on p5, zone office, address 10.5.0.1/24, lends .10-.20 for 2h, lends .30-.40 for 4h
interface b: on p6, zone office, address 10.6.0.1/24, lends 10.7.0.10-.20
interface c: pppoe on p4 user "k", zone world, address by pppoe
interface d: zone office, address 10.8.0.1/24
interface e: on p7, zone office, address 10.9.0.1/24, relays 10.61.20.5
interface f: on p8, zone office, address 10.10.0.2/24, virtual .1 id 7, address6 by slaac
known kiln: name kiln.example
door k: 198.51.100.19 tcp 443 > kiln
`),
    ).to.deep.equal([
      'carrier-unread',
      'pool-homeless',
      'lease-times-differ',
      'relays',
      'secret-missing',
      'learns-where-shared',
      'door-to-name',
    ]);
  });

  it('gives every interface a device of its own, within fifteen characters', () => {
    const long = 'abcdefghijklmn';
    const site = siteFrom(
      ['a', 'b', 'c'].map((x, i) => `interface ${long}${x}: bridge p${i * 2 + 1} p${i * 2 + 2}\n`).join('') +
        'interface v: on enp130s0f1np1 tag 4000\ninterface w: on enp130s0f1np1 tag 4001\n',
    );
    const names = site.interfaces.map((i) => deviceOf(site, i));
    expect(new Set(names).size).to.equal(names.length);
    for (const name of names) expect(name).to.match(/^.{1,15}$/);
  });

  it('numbers what is there by name: an edit elsewhere moves no flow', () => {
    const names = [...Array(400).keys()].map((n) => `v${n}`);
    const text = (list: readonly string[]) =>
      list.map((n, i) => `interface ${n}: on p1 tag ${i + 1}\n`).join('');
    const all = numbersOf(siteFrom(text(names)));
    expect(new Set(names.map(all.ofInterface)).size).to.equal(400);
    const fewer = names.filter((_, i) => i % 7 !== 3);
    const some = numbersOf(siteFrom(text(fewer)));
    // Where two names meet on one number, one of them may move; of these none do.
    expect(fewer.filter((n) => all.ofInterface(n) !== some.ofInterface(n))).to.have.length.below(4);
  });

  it('is the same for the same text, is called by what is in it, and tells the text back', () => {
    fc.assert(
      fc.property(anySite(), (text) => {
        const [a, b] = [told(text), told(text)];
        expect(a).to.deep.equal(b);
        expect(a.id)
          .to.equal(idOf(a.files))
          .and.match(/^[0-9a-f]{16}$/);
        const back = a.files.find((f) => f.name === 'box.gate')!.text;
        expect(parseDocument(back, 'x').problems).to.deep.equal(parseDocument(text, 'x').problems);
        for (const f of a.files) expect(f.text === '' || f.text.endsWith('\n'), f.name).to.equal(true);
      }),
      { numRuns: 40 },
    );
  });

  it('names no statement that is not in the text, and never more often than it is', () => {
    const text = readFileSync('demo/box.gate', 'utf8');
    const nft = file(text, 'gate.nft');
    const declared = [...nft.matchAll(/^ {2}counter (\S+) /gm)].map((m) => m[1]!);
    expect(new Set(declared).size).to.equal(declared.length);
    const used = new Set([...nft.matchAll(/counter name "([^"]+)"/g)].map((m) => m[1]!));
    expect([...used].filter((u) => !declared.includes(u))).to.deep.equal([]);
    expect(declared).to.include.members(['passage/studio/world', 'door/orders', 'interface/fibre/guard']);
  });

  it('makes one script that does nothing unless all of it is there', () => {
    const g = told(OFFICE);
    const script = scriptOf(g, '#!/bin/sh\n', 'edge\nrm -rf /', ['a\nb']);
    expect(
      script
        .split('\n')
        .filter((l) => /^[^#\s]/.test(l))
        .at(-1),
    ).to.equal('main');
    expect(script.slice(0, script.indexOf('main()'))).to.match(/^(#.*\n)+$/);
    expect(script).to.contain(streamOf(g));
  });
});
