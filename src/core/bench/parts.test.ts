/** The smaller machines and clocks of the bench, each alone with virtual time. */
import { expect } from 'chai';
import fc from 'fast-check';
import { formatIp, formatMac, mustIpv4, mustMac } from '#core/addr';
import type { Ipv4, Mac, Services } from '#core/addr';
import { BROADCAST, decodeEthernet, encodeEthernet } from '#core/wire';
import type { Dhcp, Ipv4Packet } from '#core/wire';
import { Seeded } from '#core/base';
import { Aggregate } from './aggregate';
import { DhcpClient } from './dhcp-client';
import { Endpoints } from './endpoints';
import type { Attempt } from './endpoints';
import { Link, Nic } from './link';
import type { Frame, Machine } from './link';
import { Neighbours } from './neighbours';
import { readPacket } from './packet';
import { Scheduler } from './scheduler';
import { Switch } from './switch';
import { UplinkMonitor } from './uplinks';

const MAC = mustMac('02:00:00:00:00:01');

describe('a DHCP client', () => {
  /** A client whose messages are noted with their moment; answers are put in by hand. */
  function client() {
    const scheduler = new Scheduler();
    const sent: { at: number; message: Dhcp; to: string }[] = [];
    const leases: (string | undefined)[] = [];
    const c = new DhcpClient(
      scheduler,
      new Seeded(3),
      MAC,
      'pc',
      (message, to) => sent.push({ at: scheduler.now, message, to: to === 'broadcast' ? to : formatIp(to) }),
      (lease) => leases.push(lease && formatIp(lease.address)),
    );
    const last = () => sent[sent.length - 1]!;
    const answer = (type: Dhcp['type'], more: Partial<Dhcp> = {}) =>
      c.receive({
        ...last().message,
        reply: true,
        type,
        yourIp: mustIpv4('10.61.20.50'),
        server: mustIpv4('10.61.20.1'),
        mask: mustIpv4('255.255.255.0'),
        routers: [mustIpv4('10.61.20.1')],
        names: [],
        leaseTime: 800,
        ...more,
      });
    const bind = () => {
      c.start();
      answer('offer');
      answer('ack');
    };
    const log = () => sent.map((s) => `${s.at} ${s.message.type} ${s.to}`);
    return { c, scheduler, sent, leases, answer, bind, last, log };
  }

  it('asks again after 1, 2, 4 and 8 seconds, then every 8', () => {
    const t = client();
    t.c.start();
    t.scheduler.pass(24_000);
    expect(t.sent.map((s) => s.at)).to.deep.equal([0, 1000, 3000, 7000, 15_000, 23_000]);
    expect(new Set(t.sent.map((s) => s.message.type))).to.deep.equal(new Set(['discover']));
    expect(t.c.tries).to.equal(6);
  });

  it('asks for what was offered, and is bound by the acknowledgment', () => {
    const t = client();
    t.bind();
    expect(t.log()).to.deep.equal(['0 discover broadcast', '0 request broadcast']);
    expect(formatIp(t.sent[1]!.message.requested!)).to.equal('10.61.20.50');
    expect([t.c.state, ...t.leases]).to.deep.equal(['bound', '10.61.20.50']);
  });

  it('renews with its server at half the lease, then with anybody at seven eighths, then begins anew', () => {
    const t = client();
    t.bind();
    t.scheduler.pass(799_000);
    expect(t.log().slice(2)).to.deep.equal(['400000 request 10.61.20.1', '700000 request broadcast']);
    expect(formatIp(t.last().message.clientIp)).to.equal('10.61.20.50');
    t.scheduler.pass(2000);
    expect(t.leases).to.deep.equal(['10.61.20.50', undefined]);
    expect(t.last().message.type).to.equal('discover');
  });

  it('takes a new lease time when it renews, and counts from then', () => {
    const t = client();
    t.bind();
    t.scheduler.pass(400_000);
    t.answer('ack', { leaseTime: 2000 });
    t.scheduler.pass(999_000);
    expect(t.log().slice(3)).to.deep.equal([]);
    t.scheduler.pass(2000);
    expect(t.last().at).to.equal(1_400_000);
  });

  it('forgets its address when it is refused, with the reason', () => {
    const t = client();
    t.bind();
    t.c.renew();
    t.answer('nak', { message: 'address not available here' });
    expect([t.c.state, t.c.refused, t.c.lease]).to.deep.equal([
      'selecting',
      'address not available here',
      undefined,
    ]);
  });

  it('listens to nobody else’s answers', () => {
    const t = client();
    t.c.start();
    t.answer('offer', { transaction: 7 });
    t.answer('offer', { clientMac: 9 as Mac });
    t.answer('offer', { reply: false });
    t.answer('ack');
    expect([t.c.state, t.sent.length]).to.deep.equal(['selecting', 1]);
    t.c.stop();
    t.answer('offer');
    t.scheduler.pass(60_000);
    expect([t.c.state, t.sent.length]).to.deep.equal(['off', 1]);
  });
});

