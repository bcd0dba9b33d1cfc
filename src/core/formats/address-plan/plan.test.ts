/** Address plans: sheets as offices keep them, compared and written; and networks as wholes. */
import { expect } from 'chai';
import fc from 'fast-check';
import { formatMac, formatPrefix, formatRange, mustPrefix } from '#core/addr';
import type { Ipv4, Prefix } from '#core/addr';
import {
  cloneNetwork,
  moveStatement,
  moveUplink,
  renumberNetwork,
  resizeNetwork,
  siteAfter,
  takePlan,
  takeReservations,
  uplinksInOrder,
} from '#core/edits';
import type { Thought } from '#core/edits';
import { comparePlan, compareReservations, leavingsOf, modelOf } from '#core/model';
import type { PlanNetwork } from '#core/model';
import type { Site } from '#core/site';
import { EVERYTHING, anySite, codesOf, siteFrom } from '#core/testkit';
import { planFaultText } from '#words';
import { bookRows } from '../site-book';
import { planCsv, planMarkdown, readPlan, reservationsCsv } from './index';

const TEXT = `box edge: names 192.0.2.53, serves names
zone world: upstream
zone office:
zone guests:
interface line: on p1, zone world, address 198.51.100.18/29, gateway .17
interface spare: on p2, zone world, address 203.0.113.2/29, gateway .1, priority 5
# the trunk
interface office: on p3 tag 20, zone office, address 10.61.20.1/24, lends .50-.199 for 2h,
  keeps .20 for 02:61:00:00:20:20 "printer", answers ping dns, guard
interface guests: on p3 tag 30, zone guests, address 10.61.30.1/24
known printer: 10.61.20.20
passage office > world: allow
passage office > guests: allow tcp 80, to 10.61.30.9
leave office > line: as 198.51.100.19
leave any > world: as interface
door print: 198.51.100.20 tcp 631 > 10.61.20.20
expect office reaches internet
circuit northmoor: at p1, block 198.51.100.16/29, gateway .17
switch core: at p3, carries 20 30, jack 1 tag 20
station till: at core/1, address 10.61.20.9/24, gateway 10.61.20.1
far www.example: address 192.0.2.80, listens tcp 80
`;
const site = siteFrom(TEXT);
const named = (s: Site, name: string) => s.interfaces.find((i) => i.name === name)!;
const net = (text: string) => mustPrefix(text) as Prefix<Ipv4>;
const plain = ({ name, tag, own, pool, zone }: PlanNetwork) =>
  [name, tag, own && formatPrefix(own), pool?.map(formatRange).join(' '), zone] as const;
const read = (text: string) => readPlan(text).networks.map((r) => plain(r.value));
const textAfter = (s: Site, changes: Parameters<typeof siteAfter>[1]) =>
  siteAfter(s, changes).documents[0]!.text;

const OFFICE = ['office', 20, '10.61.20.1/24', '10.61.20.50-10.61.20.199', 'office'] as const;

