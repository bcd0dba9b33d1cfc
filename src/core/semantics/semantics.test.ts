/** The rules about one packet, against slow readable oracles and tables. */
import { expect } from 'chai';
import fc from 'fast-check';
import {
  contains,
  formatIp,
  formatPrefix,
  formatRangeShort,
  ipv4,
  mustIpv4,
  networkOf,
  parseIp,
} from '#core/addr';
import type { FlowService } from '#core/addr';
import { completeWiring, foresee } from '#core/site';
import { GOOD, good, siteFrom } from '#core/testkit';
import { wayText } from '#words';
import {
  addressesFor,
  checkSource,
  compileRules,
  decideAnswer,
  decideLeave,
  decidePassage,
  foreseenStates,
  internetSet,
  leadsTo,
  lookUp,
  outInterfaces,
  routesOf,
  BUCKETS,
  bucketOf,
  preferenceOf,
  usualRoute,
  wayTo,
} from './index';
import type { Route } from './index';

const PING: FlowService = { proto: 1, echo: true };
const tcp = (port: number): FlowService => ({ proto: 6, port });

function rulesOf(text: string) {
  const site = siteFrom(text);
  const wiring = completeWiring(site);
  const prospects = foresee(site, wiring);
  const states = foreseenStates(site, prospects);
  return {
    site,
    wiring,
    prospects,
    states,
    routes: routesOf(site, states),
    rules: compileRules(site, wiring, prospects),
    iface: (name: string) => site.interfaces.find((i) => i.name === name)!,
  };
}

const route: fc.Arbitrary<Route> = fc
  .record({
    address: fc.integer({ min: 0, max: 0xff }).map((n) => ipv4(n * 0x1000000)),
    length: fc.integer({ min: 0, max: 8 }),
    distance: fc.integer({ min: 0, max: 3 }),
    priority: fc.integer({ min: 0, max: 3 }),
    usable: fc.boolean(),
    table: fc.constantFrom('main', 'blue'),
  })
  .map(({ address, length, ...rest }, ...n): Route => ({
    ...rest,
    prefix: networkOf({ address, length }),
    interface: `i${n.length}`,
    origin: 'static',
  }));

describe('where an address is reached from here', () => {
  const { routes } = rulesOf(`zone world: upstream
zone office:
table blue: route 10.9.0.0/16 drop
interface fibre: on p1, zone world, address 198.51.100.18/29, gateway .17
interface harbour: on p2, zone world, address 203.0.113.2/29, gateway .1, priority 2
interface desk: on p3, zone office, address 10.61.20.1/24
interface lab: on p4, zone office, table blue, address 10.61.20.1/24
table main: route 10.0.0.0/8 via 10.61.20.9, route 10.62.0.0/16 via 10.61.20.9 distance 5, route 10.62.0.0/16 via 10.61.20.8
`);
  const rows: [string, string, string][] = [
    ['main', '192.0.2.9', 'fibre, to 198.51.100.17 (0.0.0.0/0 of table main); harbour (0.0.0.0/0) stands by'],
    ['main', '10.61.20.7', 'desk, straight (10.61.20.0/24 of table main)'],
    ['main', '10.62.1.1', 'desk, to 10.61.20.8 (10.62.0.0/16 of table main)'],
    ['blue', '10.61.20.7', 'lab, straight'],
    ['blue', '10.9.1.1', 'is dropped by a route (10.9.0.0/16 of table blue)'],
    ['blue', '192.0.2.9', 'no usable route of table blue leads to 192.0.2.9'],
  ];
  for (const [table, address, says] of rows)
    it(`${address} from ${table}`, () => {
      expect(wayText(wayTo(routes, [], table, parseIp(address)!))).to.contain(says);
    });
});

