/** Two boxes of one text: who has what they share, told by real advertisements and their timers. */
import { expect } from 'chai';
import { formatIp, formatMac } from '#core/addr';
import type { Ipv4 } from '#core/addr';
import {
  ETHERTYPE,
  VRRP_PROTOCOL,
  decodeArp,
  decodeEthernet,
  decodeIp,
  decodeVrrp,
  isIpv4Packet,
} from '#core/wire';
import type { Vrrp } from '#core/wire';
import { modelFrom } from '#core/testkit';
import { Bench } from './index';
import type { Tap } from './index';
import { Scheduler } from './scheduler';
import { VirtualRouter } from './virtual-router';

const TWO = (box = '') => `box a: priority 150, twin b priority 100${box}
zone world: upstream
zone office:
interface line: on p1, zone world, address 198.51.100.19/29, virtual .18 id 1 with .20, gateway .17, watch 192.0.2.1 every 2s lost 2, settle 4s
interface spare: on p5, zone world, address 203.0.113.2/29, gateway .1, priority 2
interface desk: on p3 tag 20, zone office, address 10.61.20.2/24, virtual .1 id 20 with .3, lends .50-.99, answers ping
passage office > world: allow
leave any > world: as interface
circuit line: at p1, block 198.51.100.16/29, gateway .17
circuit other: at p5, block 203.0.113.0/29, gateway .1
switch core: at p3, carries 20, jack 1 tag 20
station pc: at core/1, address by dhcp
far www.example: address 192.0.2.80, listens tcp 80
far noc.example: address 192.0.2.1
`;

describe('a virtual router', () => {
  /** One with another that is only spoken for. */
  function alone(priority: () => number) {
    const scheduler = new Scheduler();
    const said: string[] = [];
    const router = new VirtualRouter(scheduler, {
      id: 7,
      addresses: [],
      own: 10 as Ipv4,
      priority,
      send: (m) => said.push(`${scheduler.now} says ${m.priority}`),
      announce: () => said.push(`${scheduler.now} announces`),
      changed: () => said.push(`${scheduler.now} ${router.state}`),
    });
    router.start();
    return { scheduler, router, said };
  }
  const of = (priority: number, interval = 100): Vrrp => ({ id: 7, priority, interval, addresses: [] });

  it('waits three intervals and its skew, then advertises every second (RFC 9568 §6.1, §6.4.2)', () => {
    const { scheduler, said } = alone(() => 100);
    scheduler.pass(5000);
    // 3 s and (256 - 100) / 256 s.
    expect(said).to.deep.equal([
      '3609.375 active',
      '3609.375 announces',
      '3609.375 says 100',
      '4609.375 says 100',
    ]);
  });

  it('stays behind who is higher or equal, takes over from who is lower, and at once from who leaves', () => {
    const { scheduler, router, said } = alone(() => 100);
    for (let n = 0; n < 5; n++) {
      scheduler.pass(1000);
      router.heard(of(n % 2 ? 100 : 200), 11 as Ipv4);
    }
    expect(said).to.deep.equal([]);
    // Somebody else's virtual router says nothing to it.
    router.heard({ ...of(0), id: 8 }, 11 as Ipv4);
    router.heard(of(0), 11 as Ipv4);
    scheduler.pass(700);
    expect(said[0]).to.equal('5609.375 active');
    router.heard(of(99), 11 as Ipv4);
    expect(router.state).to.equal('active');
    // Of two with one priority the higher address stays (§6.4.3).
    router.heard(of(100), 9 as Ipv4);
    expect(router.state).to.equal('active');
    router.heard(of(100), 11 as Ipv4);
    expect(router.state).to.equal('backup');
    // The other advertises every four seconds: three of them and a skew that grows with them.
    router.heard(of(200, 400), 11 as Ipv4);
    scheduler.pass(14_000);
    expect(router.state).to.equal('backup');
    scheduler.pass(500);
    expect(router.state).to.equal('active');
    router.stop();
    expect(said.slice(-2)).to.deep.equal([`${scheduler.now} says 0`, `${scheduler.now} initialize`]);
  });
});

