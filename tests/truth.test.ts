/**
 * Bench and reach must say the same of any site: of flows drawn at random, down to the statement that decides, and of
 * promises. `npm run truth` asks tens of thousands of sites.
 */
import { expect } from 'chai';
import fc from 'fast-check';
import { formatIp } from '#core/addr';
import { contextOf, findAll, findOnly } from '#core/findings';
import { prove } from '#core/proof';
import { ReachMemory, ReachTable, judgeOnSets } from '#core/reach';
import {
  anySite,
  compareAtBox,
  comparePromises,
  EVERYTHING,
  reachFrom,
  reachOf,
  siteFrom,
} from '#core/testkit';
import { howMany } from '#core/testkit';

describe('bench and reach', () => {
  it('agree on flows drawn at random', () => {
    fc.assert(
      fc.property(anySite(EVERYTHING), fc.integer({ min: 1, max: 1e6 }), (text, seed) => {
        expect(compareAtBox(siteFrom(text), seed, 40)).to.deep.equal([]);
      }),
      { numRuns: howMany(80, 150), seed: 20261123 },
    );
  });

  it('agree on promises of every form', () => {
    fc.assert(
      fc.property(anySite({ ...EVERYTHING, promises: 6 }), (text) => {
        expect(comparePromises(siteFrom(text))).to.deep.equal([]);
      }),
      { numRuns: howMany(120, 250), seed: 20261124 },
    );
  });
});

describe('what bench and reach once differed in', () => {
  const LINE = `zone world: upstream
zone lab:
interface fibre: on p1, zone world, address 198.51.100.18/29, gateway .17
circuit northmoor: at p1, block 198.51.100.16/29, gateway .17
interface lab: on p5, zone lab, address 10.61.1.1/24
station pc: at p5, address 10.61.1.10/24, gateway 10.61.1.1
far www.example: address 192.0.2.80
`;
  const rows: readonly (readonly [string, string])[] = [
    [
      'a door to another port before one of the whole address: what comes by the first is another service',
      `door d0: 198.51.100.18 tcp 443 > 10.61.1.10 tcp 8443
door d1: fibre > 10.61.1.10
expect internet never reaches lab tcp 443
expect internet never reaches lab tcp 8443
`,
    ],
    [
      'a promise without a service holds by a port that no rule names',
      `passage any > any: drop tcp 1-65535
passage any > any: reject udp 53 ping
passage any > any: allow
leave any > world: as interface
expect lab reaches internet
`,
    ],
    [
      'a whole protocol that is asked for is a port that somebody can listen on',
      `passage any > any: reject tcp 1-65535
passage any > any: allow
leave any > world: as interface
expect pc reaches internet tcp
expect pc reaches internet proto 6
expect pc never reaches internet tcp
`,
    ],
    [
      'one address stands for whoever answers at it: the box, or whom a door there leads to',
      `zone tills:
interface tills: on p6, zone tills, address 10.61.2.1/24, answers ssh
station till: at p6, address 10.61.2.10/24, gateway 10.61.2.1
door d0: 198.51.100.19 tcp 80 > 10.61.1.10
door d1: 10.61.2.50 tcp 80 > 10.61.1.10
passage lab > tills: allow
expect tills reaches 10.61.1.1 ssh
expect tills reaches 10.61.1.1
expect tills never reaches 10.61.1.1 ping
expect lab reaches 10.61.1.1 ssh
expect internet reaches 198.51.100.19 tcp 80
expect internet reaches 198.51.100.19
expect internet never reaches 198.51.100.19
expect internet never reaches 198.51.100.20
expect lab reaches 10.61.2.50 tcp 80
expect lab never reaches 10.61.2.50 tcp 22
expect 198.51.100.20 never reaches lab
`,
    ],
    [
      'a door that is closed to whoever asks does not hide that the box itself answers',
      `zone tills:
interface tills: on p6, zone tills, address 10.61.2.1/24, also .2, answers ping
station till: at p6, address 10.61.2.10/24, gateway 10.61.2.1
door d0: 10.61.2.2 > 10.61.1.10
expect tills answers ping from tills
`,
    ],
    [
      'a refusal from behind a door comes home',
      `door d0: fibre udp 53 > 10.61.1.10
expect internet reaches 198.51.100.18
`,
    ],
    [
      'who sits behind another router leaves as themselves where no statement speaks of them',
      `table main: route 10.70.0.0/16 via 10.61.1.10
leave 10.61.1.0/24 > world: as interface
passage lab > world: allow
expect lab leaves as 198.51.100.18
`,
    ],
  ];
  for (const [why, text] of rows)
    it(why, () => expect(comparePromises(siteFrom(LINE + text))).to.deep.equal([]));

  // A network of another table with the very same addresses.
  const TWIN = `${LINE}zone shop:
table blue:
interface shop: on p6, zone shop, table blue, address 10.61.1.1/24, answers ping
passage any > any: allow
known printer: 10.61.1.10
known nobody: 10.61.9.9
`;
  const PC = 'station shop-pc: at p6, address 10.61.1.10/24, gateway 10.61.1.1\n';
  const twins: readonly (readonly [why: string, more: string, holds: readonly boolean[]])[] = [
    [
      'an address where no network is stands for nobody, so that nothing can be promised of it',
      'expect internet never reaches 10.61.9.9\nexpect internet never reaches nobody\n',
      [false, false],
    ],
    [
      'an address in two tables is two hosts, each of which must get there',
      'expect printer reaches internet\nexpect fibre answers ping from printer\n',
      [false, false],
    ],
    [
      'the same address in another table is not the interface that shall answer',
      'expect lab answers ping from shop\nexpect shop answers ping from shop\n',
      [false, true],
    ],
    [
      'nobody asks somebody else who has their own address',
      `${PC}expect printer never reaches station shop-pc\n`,
      [false],
    ],
    [
      'a door is reached where somebody is behind it, in whichever table it leads to',
      `${PC}door d0: 198.51.100.19 > 10.61.1.10\nexpect internet reaches door d0\n`,
      [true],
    ],
    [
      'who was put behind a door for another question does not count as being there',
      'door d0: 198.51.100.19 > 10.61.1.10\nexpect shop reaches door d0\nexpect internet reaches printer\n',
      [false, false],
    ],
    [
      'what a statement of sending lets out counts as some service',
      'send shop tcp 8000-8010 by fibre:\nleave any > world: as interface\nexpect shop reaches internet\n',
      [true],
    ],
  ];
  for (const [why, more, holds] of twins)
    it(why, () => {
      const site = siteFrom(TWIN + more);
      expect(comparePromises(site)).to.deep.equal([]);
      const reach = reachOf(site);
      expect(site.expects.map((e) => judgeOnSets(reach, e)?.holds)).to.deep.equal(holds);
    });

  it('two networks with the same addresses lend the same addresses', () => {
    const site = siteFrom(
      TWIN.replace('address 10.61.1.1/24, answers', 'address 10.61.1.1/24, lends .10-.20, answers') +
        'station guest: at p6, address by dhcp\n',
    );
    const { leases } = prove(reachOf(site));
    expect(leases.map((l) => l.address)).to.deep.equal(['10.61.1.10']);
    expect(formatIp(reachOf(site).model.prospects.stations.get('guest')!.address)).to.equal('10.61.1.10');
  });
});

