/** The machines on the bench, one behaviour at a time. */
import { expect } from 'chai';
import { formatIp, mustIpv4 } from '#core/addr';
import type { Ipv4, Mac } from '#core/addr';
import { GOOD, good, modelFrom } from '#core/testkit';
import { ETHERTYPE, RELAY_OPTION, decodeDhcp, decodeEthernet, decodeIp } from '#core/wire';
import { DhcpServer } from './dhcp-server';
import { FlowTable, fromSource, translated } from './flows';
import { Bench } from './index';
import type { BenchOptions } from './index';
import { readPacket } from './packet';
import { Scheduler } from './scheduler';
import type { Dhcp, IpPacket } from '#core/wire';

const boot = (text: string) => new Bench(modelFrom(text)).boot();
const WWW = mustIpv4('192.0.2.80');

describe('virtual time', () => {
  it('runs events by their moment, then by their making, and never looks back', () => {
    const s = new Scheduler();
    const ran: string[] = [];
    s.after(5, () => ran.push('b'));
    s.after(1, () => {
      ran.push('a');
      s.after(4, () => ran.push('c'));
      s.after(-3, () => ran.push('now'));
    });
    s.cancel(s.after(2, () => ran.push('cancelled')));
    s.runUntil(() => false, 100);
    expect(ran).to.deep.equal(['a', 'now', 'b', 'c']);
    expect(s.now).to.equal(100);
  });
});

describe('the flow table', () => {
  const ends = (source: string, port: number) => ({
    source: mustIpv4(source),
    destination: WWW,
    sourcePort: port,
    destinationPort: 443,
  });
  const tables = { forward: 'main', back: 'main' };
  const shown = mustIpv4('198.51.100.18');

  it('moves the port where two flows would look alike outside, and brings both home', () => {
    const t = new FlowTable<string>();
    const a = t.add(
      6,
      ends('10.61.20.50', 5000),
      fromSource(ends('10.61.20.50', 5000), shown),
      tables,
      'a',
      0,
    )!;
    const b = t.add(
      6,
      ends('10.61.20.51', 5000),
      fromSource(ends('10.61.20.51', 5000), shown),
      tables,
      'b',
      0,
    )!;
    expect(a.back.destinationPort).to.equal(5000);
    expect(b.back.destinationPort).to.not.equal(5000);
    for (const flow of [a, b]) {
      const home = t.find('main', 6, flow.back, 1)!;
      expect([home.flow.about, home.direction]).to.deep.equal([flow.about, 'back']);
      expect(translated(home).destination).to.equal(flow.forward.source);
      expect(translated(home).destinationPort).to.equal(5000);
    }
  });

  it('tells pings apart by their identifier', () => {
    const t = new FlowTable<string>();
    const echo = (source: string) => ({
      source: mustIpv4(source),
      destination: WWW,
      sourcePort: 7,
      destinationPort: 7,
    });
    t.add(1, echo('10.61.20.50'), fromSource(echo('10.61.20.50'), shown), tables, 'a', 0);
    const b = t.add(1, echo('10.61.20.51'), fromSource(echo('10.61.20.51'), shown), tables, 'b', 0)!;
    expect(b.back.sourcePort).to.equal(b.back.destinationPort).and.not.equal(7);
  });

  it('forgets what has been idle, by protocol', () => {
    const t = new FlowTable<string>();
    const e = ends('10.61.20.50', 5000);
    t.add(17, e, fromSource(e, shown), tables, 'x', 0);
    expect(t.find('main', 17, e, 179_000)).to.not.equal(undefined);
    expect(t.find('main', 17, e, 181_000)).to.equal(undefined);
    expect(t.size).to.equal(0);
  });
});