describe('an address plan', () => {
  for (const [what, text] of [
    [
      'semicolons, German heads',
      'Bezeichnung;VLAN-ID;Netz;DHCP-Bereich;Zone\noffice;20;10.61.20.0/24;50-199;office',
    ],
    [
      'commas, the router in the subnet',
      'Name,Vlan,Subnet,Pool,Zone\noffice,20,10.61.20.1/24,.50-.199,office',
    ],
    [
      'tabs, a mask of its own, French',
      'nom\tvlan\tréseau\tmasque\tplage\tzone\noffice\t20\t10.61.20.0\t255.255.255.0\t10.61.20.50 - 10.61.20.199\toffice',
    ],
    [
      'first and last of the pool, Spanish',
      'nombre;vlan;red;inicio;fin;zona\noffice;20;10.61.20.0/24;10.61.20.50;10.61.20.199;office',
    ],
    [
      'a spreadsheet’s marks, a title above, numbers with a decimal',
      '﻿sep=;\r\nPlan of 2026;;;;\r\n;;;;\r\n"name";"VLAN";"subnet";"gateway";"range";"zone"\r\n"Office";"20,0";"10.61.20.0 255.255.255.0";".1";"10.61.20.50–199";"office"\r\n',
    ],
  ] as const)
    it(`is read from ${what}`, () => expect(read(text)).to.deep.equal([OFFICE]));

  it('is read without heads by what stands in it, and as somebody says it is', () => {
    expect(read('20,10.61.20.0/24,office\n30,10.61.30.0/24,guests').map((r) => [r[0], r[1]])).to.deep.equal([
      ['office', 20],
      ['guests', 30],
    ]);
    const odd = 'what;where;10\nOffice;10.61.20.0/24;20\nGuests;10.61.30.0/24;30';
    expect(readPlan(odd, { tag: 2, subnet: 1, name: 0 }).networks.at(-1)!.value.tag).to.equal(30);
    // An empty cell says nothing of the pool, a dash that there is none.
    expect(
      readPlan('name;subnet;dhcp\na1;10.0.0.0/24;\nb1;10.0.1.0/24;-').networks.map((r) => r.value.pool),
    ).to.deep.equal([undefined, []]);
  });

  it('tells what is wrong with a row, with the value in it, and takes the others', () => {
    const { networks } = readPlan(
      [
        'name;vlan;subnet;gateway;dhcp',
        'a1;5000;10.61.70.0/24;;',
        'a2;71;10.61.71.0;;',
        'a3;72;10.61.20.0/33;;',
        'a4;73;10.61.73.0/24;10.61.74.1;',
        'a5;74;10.61.75.0/24;;10.61.76.5-10.61.76.9',
        'a6;75;10.61.77.0/24;;99-50',
        'fine;76;10.61.78.0/24;;',
        'a7;76;10.61.79.0/24;;',
        'fine;77;10.61.80.0/24;;',
        'a8;78;10.61.78.128/25;;',
        'a9;79;;;',
        '???;80;10.61.81.0/24;;',
      ].join('\n'),
    );
    const told = networks.map((r) => [r.line, r.faults.map(planFaultText).join()] as const);
    const wanted: readonly (readonly [number, RegExp])[] = [
      [2, /5000.* is no VLAN tag/],
      [3, /10\.61\.71\.0 has no length/],
      [4, /“33” is no length/],
      [5, /10\.61\.74\.1 is not in 10\.61\.73\.0\/24/],
      [6, /10\.61\.76\.5-10\.61\.76\.9 is not in 10\.61\.75\.0\/24/],
      [7, /“99-50” is no range/],
      [8, /^$/],
      [9, /tag 76 is line 8/],
      [10, /name fine is line 8/],
      [11, /10\.61\.78\.128\/25 shares addresses with line 8/],
      [12, /no subnet/],
      [13, /“\?\?\?” cannot be a name/],
    ];
    for (const [i, [line, says]] of wanted.entries()) {
      expect(told[i]![0]).to.equal(line);
      expect(told[i]![1]).to.match(says);
    }
  });

  it('is compared row by row, and what differs is written, with zone, trunk and all that names an address', () => {
    const rows = readPlan(
      'name;vlan;subnet;dhcp;zone\noffice;20;10.61.24.0/24;10.61.24.60-10.61.24.90;office\nwifi;30;10.61.30.0/24;;guests\nlab;40;10.61.40.0/25;20-60;lab',
    ).networks.map((r) => r.value);
    const compared = comparePlan(site, rows);
    expect(compared.rows.map((r) => [r.iface?.name, r.differs])).to.deep.equal([
      ['office', ['own', 'pool']],
      ['guests', ['name']],
      [undefined, []],
    ]);
    expect(compared.onlyHere).to.deep.equal([]);
    const text = textAfter(site, takePlan(site, compared.rows));
    expect(text)
      .to.contain('address 10.61.24.1/24, lends .60-.90 for 2h,\n  keeps .20 for')
      .and.contain('known printer: 10.61.24.20')
      .and.contain('> 10.61.24.20')
      .and.contain('interface wifi: on p3 tag 30')
      .and.contain('zone lab:')
      .and.contain(
        'interface lab: on p3 tag 40, zone lab, address 10.61.40.1/25, lends .20-.60, answers ping dns',
      )
      .and.contain('carries 20 30 40')
      .and.contain('# the trunk');
    const after = siteFrom(text);
    expect(comparePlan(after, rows).rows.every((r) => r.iface && !r.differs.length)).to.equal(true);
  });

  it('is written so that reading it changes nothing, for any site', () => {
    fc.assert(
      fc.property(anySite(EVERYTHING), (text) => {
        const any = siteFrom(text);
        const rows = readPlan(planCsv(any)).networks.filter((r) => !r.faults.length);
        const compared = comparePlan(
          any,
          rows.map((r) => r.value),
        ).rows.filter((r) => r.iface);
        expect(compared.flatMap((r) => r.differs.filter((d) => d !== 'name'))).to.deep.equal([]);
        expect(
          takePlan(
            any,
            compared.filter((r) => !r.differs.length),
          ),
        ).to.deep.equal([]);
      }),
      { numRuns: 60 },
    );
    expect(planMarkdown(site)).to.contain('| office | 20 | 10.61.20.0/24 | 10.61.20.1 |');
    const odd = siteFrom(TEXT.replace('"printer"', '"=HYPERLINK(1)"'));
    expect(reservationsCsv(odd), 'no cell is a sum').to.contain("'=HYPERLINK(1)");
  });

  it('brings sixty VLANs at once', () => {
    const sheet = [
      'name,vlan,subnet,dhcp',
      ...Array.from({ length: 60 }, (_, i) => `net${i},${100 + i},10.62.${i}.0/24,50-199`),
    ];
    const rows = readPlan(sheet.join('\n')).networks.map((r) => r.value);
    const text = textAfter(site, takePlan(site, comparePlan(site, rows).rows));
    const after = siteFrom(text);
    expect(after.interfaces).to.have.length(64);
    expect(after.statements.filter((s) => s.broken)).to.deep.equal([]);
    expect(codesOf(text)).to.not.include.members(['tag-not-carried', 'subnet-overlap', 'no-zone']);
  });

  it('reads reservations however MACs are set apart, and keeps, changes and moves them', () => {
    const sheet = readPlan(
      'device;MAC;IP\nprinter;0261.0000.2020;10.61.20.21\ncam;02-61-00-00-30-01;10.61.30.7\nlost;026100003002;10.99.0.1\nbad;02:61:00;10.61.20.30\ntwin;02:61:00:00:20:20;10.61.20.22',
    );
    expect(sheet.reservations.map((r) => r.faults.map((f) => f.what).join())).to.deep.equal([
      '',
      '',
      '',
      'not-a-mac',
      'mac-twice',
    ]);
    const good = sheet.reservations.flatMap(({ faults, value: { mac, address, label } }) =>
      faults.length || mac === undefined || address === undefined ? [] : [{ mac, address, label }],
    );
    const { rows, onlyHere } = compareReservations(site, good);
    expect(rows.map((r) => [r.is, r.iface?.name])).to.deep.equal([
      ['differs', 'office'],
      ['only-there', 'guests'],
      ['only-there', undefined],
    ]);
    expect(onlyHere).to.deep.equal([]);
    const after = siteAfter(site, takeReservations(site, rows));
    expect(
      after.interfaces.flatMap((i) => i.reserved.map((r) => `${i.name} ${formatMac(r.mac)}`)),
    ).to.deep.equal(['office 02:61:00:00:20:20', 'guests 02:61:00:00:30:01']);
  });
});

