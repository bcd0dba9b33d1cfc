/** Sessions and addresses that are learned: PPP on both sides, autoconfiguration, DHCPv6, each with its timers. */
import { expect } from 'chai';
import { formatIp, mustIpv4, mustMac, mustPrefix, parseIp } from '#core/addr';
import type { Ipv4, Ipv6, Prefix } from '#core/addr';
import { ETHERTYPE } from '#core/wire';
import type { Dhcpv6, Nd } from '#core/wire';
import { good, modelFrom } from '#core/testkit';
import { Seeded } from '#core/base';
import { Autoconf } from './autoconf';
import { Dhcpv6Client } from './dhcpv6-client';
import { Dhcpv6Server } from './dhcpv6-server';
import { Bench } from './index';
import { PppoeClient, PppoeServer } from './pppoe';
import type { PppLogin } from './ppp';
import { Scheduler } from './scheduler';

const [CALLER, LINE] = [mustMac('02:00:00:00:00:01'), mustMac('02:00:00:00:00:02')];
const six = (text: string) => parseIp(text) as Ipv6;

describe('a PPPoE session', () => {
  /** Both ends on one wire of 1 ms. */
  function ends(
    caller: Partial<Extract<PppLogin, { as: 'caller' }>> = {},
    names = ['192.0.2.53', '192.0.2.54'],
  ) {
    const scheduler = new Scheduler();
    const chance = new Seeded(5);
    const got: string[] = [];
    const client: PppoeClient = new PppoeClient(
      scheduler,
      chance,
      { as: 'caller', user: 'kiln', secret: 'clay', chap: true, ...caller },
      { address: 0 as Ipv4, names: [] },
      (_to, type, payload) => scheduler.after(1, () => server.receive(CALLER, type, payload)),
      (type, payload) => got.push(`client ${type.toString(16)} ${payload.length}`),
      () => {},
    );
    const server: PppoeServer = new PppoeServer(
      scheduler,
      chance,
      {
        name: 'northmoor',
        login: { as: 'judge', anyone: false, secretOf: (user) => (user === 'kiln' ? 'clay' : undefined) },
        terms: {
          address: mustIpv4('203.0.113.1'),
          gives: mustIpv4('203.0.113.7'),
          names: names.map(mustIpv4),
          identifier: 1n,
        },
      },
      (_to, type, payload) => scheduler.after(1, () => client.receive(LINE, type, payload)),
      (type, payload) => got.push(`server ${type.toString(16)} ${payload.length}`),
      () => {},
    );
    client.start();
    scheduler.pass(5000);
    return { scheduler, client, server, got };
  }

  it('settles addresses and resolvers by CHAP, and by PAP where the caller knows no other', () => {
    for (const chap of [true, false]) {
      const { client, server } = ends({ chap });
      expect(client.link?.open, `chap ${chap}`).to.equal(true);
      expect(formatIp(client.link!.address!)).to.equal('203.0.113.7');
      expect(formatIp(client.link!.peer!)).to.equal('203.0.113.1');
      expect(client.link!.names.map(formatIp)).to.deep.equal(['192.0.2.53', '192.0.2.54']);
      expect(server.link?.open).to.equal(true);
      expect(client.link!.open6, 'the caller speaks no IPv6, and says so').to.equal(false);
    }
  });

  it('does without resolvers that the line has not', () => {
    expect(ends({}, []).client.link!.names).to.deep.equal([]);
    expect(ends({}, ['192.0.2.53']).client.link!.names.map(formatIp)).to.deep.equal(['192.0.2.53']);
  });

  it('is refused for a wrong secret or user, says so, and tries again after a while', () => {
    for (const wrong of [
      { secret: 'cley' },
      { user: 'kilm' },
      { secret: '' },
      { secret: 'x', chap: false },
    ]) {
      const { client, scheduler } = ends(wrong);
      expect([client.link?.open ?? false, client.failure], JSON.stringify(wrong)).to.deep.equal([
        false,
        'refused',
      ]);
      const before = client.tries;
      scheduler.pass(11_000);
      expect(client.tries).to.be.greaterThan(before);
    }
  });

  it('carries packets only while it is open, and answers echoes until it is ended', () => {
    const { client, server, scheduler, got } = ends();
    client.link!.send(ETHERTYPE.ipv4, new Uint8Array(99));
    client.link!.send(ETHERTYPE.ipv6, new Uint8Array(99));
    scheduler.pass(10);
    expect(got).to.deep.equal(['server 800 99']);
    let alive: boolean | undefined;
    client.link!.echo((a) => (alive = a));
    scheduler.pass(1500);
    expect(alive).to.equal(true);
    client.stop();
    scheduler.pass(100);
    expect([client.link, server.link]).to.deep.equal([undefined, undefined]);
  });

  it('asks with a doubling pause while nobody answers', () => {
    const scheduler = new Scheduler();
    const asked: number[] = [];
    const client = new PppoeClient(
      scheduler,
      new Seeded(1),
      { as: 'caller', user: '', secret: '', chap: true },
      { address: 0 as Ipv4, names: [] },
      () => asked.push(scheduler.now),
      () => {},
      () => {},
    );
    client.start();
    scheduler.pass(20_000);
    expect(asked).to.deep.equal([0, 1000, 3000, 7000, 15_000]);
    expect(client.failure).to.equal('nobody');
  });

  it('comes back by itself after the cable was out', () => {
    const bench = new Bench(
      modelFrom(
        good(
          [
            'on p1, zone world, address 198.51.100.18/29, gateway .17',
            'pppoe on p1 user "kiln" secret "clay", zone world, address by pppoe',
          ],
          ['block 198.51.100.16/29, gateway .17', 'pppoe "kiln" "clay" gives 203.0.113.7 peer 203.0.113.1'],
        ),
      ),
    ).boot();
    const line = bench.box.interface('line')!;
    expect(line.addresses.map((a) => formatIp(a.address))).to.deep.equal(['203.0.113.7']);
    bench.cut('p1');
    bench.scheduler.pass(2000);
    expect(line.addresses).to.deep.equal([]);
    bench.restore('p1');
    bench.scheduler.pass(5000);
    expect(line.addresses.map((a) => formatIp(a.address))).to.deep.equal(['203.0.113.7']);
  });
});