describe('routes', () => {
  it('are chosen as a slow reader of the rule would: longest prefix, distance, priority, order', () => {
    fc.assert(
      fc.property(fc.array(route, { maxLength: 12 }), fc.integer({ min: 0, max: 0xff }), (routes, n) => {
        const to = ipv4(n * 0x1000000 + 7);
        const fit = routes.filter((r) => r.table === 'main' && r.usable && contains(r.prefix, to));
        const most = Math.max(...fit.map((r) => r.prefix.length));
        const near = fit.filter((r) => r.prefix.length === most);
        const least = near.filter((r) => r.distance === Math.min(...near.map((x) => x.distance)));
        const best = least.filter((r) => r.priority === Math.min(...least.map((x) => x.priority)))[0];
        expect(lookUp(routes, 'main', to)).to.equal(best);
      }),
    );
  });

  it('come from addresses, gateways and tables, each with its origin', () => {
    const { routes } =
      rulesOf(`${good([', gateway .17', ', also .19, gateway .17'])}table main: route 10.9.0.0/16 via 10.61.20.9, route 10.66.0.0/16 drop, route 10.7.0.0/16 by desk
interface spare: on p4, zone world, address by dhcp, priority 2\n`);
    expect(
      routes.map(
        (r) =>
          `${formatPrefix(r.prefix)} ${r.via === undefined ? '-' : formatIp(r.via)} ${r.interface ?? 'drop'} ${r.origin}`,
      ),
    ).to.deep.equal([
      '198.51.100.16/29 - line connected',
      '10.61.20.0/24 - desk connected',
      '198.18.2.0/24 - spare connected',
      '0.0.0.0/0 198.51.100.17 line static',
      '0.0.0.0/0 198.18.2.1 spare learned',
      '10.9.0.0/16 10.61.20.9 desk static',
      '10.66.0.0/16 - drop static',
      '10.7.0.0/16 - desk static',
    ]);
    expect(lookUp(routes, 'main', mustIpv4('192.0.2.1'))?.interface, 'priority decides').to.equal('line');
    expect(lookUp(routes, 'main', mustIpv4('10.66.1.1'))?.interface, 'a drop route wins by length').to.equal(
      undefined,
    );
    expect(leadsTo(routes, 'main', mustIpv4('10.66.1.1'), 'desk')).to.equal(false);
    expect(lookUp(routes, 'blue', mustIpv4('192.0.2.1'))).to.equal(undefined);
  });
});