const thought = (t: Thought | { readonly overlaps: string } | undefined): Thought => {
  if (!t || 'overlaps' in t) throw new Error(JSON.stringify(t));
  return t;
};

describe('a network as a whole', () => {
  const office = named(site, 'office');
  const { wiring } = modelOf(site);

  it('is renumbered with all that names an address of it; who has one of his own is told', () => {
    const t = thought(renumberNetwork(site, wiring, office, net('10.61.20.0/24'), net('10.61.24.0/23')));
    expect(t.byHand).to.deep.equal(['till']);
    expect(textAfter(site, t.changes))
      .to.contain('address 10.61.24.1/23, lends .50-.199 for 2h')
      .and.contain('known printer: 10.61.24.20')
      .and.contain('station till: at core/1, address 10.61.20.9/24');
    expect(renumberNetwork(site, wiring, office, net('10.61.20.0/24'), net('10.61.30.0/25'))).to.deep.equal({
      overlaps: 'guests',
    });
  });

  it('is made wider or narrower where its neighbours leave room', () => {
    const wide = thought(resizeNetwork(site, wiring, office, net('10.61.20.0/24'), 23));
    expect(textAfter(site, wide.changes)).to.contain('address 10.61.20.1/23, lends .50-.199');
    expect(resizeNetwork(site, wiring, office, net('10.61.20.0/24'), 19)).to.deep.equal({
      overlaps: 'guests',
    });
  });

  it('is cloned with zone, pool, passages, leaves and promises; what is of one device or address stays', () => {
    const t = thought(cloneNetwork(site, office, { name: 'loft', tag: 25, net: net('10.61.25.0/24') }));
    const text = textAfter(site, t.changes);
    for (const line of [
      'zone loft:',
      'interface loft: on p3 tag 25, zone loft, address 10.61.25.1/24, lends .50-.199 for 2h, answers ping dns, guard',
      'passage loft > world: allow',
      'leave loft > line: as 198.51.100.19',
      'expect loft reaches internet',
      'carries 20 30 25',
    ])
      expect(text).to.contain(line);
    expect(t.left).to.deep.equal(['keeps 10.61.20.20', 'door print']);
    expect(codesOf(text)).to.not.include.members(['mac-duplicate', 'tag-not-carried', 'leave-shadowed']);
  });
});