describe('two boxes', () => {
  /** A bench, and what went over the wires of the first box since it was switched on. */
  function booted(text: string) {
    const frames: { from: string; source: string; said: string }[] = [];
    const tap: Tap = (_time, from, _to, frame) => {
      const ethernet = decodeEthernet(frame.bytes);
      if (!ethernet.ok) return;
      const { source, destination, type, payload } = ethernet.value;
      const note = (said: string) =>
        frames.push({
          from: from.owner.name,
          source: `${formatMac(source)} > ${formatMac(destination)}`,
          said,
        });
      const arp = type === ETHERTYPE.arp ? decodeArp(payload) : undefined;
      if (arp?.ok && arp.value.senderIp === arp.value.targetIp) note(`has ${formatIp(arp.value.senderIp)}`);
      const packet = decodeIp(type, payload);
      if (!packet || !isIpv4Packet(packet) || packet.protocol !== VRRP_PROTOCOL) return;
      const read = decodeVrrp(packet.payload, packet.source, packet.destination);
      note(
        read.ok
          ? `${read.value.id} ${read.value.priority} ttl ${packet.ttl} from ${formatIp(packet.source)}`
          : 'bad',
      );
    };
    const told: string[] = [];
    const bench = new Bench(modelFrom(text), {
      tap,
      tell: (h) => {
        if ('box' in h) told.push(`${h.box} ${h.what} ${h.interface}`);
      },
    }).boot();
    return { bench, frames, told };
  }
  const pings = (bench: Bench): boolean => {
    const asked = bench.hosts.get('pc')!.endpoints.ping(0xc0000250 as Ipv4);
    bench.wait(() => asked.done, 3000);
    return asked.result === 'answered';
  };

  it('advertise by the virtual MAC address, and only the higher one has what is shared', () => {
    const { bench, frames, told } = booted(TWO());
    expect(told).to.deep.equal(['a took-over line', 'a took-over desk']);
    const own = new Set(frames.filter((f) => f.from === 'a').map((f) => `${f.source} ${f.said}`));
    expect([...own]).to.have.members([
      '00:00:5e:00:01:01 > ff:ff:ff:ff:ff:ff has 198.51.100.18',
      '00:00:5e:00:01:14 > ff:ff:ff:ff:ff:ff has 10.61.20.1',
      '00:00:5e:00:01:01 > 01:00:5e:00:00:12 1 150 ttl 255 from 198.51.100.19',
      '00:00:5e:00:01:14 > 01:00:5e:00:00:12 20 150 ttl 255 from 10.61.20.2',
    ]);
    expect(frames.filter((f) => f.from !== 'a')).to.deep.equal([]);
    const addresses = (box: typeof bench.twin) =>
      box!.interface('desk')!.addresses.map((a) => formatIp(a.address));
    expect(addresses(bench.box)).to.deep.equal(['10.61.20.2', '10.61.20.1']);
    expect(addresses(bench.twin)).to.deep.equal(['10.61.20.3']);
    // What a desk is told is what goes on when the box does not.
    expect(formatIp(bench.hosts.get('pc')!.dhcp!.lease!.gateway!)).to.equal('10.61.20.1');
  });

  it('lose a box whole, or one cable of it, and go on by the other; it takes back what it had', () => {
    for (const line of ['a', 'p1', 'p3']) {
      const { bench, told } = booted(TWO());
      told.length = 0;
      expect(pings(bench), `${line} before`).to.equal(true);
      bench.cut(line);
      bench.scheduler.pass(4000);
      expect(
        told.filter((t) => t.startsWith('b')),
        line,
      ).to.have.members(['b took-over line', 'b took-over desk']);
      expect(pings(bench), `${line} cut`).to.equal(true);
      bench.restore(line);
      bench.scheduler.pass(4000);
      expect(told.slice(-4), line).to.have.members([
        'a took-over line',
        'b stood-by line',
        'a took-over desk',
        'b stood-by desk',
      ]);
      bench.scheduler.pass(5000);
      expect(pings(bench), `${line} back`).to.equal(true);
    }
  });

  it('have cables of their own to a switch, where a port is several', () => {
    const text = TWO()
      .replace('box a', 'port up: over p3 p4\nbox a')
      .replace('on p3 tag 20', 'on up tag 20')
      .replace('core: at p3', 'core: at up');
    const { bench, told } = booted(text);
    expect(told).to.have.members(['a took-over line', 'a took-over desk']);
    told.length = 0;
    // One cable of two is not missed, the second is.
    bench.cut('p3');
    bench.scheduler.pass(6000);
    expect(told).to.deep.equal([]);
    bench.cut('p4');
    bench.scheduler.pass(6000);
    expect(told.filter((t) => t.startsWith('b'))).to.have.members(['b took-over line', 'b took-over desk']);
    expect(pings(bench)).to.equal(true);
    const other = booted(text).bench;
    other.cut('b');
    other.cut('a');
    other.scheduler.pass(6000);
    expect(pings(other)).to.equal(false);
  });

  it('give way to the other while an uplink that is tracked is dead', () => {
    const { bench, told } = booted(TWO(', lowers 60 without spare, lowers 5 without line'));
    told.length = 0;
    bench.cut('p5');
    bench.scheduler.pass(5000);
    expect(told).to.have.members([
      'b took-over line',
      'a stood-by line',
      'b took-over desk',
      'a stood-by desk',
    ]);
    expect(pings(bench)).to.equal(true);
    // Less than what is between them: it stays where it is.
    const other = booted(TWO(', lowers 40 without spare'));
    other.told.length = 0;
    other.bench.cut('p5');
    other.bench.scheduler.pass(8000);
    expect(other.told).to.deep.equal([]);
  });
});