describe('the watch over an uplink', () => {
  function monitor(watches: number, settle = 30) {
    const scheduler = new Scheduler();
    const world = { carrier: true, addressed: true, gateway: true, far: true };
    const told: string[] = [];
    const m = new UplinkMonitor(
      scheduler,
      {
        name: 'line',
        every: 5,
        lost: 3,
        settle,
        watches: Array.from({ length: watches }, (_, i) => i as Ipv4),
        rests: () => false,
        carrier: () => world.carrier,
        addressed: () => world.addressed,
        gateway: () => mustIpv4('198.51.100.17'),
        probeNeighbour: (_, then) => scheduler.after(1, () => then(world.gateway)),
        ping: () => {
          const attempt: Attempt = { done: false, result: 'waiting' };
          scheduler.after(10, () => (attempt.result = world.far ? 'answered' : 'silence'));
          return attempt;
        },
      },
      () => told.push(`${Math.round(scheduler.now / 1000)} ${m.dead ?? 'alive'}`),
    );
    return { scheduler, world, told, m };
  }

  it('is dead at once without carrier, and used again after it has been good for a while', () => {
    const t = monitor(0);
    t.m.start();
    t.scheduler.pass(20_000);
    expect(t.m.alive).to.equal(true);
    t.world.carrier = false;
    t.m.refresh();
    expect(t.told).to.deep.equal(['20 carrier']);
    t.world.carrier = true;
    t.m.refresh();
    t.scheduler.pass(29_000);
    expect(t.m.alive).to.equal(false);
    t.scheduler.pass(10_000);
    expect(t.m.alive).to.equal(true);
  });

  it('needs three lost answers in a row, of the gateway or of every watch', () => {
    const gateway = monitor(0);
    gateway.m.start();
    gateway.scheduler.pass(6000);
    gateway.world.gateway = false;
    gateway.scheduler.pass(9000);
    expect(gateway.m.alive, 'two are not three').to.equal(true);
    gateway.scheduler.pass(6000);
    expect(gateway.m.dead).to.equal('neighbour');
    const watch = monitor(2);
    watch.m.start();
    watch.scheduler.pass(6000);
    watch.world.far = false;
    watch.scheduler.pass(17_000);
    expect(watch.m.dead).to.equal('watch');
    const nobody = monitor(0);
    nobody.world.far = false;
    nobody.m.start();
    nobody.scheduler.pass(60_000);
    expect(nobody.m.alive, 'what is not watched is not noticed').to.equal(true);
  });

  it('waits for its first address without counting that as a failure', () => {
    const t = monitor(0);
    t.world.addressed = false;
    t.m.start();
    expect(t.m.dead).to.equal('address');
    t.world.addressed = true;
    t.m.refresh();
    expect(t.m.alive, 'at once, not after settling').to.equal(true);
  });
});

describe('who has which address', () => {
  it('asks three times a second apart, answers all who wait, and believes an answer for a minute', () => {
    const scheduler = new Scheduler();
    const asked: number[] = [];
    const n = new Neighbours(scheduler, () => asked.push(scheduler.now));
    const got: (Mac | undefined)[] = [];
    const [a, b] = [mustIpv4('10.0.0.1'), mustIpv4('10.0.0.2')];
    n.resolve(a, (mac) => got.push(mac));
    n.resolve(a, (mac) => got.push(mac));
    scheduler.pass(5000);
    expect([asked, got]).to.deep.equal([
      [0, 1000, 2000],
      [undefined, undefined],
    ]);
    n.resolve(b, (mac) => got.push(mac));
    n.learn(b, MAC);
    n.resolve(b, (mac) => got.push(mac));
    expect(got.slice(2)).to.deep.equal([MAC, MAC]);
    expect(asked.length).to.equal(4);
    scheduler.pass(61_000);
    n.resolve(b, () => undefined);
    expect(asked.length, 'asked anew').to.equal(5);
  });
});

/** A machine that notes what it gets: the tag, or `-`. */
class Ear implements Machine {
  readonly nic: Nic;
  readonly heard: string[] = [];
  constructor(readonly name: string) {
    this.nic = new Nic(this, name);
  }
  receive(_nic: Nic, frame: Frame): void {
    const e = decodeEthernet(frame.bytes);
    if (e.ok) this.heard.push(String(e.value.vlan?.id ?? '-'));
  }
  say(from: Mac, to: Mac, tag?: number): void {
    this.nic.send({
      bytes: encodeEthernet({
        destination: to,
        source: from,
        type: 0x1234,
        vlan: tag === undefined ? undefined : { id: tag, pcp: 0 },
        payload: new Uint8Array(46),
      }),
    });
  }
}