describe('who leaves by what', () => {
  it('tells what each statement is the first to take', () => {
    const { leaves } = leavingsOf(modelOf(site));
    const of = (n: number) =>
      leaves
        .get(site.leaves[n]!)!
        .map((t) => `${t.whole ? '' : 'part of '}${t.interface} by ${t.out.join()}`);
    expect(of(0)).to.deep.equal(['office by line']);
    expect(of(1)).to.deep.equal(['office by spare', 'guests by line,spare']);
    const turned = siteAfter(site, moveStatement(site, site.leaves[1]!, { before: site.leaves[0]! }));
    const now = leavingsOf(modelOf(turned)).leaves;
    expect(now.get(turned.leaves[1]!)).to.deep.equal([]);
  });

  it('gives the priorities out anew when an uplink is carried, and writes no other', () => {
    const first = siteAfter(site, moveUplink(site, 'spare', 0));
    expect(uplinksInOrder(first).map((i) => [i.name, i.priority])).to.deep.equal([
      ['spare', 1],
      ['line', 5],
    ]);
    expect(moveUplink(site, 'line', 0)).to.deep.equal([]);
    expect(moveUplink(site, 'office', 0)).to.deep.equal([]);
  });

  it('keeps uplinks that share together: one that is carried among them comes before or behind', () => {
    const three = siteFrom(
      `${TEXT}interface third: on p7, zone world, address by dhcp, priority 5, share 1\n`.replace(
        'priority 5',
        'priority 5, share 2',
      ),
    );
    const orderOf = (s: typeof three) => uplinksInOrder(s).map((i) => `${i.name} ${i.priority}`);
    expect(orderOf(three)).to.deep.equal(['line 1', 'spare 5', 'third 5']);
    expect(orderOf(siteAfter(three, moveUplink(three, 'line', 1)))).to.deep.equal([
      'spare 1',
      'third 1',
      'line 5',
    ]);
    const last = siteAfter(three, moveUplink(three, 'line', 2));
    expect(orderOf(last)).to.deep.equal(['spare 1', 'third 1', 'line 5']);
    expect(orderOf(siteAfter(last, moveUplink(last, 'line', 1)))).to.deep.equal([
      'line 1',
      'spare 5',
      'third 5',
    ]);
    expect(moveUplink(three, 'third', 1)).to.deep.equal([]);
    expect(orderOf(siteAfter(three, moveUplink(three, 'third', 0)))).to.deep.equal([
      'third 1',
      'line 5',
      'spare 6',
    ]);
  });
});

describe('the site book', () => {
  it('gathers what somebody wants in a folder, notes and ends with it, and no secret', () => {
    const rows = bookRows(
      modelOf(
        siteFrom(
          TEXT.replace('gateway .17\nswitch', 'gateway .17, note "fault desk 01632 960118"\nswitch')
            .replace(
              'passage office > world: allow',
              'passage office > world: allow, until 2026-12-31, note "fair"',
            )
            .replace('address 203.0.113.2/29, gateway .1', 'address by pppoe')
            .replace('spare: on p2', 'spare: pppoe on p2 user "u" secret "hush"'),
        ),
      ),
    );
    expect(rows.circuits[0]).to.include({
      name: 'northmoor',
      at: 'p1',
      interface: 'line',
      gives: 'static 198.51.100.16/29',
    });
    expect(rows.circuits[0]!.notes).to.deep.equal(['fault desk 01632 960118']);
    expect(rows.passages[0]).to.deep.equal({
      line: 'office > world: allow',
      until: '2026-12-31',
      note: 'fair',
    });
    expect(rows.doors[0]).to.include({ outside: '198.51.100.20 tcp 631', inside: '10.61.20.20' });
    expect(rows.block.find((b) => b.address === '198.51.100.19')!.uses.map((u) => u.of)).to.deep.equal([
      'leave office > line',
    ]);
    expect(rows.day).to.equal('2026-06-15');
    expect(JSON.stringify(rows)).to.not.contain('hush');
  });
});
