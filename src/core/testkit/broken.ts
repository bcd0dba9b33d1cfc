/** Generated sites with something wrong in them: small offices after a few mistakes that people make. */
import fc from 'fast-check';
import { anySite } from './sites';

const pick = <T>(...items: readonly T[]) => fc.constantFrom(...items);

/** Words that mistakes put in place of others, by what they replace. */
const SWAPS: readonly (readonly [RegExp, readonly string[]])[] = [
  [
    /gateway \S+?(?=,|\n)/,
    ['gateway .30', 'gateway 203.0.113.99', 'gateway .16', 'gateway .18', 'gateway .17 onlink'],
  ],
  [
    /address 198\.51\.100\.18\/29/,
    [
      'address 198.51.100.18',
      'address 198.51.100.16/29',
      'address 127.0.0.9/8',
      'address 198.51.100.18/30',
      'address by dhcp',
      'address 224.0.0.5/24',
    ],
  ],
  [
    /address 10\.61\.2\.1\/24/,
    [
      'address 10.61.1.9/24',
      'address 10.61.2.0/24',
      'address 10.61.2.255/24',
      'address 10.61.1.1/25',
      'address 10.61.2.1/28',
      'address 10.61.2.10/24',
      'address 10.61.2.1',
    ],
  ],
  [
    /address 10\.61\.1\.1\/24/,
    [
      'address 10.61.1.1/29',
      'address 10.61.1.10/24',
      'address 169.254.1.1/16',
      'address 10.61.1.1/24, also 10.61.40.1/24',
    ],
  ],
  [/on p3 tag 10/, ['on p3 tag 20', 'on p3 tag 5000', 'on p5', 'on p3 tag 77', 'on p3', 'bridge p3 p6']],
  [/on p5,/, ['on p6,', 'on p1,', 'bridge p5 p6,', 'bridge p5,', 'on p5 tag 7,', 'bridge p5 p5,']],
  [
    /lends \.50-\.60/,
    [
      'lends .60-.50',
      'lends .1-.20',
      'lends 10.61.77.50-.60',
      'lends .9-.11',
      'lends .250-.252, keeps .250 for 02:61:00:00:00:09, keeps .250 for 02:61:00:00:00:0a',
      'lends .50-.51 for 2h gateway .99',
    ],
  ],
  [/zone world,/, ['zone nowhere,', 'zone office,', '']],
  [/zone (office|shop|lab|guests),/, ['zone world,', 'zone wrold,', '', 'zone dmz1,']],
  [/answers ping\b/, ['answers ping ssh https', 'answers http snmp', 'answers dns']],
  [/as interface/, ['unchanged', 'as 192.0.2.9', 'never', 'as 10.61.1.1']],
  [/allow/, ['drop', 'allow tcp 443']],
  [/jack 1 tag 10/, ['jack 9 tag 10', 'jack 1 tag 99']],
  [/carries 10 20/, ['carries 20', 'native 10, carries 10 20']],
  [/core\/1,/, ['core/2,', 'core/8,', 'p9,']],
  [/10\.61\.1\.10 tcp/, ['10.61.1.99 tcp', '10.61.88.1 tcp']],
  [/tcp 443 >/, ['tcp 443-445 >', 'udp 443 >', 'tcp 443 >']],
  [/198\.51\.100\.19/, ['203.0.113.200', '198.51.100.17', '10.61.9.9']],
  [/ guard/, [' mtu 9000', ' mss off, mtu 1400', ' off']],
];

/** Statements that mistakes add. */
const MORE = [
  'interface twin: on p5, zone office, address 10.61.90.1/24, lends .50-.99 for 1h, keeps .60 for 02:61:00:00:00:66 "twin", answers ping ssh, names 192.0.2.53, mtu 1400',
  'interface twin: on p3 tag 10, zone shop, address 10.61.91.1/24, answers https',
  'interface same: on p5, zone office, address 10.61.1.1/24',
  'table main: route 10.70.0.0/16 via 10.61.1.5, route 10.70.0.0/16 via 10.61.2.5 distance 9, route 10.71.0.0/16 via 10.99.0.1',
  'table main: route 0.0.0.0/0 via 198.51.100.17 on fibre',
  'box b: names 192.0.2.53 9.9.9.9',
  'box b: serves names',
  'zone dmz1: dmz',
  'zone spare:',
  'known idle: 10.61.1.77',
  'known where: 10.61.1.0/24',
  'passage any > any: allow',
  'passage where > world: allow',
  'leave 10.61.1.0/24 > world: as interface',
  'leave any > world: as interface',
  'leave office > fibre: as 198.51.100.20',
  'door again: 198.51.100.19 tcp 443 > 10.61.1.10',
  'door odd: 198.51.100.20 tcp 8000-8010 > 10.61.1.10 tcp 9000-9005',
  'door box: fibre tcp 22 > 10.61.1.10',
  'station guest: at p5, address 10.61.1.12/16, gateway 10.61.1.9',
  'station thief: at p6, address 10.61.2.1/24, mac 02:61:00:00:00:66',
  'switch round: at round/1, native 1, carries 30, jack 1 tag 30',
  'switch left: at right/1, carries 30, jack 1 tag 1',
  'switch right: at left/1, carries 30, jack 1 tag 1',
  'circuit second: at p1, block 198.51.100.16/28, gateway .17, names 192.0.2.54',
  'circuit named: at p2, block 203.0.113.16/29, gateway .17, names 192.0.2.54',
  'port p1: off',
  'port p5: mtu 1400',
  'expect office reaches nobody',
  'expect office reaches internet',
];

/** The text of a small site after one to four mistakes. */
export const anyBrokenSite: fc.Arbitrary<string> = fc
  .tuple(
    anySite(),
    fc.array(fc.tuple(pick(...SWAPS), fc.nat(30)), { minLength: 0, maxLength: 3 }),
    fc.array(pick(...MORE), { maxLength: 3 }),
    fc.boolean(),
  )
  .map(([site, swaps, more, boxed]) => {
    const begun = boxed ? `box edge: names 192.0.2.53, time 192.0.2.53\n${site}` : site;
    const text = swaps.reduce((t, [[from, to], n]) => t.replace(from, to[n % to.length]!), begun);
    return `${text}${more.map((m) => `${m}\n`).join('')}far dns1.example: address 192.0.2.53, resolves\n`;
  });