describe('rules', () => {
  const TEXT =
    `${good(['zone office:', 'zone shop: dmz\nzone office:'], ['passage office > world: allow', 'passage office > world: drop tcp 25\npassage office > world: allow\npassage office > shop: allow tcp 80 443, to 10.61.50.10\npassage any > shop: reject ping'])}interface shop: on p3, zone shop, address 10.61.50.1/24, answers ping, answers ssh 2222 from office
interface lab: on p5, zone office, address 10.61.21.1/24, answers ping
interface loose: on p6, address 10.61.22.1/24
interface blue: on p7, zone world, address 203.0.113.2/29, answers ping
known boss: 10.61.20.7
`.replace('leave any > world', 'leave any > world');

  it('let pass by the first statement that fits, then by `within`, then not at all', () => {
    const { rules, iface } = rulesOf(TEXT);
    const rows: [
      from: string,
      to: string,
      source: string,
      target: string,
      service: FlowService,
      verdict: string,
      by: string,
      why: string,
    ][] = [
      [
        'desk',
        'line',
        '10.61.20.9',
        '192.0.2.80',
        tcp(443),
        'allow',
        'passage/office>world#2',
        'the general allow',
      ],
      [
        'desk',
        'line',
        '10.61.20.9',
        '192.0.2.80',
        tcp(25),
        'drop',
        'passage/office>world#1',
        'an earlier drop',
      ],
      [
        'desk',
        'shop',
        '10.61.20.9',
        '10.61.50.10',
        tcp(80),
        'allow',
        'passage/office>shop#1',
        'service and host fit',
      ],
      ['desk', 'shop', '10.61.20.9', '10.61.50.11', tcp(80), 'drop', 'default', 'another host'],
      [
        'desk',
        'shop',
        '10.61.20.9',
        '10.61.50.10',
        PING,
        'reject',
        'passage/any>shop#1',
        'any is every zone',
      ],
      ['desk', 'lab', '10.61.20.9', '10.61.21.9', tcp(22), 'allow', 'within', 'one zone, two interfaces'],
      ['desk', 'desk', '10.61.20.9', '10.61.20.8', tcp(22), 'allow', 'within', 'in and out by one interface'],
      ['line', 'blue', '192.0.2.80', '203.0.113.3', tcp(22), 'drop', 'within', 'upstream drops within'],
      ['shop', 'desk', '10.61.50.10', '10.61.20.9', tcp(22), 'drop', 'default', 'nothing says so'],
      ['loose', 'line', '10.61.22.9', '192.0.2.80', tcp(443), 'drop', 'default', 'no zone, no passing'],
    ];
    for (const [from, to, source, destination, service, verdict, by, why] of rows) {
      const got = decidePassage(rules, iface(from), iface(to), {
        source: mustIpv4(source),
        destination: mustIpv4(destination),
        service,
      });
      const who = got.decided.by === 'statement' ? got.decided.statement.subject : got.decided.by;
      expect([got.verdict, who], why).to.deep.equal([verdict, by]);
    }
  });

  it('answer by the arrival interface, its services, ports and sources', () => {
    const { rules } = rulesOf(TEXT);
    const answers = (iface: string, source: string, service: FlowService) =>
      decideAnswer(rules, iface, { source: mustIpv4(source), destination: mustIpv4('10.61.50.1'), service })
        ?.name;
    expect(answers('shop', '10.61.50.9', PING)).to.equal('ping');
    expect(answers('shop', '10.61.20.9', tcp(2222)), 'from office, at the moved port').to.equal('ssh');
    expect(answers('shop', '10.61.20.9', tcp(22)), 'not at the usual one').to.equal(undefined);
    expect(answers('shop', '10.61.50.9', tcp(2222)), 'not from the shop itself').to.equal(undefined);
    expect(answers('desk', '10.61.20.9', { proto: 17, port: 53 })).to.equal('dns');
    expect(answers('loose', '10.61.22.9', PING)).to.equal(undefined);
  });

  it('leave by the first statement for the way out: arrival for zones and interfaces, source for the rest', () => {
    const { rules, iface } = rulesOf(
      TEXT.replace(
        'leave any',
        'leave boss > line: as 198.51.100.20\nleave lab > world: never\nleave office > line: as 198.51.100.19\nleave 10.61.50.0/24 > blue: unchanged\nleave any',
      ),
    );
    const shows = (from: string, out: string, source: string) => {
      const action = decideLeave(rules, iface(from), iface(out), mustIpv4(source))?.action;
      return action?.as === 'address' ? formatIp(action.address) : action?.as;
    };
    expect(shows('desk', 'line', '10.61.20.7')).to.equal('198.51.100.20');
    expect(shows('desk', 'line', '10.61.20.8')).to.equal('198.51.100.19');
    expect(shows('lab', 'line', '10.61.21.8'), 'an earlier never').to.equal('never');
    expect(shows('desk', 'blue', '10.61.20.8'), 'another way out').to.equal('interface');
    expect(shows('shop', 'blue', '10.61.50.9')).to.equal('unchanged');
    expect(shows('desk', 'lab', '10.61.20.8'), 'no statement is for that way').to.equal(undefined);
  });

  it('check sources loosely, and strictly where there is a guard', () => {
    const { site, routes, states, iface } = rulesOf(TEXT);
    const fault = (at: string, source: string) =>
      checkSource(site, routes, states, iface(at), mustIpv4(source));
    expect(fault('desk', '10.61.20.9')).to.equal(undefined);
    expect(fault('desk', '192.0.2.80'), 'loose: some route is enough').to.equal(undefined);
    expect(fault('line', '192.0.2.80')).to.equal(undefined);
    expect(fault('line', '10.61.20.9')).to.equal('special');
    expect(fault('line', '203.0.113.3'), 'another network of the box').to.equal('own-network');
    const lost = rulesOf(good([', gateway .17', '']));
    expect(
      checkSource(lost.site, lost.routes, lost.states, lost.iface('desk'), mustIpv4('192.0.2.80')),
    ).to.equal('no-route-back');
  });

  it('stand for sets of addresses: subnets, what is behind, and the internet for an upstream zone', () => {
    const { site, wiring, prospects } = rulesOf(
      `${TEXT}table main: route 10.9.0.0/16 via 10.61.20.9\nknown annex: 10.8.0.0/24, behind lab\n`,
    );
    const set = (name: string, kind?: 'zone' | 'interface') =>
      addressesFor(site, wiring, prospects, {
        type: 'name',
        name,
        kind,
        at: { start: 0, end: 0, line: 1, column: 1 },
      });
    expect(set('office').ranges.map(formatRangeShort)).to.deep.equal([
      '10.8.0.0-.255',
      '10.9.0.0-.255.255',
      '10.61.20.0-.21.255',
    ]);
    expect(set('boss').ranges.map(formatRangeShort)).to.deep.equal(['10.61.20.7']);
    expect(set('pc').ranges.map(formatRangeShort)).to.deep.equal(['10.61.20.50']);
    expect(set('www.example').ranges.map(formatRangeShort)).to.deep.equal(['192.0.2.80']);
    expect(set('nobody').isEmpty).to.equal(true);
    const world = set('world');
    const net = internetSet(site, prospects);
    for (const [address, inWorld, inInternet] of [
      ['192.0.2.80', true, true],
      ['198.51.100.17', true, false],
      ['10.61.20.9', false, false],
      ['127.0.0.1', false, false],
      ['224.0.0.1', false, false],
    ] as const)
      expect([world.has(mustIpv4(address)), net.has(mustIpv4(address))], address).to.deep.equal([
        inWorld,
        inInternet,
      ]);
    expect(outInterfaces(site, 'world').map((i) => i.name)).to.deep.equal(['line', 'blue']);
    expect(outInterfaces(site, 'blue').map((i) => i.name)).to.deep.equal(['blue']);
  });

  it('hold for the good office: every cell of who may start what', () => {
    const { rules, iface } = rulesOf(GOOD);
    const table = ['line', 'desk'].map((from) =>
      ['line', 'desk'].map(
        (to) =>
          decidePassage(rules, iface(from), iface(to), {
            source: mustIpv4('192.0.2.80'),
            destination: mustIpv4('10.61.20.50'),
            service: PING,
          }).verdict,
      ),
    );
    expect(table).to.deep.equal([
      ['drop', 'drop'],
      ['allow', 'allow'],
    ]);
  });
});