describe('what a finding says is lost', () => {
  const rows: readonly (readonly [string, string, string])[] = [
    [
      'address-special',
      'interface lab: on p5, zone lab, address 224.0.1.1/24',
      '224.0.1.10/24, gateway 224.0.1.1',
    ],
    [
      'address-special',
      'interface lab: on p5, zone lab, address 127.0.0.1/24',
      '127.0.0.5/24, gateway 127.0.0.1',
    ],
    ['address-special', 'interface lab: on p5, zone lab, address 0.1.1.1/24', '0.1.1.5/24, gateway 0.1.1.1'],
    [
      'address-duplicate',
      'interface lab: on p5, zone lab, address 10.61.1.1/24',
      '10.61.1.1/24, gateway 10.61.1.1',
    ],
    [
      'tag-duplicate',
      'interface a: on p5, zone lab, address 10.61.2.1/24\ninterface lab: on p5, zone lab, address 10.61.1.1/24',
      '10.61.1.5/24, gateway 10.61.1.1',
    ],
    [
      'bridge-member-twice',
      'interface a: bridge p4 p5, zone lab, address 10.61.2.1/24\ninterface lab: bridge p5 p6, zone lab, address 10.61.1.1/24',
      '10.61.1.5/24, gateway 10.61.1.1',
    ],
    [
      'mtu-too-big',
      'port p5: mtu 1400\ninterface lab: on p5, zone lab, address 10.61.1.1/24, mtu 1500',
      '10.61.1.5/24, gateway 10.61.1.1',
    ],
  ];
  for (const [code, inside, station] of rows)
    it(`is lost on the bench: ${code}, ${station}`, () => {
      const site = siteFrom(`box b: names 192.0.2.80, serves names
zone world: upstream
zone lab:
interface fibre: on p1, zone world, address 198.51.100.18/29, gateway .17
${inside}
station pc: at p5, address ${station}, names 192.0.2.80
far www.example: address 192.0.2.80, listens tcp 443, resolves
passage lab > world: allow
leave any > world: as interface
`);
      expect(findAll(contextOf(reachOf(site))).map((f) => f.code)).to.include(code);
      const desk = prove(reachOf(site)).desks.find((d) => d.station === 'pc');
      expect(desk?.stages.some((s) => s.result === 'fail')).to.equal(true);
    });
});