describe('a DHCP server', () => {
  const message = (type: Dhcp['type'], mac: number, more: Partial<Dhcp> = {}): Dhcp => ({
    reply: false,
    type,
    transaction: 1,
    clientIp: 0 as Ipv4,
    others: new Map(),
    yourIp: 0 as Ipv4,
    clientMac: mac as Mac,
    broadcast: true,
    routers: [],
    names: [],
    ...more,
  });
  const server = () =>
    new DhcpServer({
      address: mustIpv4('10.61.20.1'),
      pools: [{ ranges: [{ first: mustIpv4('10.61.20.50'), last: mustIpv4('10.61.20.52') }], seconds: 600 }],
      keeps: [
        { address: mustIpv4('10.61.20.51'), mac: 9 as Mac },
        { address: mustIpv4('10.61.99.51'), mac: 8 as Mac },
      ],
      taken: new Set([mustIpv4('10.61.20.1')]),
      terms: (address) =>
        address >> 8 === mustIpv4('10.61.20.0') >> 8
          ? { length: 24, gateway: mustIpv4('10.61.20.1'), names: [] }
          : undefined,
    });
  const given = (s: DhcpServer, mac: number, now: number) => {
    const offer = s.answer(message('discover', mac), now);
    const ack =
      offer && s.answer(message('request', mac, { requested: offer.yourIp, server: offer.server }), now);
    return ack?.type === 'ack' ? formatIp(ack.yourIp) : ack?.type;
  };

  it('gives the lowest free address, keeps what is kept, and is full when it is', () => {
    const s = server();
    expect([given(s, 1, 0), given(s, 2, 0), given(s, 9, 0), given(s, 3, 0)]).to.deep.equal([
      '10.61.20.50',
      '10.61.20.52',
      '10.61.20.51',
      undefined,
    ]);
    expect(s.full(0)).to.equal(true);
    expect(given(s, 1, 1000), 'the same client, the same address').to.equal('10.61.20.50');
    expect(given(s, 3, 600_500), 'a lease that ran out is free again').to.equal('10.61.20.52');
  });

  it('gives one of the pool to whom an address outside every network is kept for', () => {
    expect(given(server(), 8, 0)).to.equal('10.61.20.50');
  });

  it('refuses an address that is not to be had', () => {
    const answer = server().answer(message('request', 1, { requested: mustIpv4('10.99.0.5') }), 0);
    expect(answer?.type).to.equal('nak');
  });
});