describe('autoconfiguration', () => {
  const ra = (more: Partial<Extract<Nd, { type: 'router' }>> = {}): Extract<Nd, { type: 'router' }> => ({
    type: 'router',
    managed: false,
    other: false,
    lifetime: 1800,
    prefixes: [
      {
        prefix: mustPrefix('2001:db8:1::/64') as Prefix<Ipv6>,
        onLink: true,
        autonomous: true,
        valid: 3600,
        preferred: 1800,
      },
    ],
    names: [],
    ...more,
  });
  function host(taken = false) {
    const scheduler = new Scheduler();
    const asked: number[] = [];
    const auto = new Autoconf(
      scheduler,
      mustMac('34:56:78:9a:bc:de'),
      true,
      {
        solicit: () => asked.push(scheduler.now),
        probeFree: (_a, then) => scheduler.after(1000, () => then(!taken)),
      },
      () => {},
    );
    auto.start();
    return { scheduler, auto, asked };
  }
  const shown = (auto: Autoconf) => auto.addresses.map((a) => `${formatIp(a.address)}/${a.length}`);

  it('asks for a router three times, four seconds apart', () => {
    const { scheduler, asked } = host();
    scheduler.pass(30_000);
    expect(asked).to.deep.equal([0, 4000, 8000]);
  });

  it('makes its address from its MAC once nobody else has it (RFC 4291 appendix A)', () => {
    const { scheduler, auto } = host();
    auto.heard(ra(), six('fe80::1'));
    expect(shown(auto), 'tried first').to.deep.equal([]);
    scheduler.pass(1001);
    expect(shown(auto)).to.deep.equal(['2001:db8:1:0:3656:78ff:fe9a:bcde/64']);
    expect(formatIp(auto.router!)).to.equal('fe80::1');
    scheduler.pass(1_800_000);
    expect([auto.router, shown(auto).length], 'the router ran out, the address not').to.deep.equal([
      undefined,
      1,
    ]);
    scheduler.pass(1_800_000);
    expect(shown(auto)).to.deep.equal([]);
  });

  it('leaves an address that another has, and networks that are no /64', () => {
    const { scheduler, auto } = host(true);
    auto.heard(ra(), six('fe80::1'));
    scheduler.pass(2000);
    expect([shown(auto), formatIp(auto.duplicate!)]).to.deep.equal([[], '2001:db8:1:0:3656:78ff:fe9a:bcde']);
    const other = host();
    const [p] = ra().prefixes;
    other.auto.heard(ra({ prefixes: [{ ...p!, prefix: { ...p!.prefix, length: 56 } }] }), six('fe80::1'));
    other.scheduler.pass(2000);
    expect(shown(other.auto)).to.deep.equal([]);
  });

  it('finds a neighbour with its address on a real segment', () => {
    const text = good([
      'interface desk: on p2,',
      'interface desk: on p2, address6 fd00:61::1/64, advertises,',
    ]);
    const bench = new Bench(
      modelFrom(
        `${text.replace('station pc: at p2', 'switch s: at p2, jack 1 tag 1, jack 2 tag 1\nstation pc: at s/1, mac 02:61:00:00:00:09')}station twin: at s/2, address by dhcp, mac 02:61:00:00:00:09\n`,
      ),
    ).boot();
    const [pc, twin] = ['pc', 'twin'].map((n) => bench.hosts.get(n)!.addresses6.length);
    expect(pc! + twin!, 'two with one MAC: at most one of them has it').to.be.lessThan(2);
  });
});