describe('the memory of the reach', () => {
  const told = (table: ReachTable): string[] =>
    [...table.all()].map(({ from, to, cell }) =>
      [
        `${from.kind} ${from.name} > ${to.kind} ${to.name}: ${cell.verdict}`,
        cell.services.key,
        cell.everywhere.key,
        cell.leavesAs,
        table.statementsOf(cell).map((s) => `${s.subject}:${s.line}`),
        cell.flows.map((b) => `${b.sources.key} ${b.destinations.key} ${b.services.key}`),
      ].join(' | '),
    );

  const OFFICE = `zone world: upstream
zone lab:
zone tills:
zone guests:
interface fibre: on p1, zone world, address 198.51.100.18/29, gateway .17
circuit northmoor: at p1, block 198.51.100.16/29, gateway .17
interface lab: on p5, zone lab, address 10.61.1.1/24
interface tills: on p6, zone tills, address 10.61.2.1/24
interface guests: on p7, zone guests, address 10.61.3.1/24
station pc: at p5, address 10.61.1.10/24, gateway 10.61.1.1
station odd: at p5, address 10.61.1.200/25, gateway 10.61.1.1
station till: at p6, address 10.61.2.10/24, gateway 10.61.2.1
far www.example: address 192.0.2.80
leave any > world: as interface
passage lab > any: allow
`;
  const rows: readonly (readonly [what: string, more: string, was: string, becomes: string])[] = [
    [
      'a route without a next hop, to whom no router on the line is sent',
      'passage world > lab: allow\ntable main: route 203.0.113.0/24 by fibre',
      '203.0.113.0/24 by',
      '203.0.114.0/24 by',
    ],
    ['a door amid a network', 'door in: 10.61.2.50 tcp 80 > 10.61.1.10', 'tcp 80', 'tcp 81'],
    [
      'a door to where an answer goes that the box carries',
      'passage lab > lab: allow\ndoor in: 10.61.1.10 udp 50000 > 10.61.2.10 udp 50000',
      'lab: allow\ndoor in: 10.61.1.10 udp 50000',
      'lab: allow\ndoor in: 10.61.1.10 udp 500',
    ],
    [
      'who may leave after a door',
      'door in: 198.51.100.19 tcp 80 > 10.61.2.10\nleave guests > tills: never',
      'leave guests',
      'leave lab',
    ],
    [
      'where the door before another leads',
      'passage guests > tills: allow\ndoor a: 198.51.100.19 tcp 80 > 10.61.1.10\ndoor b: 198.51.100.19 tcp 80 > 10.61.2.10',
      'on p5, zone lab',
      'on p5, zone tills',
    ],
    ['which host may not leave', 'leave 10.61.1.10 > world: never', 'leave 10.61.1.10', 'leave 10.61.1.11'],
    ['a door at the address of the box itself', 'door in: fibre tcp 22 > 10.61.1.10', 'tcp 22', 'tcp 23'],
  ];
  for (const [what, more, was, becomes] of rows)
    it(`knows by ${what}`, () => {
      // Statements of leaving count in their order: what is more comes first.
      const text = OFFICE.replace('leave any', `${more}\nleave any`);
      expect(text).to.contain(was);
      const [before, after] = [text, text.replace(was, becomes)].map((t) => reachFrom(t));
      const memory = new ReachMemory();
      const first = told(new ReachTable(before!, memory));
      const fresh = told(new ReachTable(after!));
      expect(fresh).not.to.deep.equal(first);
      expect(told(new ReachTable(after!, memory))).to.deep.equal(fresh);
    });

  it('gives the table of an edited text as if it were the first', () => {
    const memory = new ReachMemory();
    const edit = fc.tuple(fc.constantFrom('without', 'later', 'other'), fc.nat(60));
    fc.assert(
      fc.property(
        anySite(EVERYTHING),
        anySite(EVERYTHING),
        fc.array(edit, { maxLength: 4 }),
        (text, other, edits) => {
          const lines = text.split('\n');
          const spare = other.split('\n');
          for (const [what, n] of [['as is', 0] as const, ...edits]) {
            const at = n % lines.length;
            const [line = ''] = what === 'as is' ? [] : lines.splice(at, 1);
            if (what === 'later') lines.splice((at * 7) % (lines.length + 1), 0, line);
            // A line of another site, of the same kind and name where there is one.
            if (what === 'other')
              lines.splice(at, 0, spare.find((l) => l.split(':')[0] === line.split(':')[0]) ?? line);
            const now = lines.join('\n');
            const fresh = told(new ReachTable(reachFrom(now)));
            expect(told(new ReachTable(reachFrom(now), memory)), now).to.deep.equal(fresh);
            // What is found with a memory of other sites is what is found without.
            const found = findAll(contextOf(reachFrom(now), {}, memory));
            expect(found, now).to.deep.equal(findAll(contextOf(reachFrom(now))));
            for (const { code } of found.slice(0, 3))
              expect(findOnly(contextOf(reachFrom(now)), code)).to.deep.include.members(
                found.filter((f) => f.code === code),
              );
          }
        },
      ),
      { numRuns: howMany(14, 120), seed: 20261125 },
    );
  });
});