describe('the box on the bench', () => {
  it('answers ARP for its own addresses and those it shows, and for no others', () => {
    const bench = boot(
      good(
        [', gateway .17', ', also .19, gateway .17'],
        ['leave any', 'leave office > line: as 198.51.100.20\nleave any'],
      ),
    );
    const northmoor = bench.providers.get('northmoor')!;
    const answered = (address: string) => {
      let mac: number | undefined;
      (
        northmoor as unknown as {
          segment: { neighbours: { probe(a: Ipv4, then: (m?: Mac) => void): void } };
        }
      ).segment.neighbours.probe(mustIpv4(address), (m) => (mac = m));
      bench.scheduler.pass(5000);
      return mac !== undefined;
    };
    expect(
      ['198.51.100.18', '198.51.100.19', '198.51.100.20', '198.51.100.21', '10.61.20.1'].map(answered),
    ).to.deep.equal([true, true, true, false, false]);
  });

  it('refuses what starts no flow, and what claims to be the box or one of its networks', () => {
    const bench = boot(GOOD);
    const www = bench.fars.get('www.example')!;
    const hosts = bench.hosts.get('pc')!;
    // A ping from the internet that claims to come from the office.
    const forged = bench.newMark();
    www.endpoints.ping(mustIpv4('198.51.100.18'), { mark: forged }, mustIpv4('10.61.20.50'));
    bench.scheduler.pass(3000);
    expect(bench.stepsOf(forged).map((s) => s.code)).to.include('guard');
    const own = bench.newMark();
    hosts.endpoints.ping(WWW, { mark: own }, mustIpv4('10.61.20.1'));
    bench.scheduler.pass(3000);
    expect(bench.stepsOf(own).map((s) => s.code)).to.include('own-source');
  });

  it('brings ICMP errors home through the translation', () => {
    const bench = boot(GOOD);
    const pc = bench.hosts.get('pc')!;
    // UDP to a port nobody listens on: the far host's "port unreachable" must reach the desk.
    const attempt = pc.endpoints.ask(WWW, 9999, new Uint8Array(4));
    bench.wait(() => attempt.done, 5000);
    expect([attempt.result, formatIp(attempt.error!.from)]).to.deep.equal(['refused', '192.0.2.80']);
  });

  it('turns away with a reset for TCP and "admin prohibited" for the rest', () => {
    const bench = boot(good(['office > world: allow', 'office > world: reject']));
    const pc = bench.hosts.get('pc')!;
    const tcp = pc.endpoints.connect(WWW, 443, 0);
    const ping = pc.endpoints.ping(WWW);
    bench.wait(() => tcp.done && ping.done, 9000);
    expect([tcp.result, ping.result, ping.error?.code]).to.deep.equal(['refused', 'unreachable', 13]);
  });

  it('drops a silent station out of its lease only when the lease is over, and renews before', () => {
    const bench = boot(good(['.50-.199', '.50-.199 for 10m']));
    const pc = bench.hosts.get('pc')!;
    const since = pc.dhcp!.lease!.since;
    bench.scheduler.pass(400_000);
    expect(pc.dhcp!.lease!.since, 'renewed at half time').to.be.greaterThan(since);
    bench.cut('p2');
    bench.scheduler.pass(300_000);
    expect(pc.address, 'kept while it lasts').to.not.equal(undefined);
    bench.scheduler.pass(700_000);
    expect(pc.address, 'then gone').to.equal(undefined);
    bench.restore('p2');
    bench.scheduler.pass(20_000);
    expect(formatIp(pc.address!.address), 'and asked for anew').to.equal('10.61.20.50');
  });

  it('asks a DHCP server elsewhere by a relay, says by which side, and asks again when a lease runs out', () => {
    const text = (passage: string) =>
      `${good()}interface rack: on p5, zone rack, address 10.61.3.1/24
zone rack:
interface lab: on p6, zone lab, address 10.61.40.1/24, relays 10.61.3.5
zone lab:
${passage}station den: at p5, address 10.61.3.5/24, gateway 10.61.3.1,
  lends 10.61.3.50-.60 names 192.0.2.1,
  lends 10.61.40.50-.60 in 10.61.40.0/24 for 10m names 192.0.2.53
station mic: at p6, address by dhcp
`;
    const asked = (passage: string) => {
      const heard: string[] = [];
      const tap: NonNullable<BenchOptions['tap']> = (_t, _from, to, { bytes }) => {
        const read = decodeEthernet(bytes);
        if (!read.ok || read.value.type !== ETHERTYPE.ipv4) return;
        const { inner } = readPacket(decodeIp(ETHERTYPE.ipv4, read.value.payload) as IpPacket);
        if (inner.protocol !== 'udp' || ![67, 68].includes(inner.udp.destinationPort)) return;
        const message = decodeDhcp(inner.udp.data);
        if (!message.ok) return;
        const { type, relay, others } = message.value;
        const side = others.get(RELAY_OPTION);
        heard.push(
          `${to.name} ${type} ${inner.udp.sourcePort}>${inner.udp.destinationPort} ${relay === undefined ? '-' : formatIp(relay)} ${side ? String.fromCharCode(...side.subarray(2)) : '-'}`,
        );
      };
      const bench = new Bench(modelFrom(text(passage)), { tap }).boot();
      const mic = bench.hosts.get('mic')!;
      const first = heard.filter((h) => !h.includes('10.61.20.'));
      heard.length = 0;
      const since = mic.dhcp!.lease!.since;
      bench.scheduler.pass(599_000);
      const { address, gateway, names } = mic.dhcp!.lease!;
      expect(mic.dhcp!.lease!.since).to.be.greaterThan(since);
      return { first, lease: [address, gateway!, ...names].map(formatIp), later: heard };
    };
    const open = asked('passage lab > rack: allow udp 67\n');
    expect(open.lease).to.deep.equal(['10.61.40.50', '10.61.40.1', '192.0.2.53']);
    expect(open.first.filter((h) => / (lab|10\.61\.40\.1) | - -$/.test(h))).to.include.members([
      'p6 discover 68>67 - -',
      'eth0 discover 67>67 10.61.40.1 lab',
      'p5 offer 67>67 10.61.40.1 lab',
      'eth0 offer 67>68 - -',
      'eth0 ack 67>68 - -',
    ]);
    expect(open.later.slice(0, 2), 'who renews asks the server itself').to.deep.equal([
      'p6 request 68>67 - -',
      'eth0 request 68>67 - -',
    ]);
    // Where no passage lets it ask the server itself, it asks everybody when seven eighths are over.
    const shut = asked('');
    expect(shut.later).to.include.members(['p6 request 68>67 - -', 'eth0 request 67>67 10.61.40.1 lab']);
    expect(shut.later).to.not.include('eth0 request 68>67 - -');
    expect(shut.lease).to.deep.equal(open.lease);
  });

  it('tells options and keeps addresses as a station’s server, and shares a segment with it', () => {
    const { bench, leases } = (() => {
      const booted = boot(
        good([DESK_ON, 'on p2'], ['lends .50-.199', 'lends .50']).replace(
          'station pc: at p2, address by dhcp',
          `switch core: at p2, jack 1 tag 1, jack 2 tag 1, jack 3 tag 1, jack 4 tag 1
station den: at core/4, address 10.61.20.5/24, gateway .1, lends .60-.61 names 192.0.2.53,
  option ntp 192.0.2.123, option boot-file pxe.0 for .9, keeps .9 for 02:61:00:00:20:09
station pc: at core/1, address by dhcp
station late: at core/2, address by dhcp
station kept: at core/3, address by dhcp, mac 02:61:00:00:20:09`,
        ),
      );
      const of = (name: string) => booted.hosts.get(name)!.dhcp!.lease!;
      return { bench: booted, leases: ['pc', 'late', 'kept'].map(of) };
    })();
    // The box is heard first, and has one to give; the other server keeps one for a MAC address.
    expect(leases.map((l) => formatIp(l.address))).to.deep.equal([
      '10.61.20.50',
      '10.61.20.60',
      '10.61.20.9',
    ]);
    expect(leases.map((l) => [...l.others.keys()])).to.deep.equal([[], [42], [42, 67]]);
    const met = bench.hosts.get('pc')!.endpoints.ping(leases[2]!.address);
    bench.wait(() => met.done, 5000);
    expect(met.result).to.equal('answered');
  });

  it('counts frames with a tag that nobody takes', () => {
    const bench = boot(
      `${good([DESK_ON, 'on p2 tag 20']).replace('station pc: at p2', 'switch core: at p2, carries 20 30, jack 1 tag 20, jack 2 tag 30\nstation stray: at core/2, address 10.9.9.9/24, gateway 10.9.9.1\nstation pc: at core/1')}`,
    );
    bench.hosts.get('stray')!.endpoints.ping(mustIpv4('10.9.9.1'));
    bench.scheduler.pass(4000);
    expect([...bench.box.unclaimed.keys()]).to.deep.equal(['p2 tag 30']);
    expect(bench.hosts.get('pc')!.address).to.not.equal(undefined);
  });

  it('bridges its members without asking the rules, and routes for both', () => {
    const bench = boot(`${good(['on p2', 'bridge p2 p3'])}station mate: at p3, address by dhcp\n`);
    const [pc, mate] = [bench.hosts.get('pc')!, bench.hosts.get('mate')!];
    const across = pc.endpoints.ping(mate.address!.address);
    const out = mate.endpoints.ping(WWW);
    bench.wait(() => across.done && out.done, 5000);
    expect([across.result, out.result]).to.deep.equal(['answered', 'answered']);
  });

  it('replays bit for bit from the same seed', () => {
    const run = () => {
      const seen: string[] = [];
      new Bench(modelFrom(GOOD), {
        seed: 7,
        tap: (time, from, _to, frame) => seen.push(`${time} ${from.name} ${[...frame.bytes].join()}`),
      }).boot();
      return seen.join('\n');
    };
    expect(run()).to.equal(run());
    const tags = new Set<number | undefined>();
    new Bench(modelFrom(GOOD), {
      tap: (_t, _f, _to, frame) => {
        const e = decodeEthernet(frame.bytes);
        tags.add(e.ok ? e.value.vlan?.id : -1);
      },
    }).boot();
    expect([...tags], 'untagged and readable').to.deep.equal([undefined]);
  });
});

const DESK_ON = 'on p2';