describe('DHCPv6', () => {
  function both(server = {}) {
    const scheduler = new Scheduler();
    const log: string[] = [];
    const s = new Dhcpv6Server({
      mac: LINE,
      lends: mustPrefix('2001:db8:2::/64') as Prefix<Ipv6>,
      delegates: mustPrefix('2001:db8:100::/56') as Prefix<Ipv6>,
      names: [six('2001:db8:53::53')],
      seconds: 1000,
      ...server,
    });
    const client = (mac: typeof CALLER, mute = () => false): Dhcpv6Client => {
      const c = new Dhcpv6Client(
        scheduler,
        new Seeded(mac),
        mac,
        { address: true, prefix: true },
        (message: Dhcpv6) => {
          log.push(`${scheduler.now} ${message.type}`);
          const answer = mute() ? undefined : s.answer(message, scheduler.now);
          if (answer) scheduler.after(1, () => c.receive(answer));
        },
        () => {},
      );
      return c;
    };
    return { scheduler, client, log, s };
  }

  it('gives the lowest free address and the whole prefix, renews at half the time, rebinds, and lets go', () => {
    let mute = false;
    const { scheduler, client, log } = both();
    const c = client(CALLER, () => mute);
    c.start();
    scheduler.pass(10);
    expect([
      formatIp(c.lease!.address!),
      formatIp(c.lease!.delegated!.address),
      c.lease!.names.map(formatIp),
    ]).to.deep.equal(['2001:db8:2::2', '2001:db8:100::', ['2001:db8:53::53']]);
    mute = true;
    scheduler.pass(1_100_000);
    expect(log.slice(0, 4)).to.deep.equal(['0 solicit', '1 request', '500002 renew', '800002 rebind']);
    expect(c.lease, 'nobody answered in time').to.equal(undefined);
  });

  it('has another address for another client, and no second prefix', () => {
    const { scheduler, client } = both();
    const [a, b] = [client(CALLER), client(mustMac('02:00:00:00:00:03'))];
    a.start();
    scheduler.pass(10);
    b.start();
    scheduler.pass(10);
    expect([formatIp(b.lease!.address!), b.lease!.delegated]).to.deep.equal(['2001:db8:2::3', undefined]);
  });

  it('passes over an offer of nothing, and asks again', () => {
    const { scheduler, client, log } = both({ lends: undefined, delegates: undefined });
    client(CALLER).start();
    scheduler.pass(4000);
    expect(log).to.deep.equal(['0 solicit', '1000 solicit', '3000 solicit']);
  });
});