describe('shares of uplinks', () => {
  const sharers = fc
    .array(fc.integer({ min: 1, max: 16 }), { minLength: 2, maxLength: 6 })
    .map((all) => all.map((weight, n) => ({ name: `line${n}`, weight })));
  const buckets = [...Array(BUCKETS).keys()];

  it('are as long as the weights say, to a bucket, whoever is dead; nobody on a live line moves', () => {
    fc.assert(
      fc.property(sharers, fc.nat(5), (uplinks, n) => {
        const orders = buckets.map((b) => preferenceOf(b, uplinks));
        for (const order of orders)
          expect([...order].sort()).to.deep.equal(uplinks.map((u) => u.name).sort());
        const total = uplinks.reduce((sum, u) => sum + u.weight, 0);
        const firsts = orders.map((order) => order[0]);
        for (const { name, weight } of uplinks)
          expect(
            Math.abs(firsts.filter((f) => f === name).length - (BUCKETS * weight) / total),
          ).to.be.lessThan(1);
        const dead = uplinks[n % uplinks.length]!.name;
        for (const order of orders)
          if (order[0] !== dead) expect(order.find((name) => name !== dead)).to.equal(order[0]);
        // Its sources go to the others by their weights, within what an octet can part.
        const moved = orders.filter((order) => order[0] === dead).map((order) => order[1]);
        const rest = uplinks.filter((u) => u.name !== dead);
        const left = rest.reduce((sum, u) => sum + u.weight, 0);
        for (const { name, weight } of rest)
          expect(
            Math.abs(moved.filter((m) => m === name).length - (moved.length * weight) / left),
          ).to.be.lessThan(2);
      }),
    );
  });

  it('part neighbours: of two like lines each takes every other address, and no octet twice', () => {
    const two = [
      { name: 'a', weight: 1 },
      { name: 'b', weight: 1 },
    ];
    const taken = buckets.map((octet) => preferenceOf(bucketOf(octet), two)[0]);
    expect(taken.every((name, octet) => name === (octet % 2 ? 'b' : 'a'))).to.equal(true);
    expect(new Set(buckets.map(bucketOf)).size).to.equal(BUCKETS);
  });

  it('speak of what is behind the box only, and of the default route only', () => {
    const site = siteFrom(`zone world: upstream
zone studio:
interface fibre: on p1, zone world, address 198.51.100.18/29, gateway .17, share 1
interface cable: on p2, zone world, address 203.0.113.18/29, gateway .17, share 1
interface radio: on p4, zone world, address 192.0.2.2/29, gateway .1, priority 2, share 1
interface studio: on p3, zone studio, address 10.61.20.1/24
table main: route 10.70.0.0/15 via 10.61.20.9, route 192.0.2.128/25 by fibre
`);
    const wiring = completeWiring(site);
    const prospects = foresee(site, wiring);
    const rules = compileRules(site, wiring, prospects);
    const states = foreseenStates(site, prospects);
    const routes = routesOf(site, states);
    const goes = (source: string, destination: string, arrival = 'studio', dead?: string) => {
      const now = new Map(states);
      if (dead !== undefined) now.set(dead, { ...states.get(dead)!, alive: false });
      const usable = routes.map((r) => (r.interface === dead ? { ...r, usable: false } : r));
      const flow = { source: parseIp(source)!, destination: parseIp(destination)! };
      const from = { name: arrival, table: 'main' };
      return usualRoute(rules, { routes: usable, states: now }, from, flow)?.interface;
    };
    const far = '198.18.0.80';
    expect(['10.61.20.50', '10.61.20.51', '10.70.0.1', '10.70.1.1'].map((s) => goes(s, far))).to.deep.equal([
      'fibre',
      'cable',
      // A network of so many addresses is parted by the third octet.
      'fibre',
      'cable',
    ]);
    expect(goes('10.61.20.51', '192.0.2.200'), 'a longer prefix').to.equal('fibre');
    expect(goes('10.61.20.51', '198.51.100.20'), 'a connected network').to.equal('fibre');
    expect(goes('10.9.9.51', far), 'a stranger').to.equal('fibre');
    expect(goes('10.61.20.51', far, 'radio'), 'what comes in by an uplink').to.equal('fibre');
    expect(goes('10.61.20.51', far, 'studio', 'cable')).to.equal('fibre');
    expect(goes('10.61.20.50', far, 'studio', 'fibre')).to.equal('cable');
  });
});