describe('a switch', () => {
  function setUp() {
    const scheduler = new Scheduler();
    const chance = new Seeded(1);
    const sw = new Switch('core');
    const ears = new Map<string, Ear>();
    const plug = (name: string, native: number, tagged?: number[]) => {
      const ear = new Ear(name);
      ears.set(name, ear);
      new Link(scheduler, chance, ear.nic, sw.addPort(name, native, tagged && new Set(tagged)));
    };
    plug('trunk', 1, [20, 30]);
    plug('a20', 20);
    plug('b20', 20);
    plug('c30', 30);
    plug('d1', 1);
    const heard = () => {
      scheduler.pass(10);
      const out = [...ears].flatMap(([name, e]) => e.heard.map((tag) => `${name} ${tag}`));
      for (const e of ears.values()) e.heard.length = 0;
      return out;
    };
    return { ears, heard, ear: (name: string) => ears.get(name)! };
  }

  it('keeps VLANs apart, tags on its trunk, and drops tags where they have no business', () => {
    const t = setUp();
    const rows: [string, number | undefined, string[], string][] = [
      ['a20', undefined, ['trunk 20', 'b20 -'], 'an access port to its VLAN'],
      ['trunk', 30, ['c30 -'], 'a tag to its access port'],
      ['trunk', undefined, ['d1 -'], 'untagged is the native VLAN'],
      ['d1', undefined, ['trunk -'], 'the native VLAN leaves untagged'],
      ['trunk', 40, [], 'a tag that is not carried'],
      ['a20', 20, [], 'a tag on an access port'],
    ];
    for (const [from, tag, want, why] of rows) {
      t.ear(from).say(MAC, BROADCAST, tag);
      expect(t.heard(), why).to.deep.equal(want);
    }
  });

  it('learns where an address is, in each VLAN on its own', () => {
    const t = setUp();
    const [x, y] = [mustMac('02:00:00:00:00:0a'), mustMac('02:00:00:00:00:0b')];
    t.ear('b20').say(y, BROADCAST);
    t.heard();
    t.ear('a20').say(x, y);
    expect(t.heard()).to.deep.equal(['b20 -']);
    t.ear('c30').say(x, y);
    expect(t.heard(), 'unknown there, so flooded there').to.deep.equal(['trunk 30']);
    expect(formatMac(y)).to.equal('02:00:00:00:00:0b');
  });
});

describe('the ends of a conversation', () => {
  /** Two hosts with a wire between them that loses the packets whose numbers are given. */
  function pair(lost: (n: number) => boolean, listens: Services = [{ kind: 'any' }], silent = false) {
    const scheduler = new Scheduler();
    const [left, right] = [mustIpv4('10.0.0.1'), mustIpv4('10.0.0.2')];
    let count = 0;
    const ends: Endpoints[] = [];
    const side = (own: Ipv4, other: number, takes: Services, quiet: boolean) =>
      new Endpoints(scheduler, {
        silent: quiet,
        listens: () => takes,
        sourceFor: () => own,
        send: (packet: Ipv4Packet) => {
          if (!lost(count++)) scheduler.after(1, () => ends[other]!.deliver(readPacket(packet), {}));
        },
      });
    ends.push(side(left, 1, [], false), side(right, 0, listens, silent));
    return { scheduler, left: ends[0]!, right };
  }
  const done = (t: { scheduler: Scheduler }, a: Attempt) => {
    t.scheduler.runUntil(() => a.done, 60_000);
    return a;
  };

  it('carry a full segment there and back, whichever single packet is lost', () => {
    for (let n = -1; n < 8; n++) {
      const t = pair((i) => i === n);
      const a = done(t, t.left.connect(t.right, 443, 1460));
      expect([a.result, a.data?.length, a.opened], `packet ${n} lost`).to.deep.equal([
        'answered',
        1460,
        true,
      ]);
    }
  });

  it('hold against any pattern of loss that leaves something: answered in the end, or silence, never stuck', () => {
    fc.assert(
      fc.property(fc.array(fc.boolean(), { minLength: 40, maxLength: 40 }), (pattern) => {
        const t = pair((i) => pattern[i % 40]!);
        const a = done(t, t.left.connect(t.right, 80, 500));
        expect(a.done).to.equal(true);
        expect(['answered', 'silence']).to.include(a.result);
        if (a.result === 'answered') expect(a.data).to.have.length(500);
      }),
    );
  });

  it('tell a refusal, a silence and an answer apart', () => {
    const closed = pair(() => false, []);
    expect(done(closed, closed.left.connect(closed.right, 443, 1)).result).to.equal('refused');
    expect(done(closed, closed.left.ask(closed.right, 9, new Uint8Array(4))).result).to.equal('refused');
    const dead = pair(() => true);
    expect(done(dead, dead.left.connect(dead.right, 443, 1)).result).to.equal('silence');
    expect(done(dead, dead.left.ping(dead.right)).result).to.equal('silence');
    const quiet = pair(() => false, [{ kind: 'any' }], true);
    expect(done(quiet, quiet.left.ping(quiet.right)).result).to.equal('silence');
    const good = pair(() => false);
    const ping = done(good, good.left.ping(good.right));
    expect([ping.result, formatIp(ping.from!), ping.ttl]).to.deep.equal(['answered', '10.0.0.2', 64]);
    expect([...done(good, good.left.ask(good.right, 7, Uint8Array.of(1, 2, 3))).data!]).to.deep.equal([
      1, 2, 3,
    ]);
  });
});

describe('a link aggregation', () => {
  /** Two machines with an aggregation each, over cables that can be cut or fall silent with their light on. */
  function two(a: 'lacp' | 'static', b: 'lacp' | 'static', cables = 3, fast = true) {
    const scheduler = new Scheduler();
    const got: { at: number; by: string }[] = [];
    const changes: number[] = [];
    const ends = (['left', 'right'] as const).map((name, i) => {
      const machine: Machine = {
        name,
        receive: (nic, frame) => {
          const taken = end.receive(nic, frame);
          if (taken && name === 'right') got.push({ at: scheduler.now, by: nic.name });
        },
        carrierChanged: (nic) => {
          if (nic === end.nic) changes.push(scheduler.now);
          else end.carrierChanged(nic);
        },
      };
      const sockets = Array.from({ length: cables }, (_, k) => `${name}-${k}`);
      const mode = i === 0 ? a : b;
      const end: Aggregate = new Aggregate(
        machine,
        { name, sockets, mode, fast, system: (MAC + i) as Mac },
        scheduler,
      );
      return end;
    });
    const [left, right] = ends as [Aggregate, Aggregate];
    const links = left.sockets.map(
      (socket, k) => new Link(scheduler, new Seeded(7), socket, right.sockets[k]!),
    );
    left.start();
    right.start();
    scheduler.pass(10);
    /** Sends a frame of each of a hundred flows; by how many cables they came. */
    const flows = () => {
      got.length = 0;
      for (let i = 0; i < 100; i++) {
        const destination = (MAC + 100 + i) as Mac;
        left.nic.send({
          bytes: encodeEthernet({ destination, source: MAC, type: 0x0800, payload: new Uint8Array(50) }),
        });
      }
      scheduler.pass(5);
      return { arrived: got.length, by: new Set(got.map((g) => g.by)).size };
    };
    return { scheduler, left, right, links, flows, changes };
  }

  it('shares flows over all links that both ends agree on, and over those that are left', () => {
    const { links, flows, changes } = two('lacp', 'lacp');
    expect(flows()).to.deep.equal({ arrived: 100, by: 3 });
    links[1]!.whole = false;
    expect(flows()).to.deep.equal({ arrived: 100, by: 2 });
    changes.length = 0;
    links[0]!.whole = false;
    expect([flows(), changes.length]).to.deep.equal([{ arrived: 100, by: 1 }, 0]);
    links[2]!.whole = false;
    expect([flows().arrived, changes.length]).to.deep.equal([0, 2]);
  });

  it('leaves a link that has light and says nothing, after three data units that did not come', () => {
    const { scheduler, left, links, flows } = two('lacp', 'lacp');
    links[2]!.loss = 100;
    scheduler.pass(2_500);
    expect(left.links.length).to.equal(3);
    scheduler.pass(2_000);
    expect([left.links.length, flows()]).to.deep.equal([2, { arrived: 100, by: 2 }]);
    links[2]!.loss = 0;
    scheduler.pass(2_000);
    expect(left.links.length).to.equal(3);
    // By static nobody notices.
    const blind = two('static', 'static');
    blind.links[2]!.loss = 100;
    blind.scheduler.pass(60_000);
    expect([blind.left.links.length, blind.flows().arrived < 100]).to.deep.equal([3, true]);
  });

  it('goes by one link where the other end does not speak LACP, and then half of what that sends is lost', () => {
    const { scheduler, left, right, flows } = two('lacp', 'static', 2);
    expect(left.links.length).to.equal(0);
    scheduler.pass(4_000);
    expect([left.links.length, right.links.length]).to.deep.equal([1, 2]);
    expect(flows()).to.deep.equal({ arrived: 100, by: 1 });
  });
});
