/** Two boxes told their generations, keepalived and Kea with them, and the same two on the bench. */
import { spawn, spawnSync } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect } from 'chai';
import { memo } from '#core/base';
import { Bench } from '#core/bench';
import { toTwin } from '#core/edits';
import { generationOf, streamOf } from '#core/linux';
import { runDrill } from '#core/proof/drills';
import { changed, modelFrom, reachFrom, siteFrom } from '#core/testkit';
import { VRRP_PROTOCOL, decodeEthernet, decodeIp, decodeVrrp, isIpv4Packet } from '#core/wire';
import { hingeText } from '../../src/lib/server/hinge';
import { OwnRoot } from '../../src/lib/server/practice/root';
import { pause, until } from '../live/field';
import { endNamespaces, whyNot } from './lab';
import { Pace } from './pace';

const TEXT = `box first: priority 150, twin second priority 100, lowers 60 without spare
zone world: upstream
zone office:
interface fibre: on p1, zone world, address 198.51.100.19/29, virtual .18 id 1 with .20, gateway .17, answers ping
interface spare: on p2, zone world, address 203.0.113.2/29, gateway .1, priority 2, watch 192.0.2.1 every 1s lost 2, settle 2s
interface desk: on p3, zone office, address 10.61.20.2/24, virtual .1 .9 id 20 with .3, lends .100-.120, answers ping
interface guests: on p4, zone office, address 10.61.40.1/24, lends .10-.20
passage office > world: allow
leave any > fibre: as 198.51.100.18
leave any > spare: as interface
switch core: at p3, jack 1 tag 1
station pc: at core/1, address 10.61.20.50/24, gateway .1
`;
const DOOR = 'door orders: 198.51.100.21 tcp 443 > 10.61.20.50 tcp 443\n';
const FAR = '192.0.2.1';
/** What the active one lends, and what is the first one's alone. */
const LENDS = 'active/kea4-active.main.json';
const ALONE = 'kea4-main.json';

/** What an advertisement says, by its packet in a frame; undefined where it is none. */
function saidIn(frame: Uint8Array) {
  const ethernet = decodeEthernet(frame);
  const packet = ethernet.ok ? decodeIp(ethernet.value.type, ethernet.value.payload) : undefined;
  if (!packet || !isIpv4Packet(packet) || packet.protocol !== VRRP_PROTOCOL) return undefined;
  const said = decodeVrrp(packet.payload, packet.source, packet.destination);
  return said.ok
    ? { ...said.value, source: packet.source, destination: packet.destination, ttl: packet.ttl }
    : said.error;
}

/** Two boxes between a provider and a client, each side on one wire, until it is taken up. */
class Pair {
  private readonly own = `jg${process.pid}`;
  private readonly folder = mkdtempSync(join(tmpdir(), 'jg-pair-'));
  readonly first = `${this.own}-2f`;
  readonly second = `${this.own}-2s`;
  readonly isp = `${this.own}-2i`;
  readonly client = `${this.own}-2c`;
  private readonly wires = `${this.own}-2w`;
  private readonly all = [this.first, this.second, this.isp, this.client, this.wires];

  constructor() {
    for (const n of this.all) {
      this.ip('netns', 'add', n);
      this.ip('-n', n, 'link', 'set', 'lo', 'up');
    }
    for (const wire of ['outside', 'inside', 'spare']) {
      this.ip('-n', this.wires, 'link', 'add', wire, 'type', 'bridge');
      this.ip('-n', this.wires, 'link', 'set', wire, 'up');
    }
    for (const box of [this.first, this.second]) {
      this.plug(box, 'p1', 'outside');
      this.plug(box, 'p3', 'inside');
    }
    this.plug(this.first, 'p2', 'spare');
    this.plug(this.first, 'p4', 'spare');
    this.plug(this.isp, 'e1', 'outside');
    this.plug(this.isp, 'e2', 'spare');
    this.plug(this.client, 'eth0', 'inside');
    this.in(this.isp, 'ip addr add 198.51.100.17/29 dev e1; ip addr add 203.0.113.1/29 dev e2');
    this.in(this.isp, `ip addr add ${FAR}/32 dev lo`);
    this.in(
      this.client,
      'ip addr add 10.61.20.50/24 dev eth0; ip route add default via 10.61.20.1; ip addr add 10.61.20.51/24 dev eth0',
    );
  }

  /** What each box has for a disk. */
  private readonly roots = new Map<string, OwnRoot>();
  private root(box: string): OwnRoot {
    return memo(this.roots, box, () => {
      const at = join(this.folder, box);
      mkdirSync(at);
      const root = new OwnRoot(at);
      root.install('jolly-gate-hinge', hingeText());
      return root;
    });
  }

  private ip = (...args: string[]) => spawnSync('ip', args, { encoding: 'utf8' });

  private plug(ns: string, port: string, wire: string): void {
    const end = this.end(ns, port);
    this.ip('link', 'add', port, 'netns', ns, 'type', 'veth', 'peer', 'name', end, 'netns', this.wires);
    this.ip('-n', this.wires, 'link', 'set', end, 'master', wire, 'up');
    this.ip('-n', ns, 'link', 'set', port, 'up');
  }
  private end = (ns: string, port: string): string => `${ns.slice(-1)}-${port}`;

  /** The cable of a port, out or in. */
  cable(ns: string, port: string, is: 'up' | 'down'): void {
    this.ip('-n', this.wires, 'link', 'set', this.end(ns, port), is);
  }

  in = (ns: string, command: string): string =>
    spawnSync('ip', ['netns', 'exec', ns, 'sh', '-c', command], { encoding: 'utf8' }).stdout;

  beside = (ns: string, command: string): ChildProcess =>
    spawn('ip', ['netns', 'exec', ns, 'sh', '-c', command], { stdio: ['ignore', 'pipe', 'ignore'] });

  /** What the hinge of a box answers to an order. */
  hinge(box: string, order: readonly string[], input?: string): Record<string, unknown> {
    const done = this.root(box).run(box, `jolly-gate-hinge ${order.join(' ')}`, input);
    return JSON.parse(done.stdout.split('\n').at(-2)!) as Record<string, unknown>;
  }

  /** Tells a box a text, through a rehearsal and a trial that is stayed with. */
  tell(box: string, text: string): void {
    const g = generationOf(modelFrom(text), []);
    expect(g.lacks).to.deep.equal([]);
    const orders = [
      ['stage', g.id],
      ['try', g.id, '3600'],
      ['stay', g.id],
    ];
    for (const order of orders) {
      const answer = this.hinge(box, order, order[0] === 'stage' ? streamOf(g) : undefined);
      expect(answer, JSON.stringify(answer)).to.include({ ok: true });
    }
  }

  has = (box: string, port: string): string[] =>
    [...this.in(box, `ip -o -4 addr show dev ${port}`).matchAll(/inet (\S+)/g)].map((m) => m[1]!);

  /** Whether a daemon runs on a box, by the file that it is told. */
  runs = (box: string, file: string): boolean =>
    this.in(box, `cat $(ip netns pids ${box} | sed 's|.*|/proc/&/cmdline|') | tr '\\0' ' '`).includes(
      ` /run/jolly-gate/conf/${file}`,
    );

  /** The port that whoever has an address is at, as somebody's neighbour table has it. */
  whoHas(address: string): string {
    const mac = /lladdr (\S+)/.exec(this.in(this.isp, `ip neigh show ${address}`))?.[1] ?? 'nobody';
    return (
      [this.first, this.second].find((b) => this.in(b, 'cat /sys/class/net/p1/address').trim() === mac) ?? mac
    );
  }

  /** Addresses of DHCP as a client that asks now gets them: its own, and its router. */
  lease(): string[] {
    const hook = join(this.folder, 'hook');
    writeFileSync(hook, '#!/bin/sh\n[ "$1" = bound ] && echo "got $ip $router $serverid"\nexit 0\n', {
      mode: 0o755,
    });
    const said = this.in(this.client, `udhcpc -f -q -n -t 3 -T 1 -i eth0 -s ${hook} 2>/dev/null`);
    return /got (.*)/.exec(said)?.[1]?.split(' ') ?? [];
  }

  /** How many of ten pings a second are lost while something is done after two seconds. */
  async lostBy(to: string, seconds: number, act: () => void): Promise<number> {
    const count = seconds * 10;
    let said = '';
    const pinging = this.beside(this.client, `ping -i 0.1 -W 1 -c ${count} ${to}`);
    pinging.stdout!.on('data', (d: Buffer) => (said += d.toString()));
    await pause(2000);
    act();
    await new Promise((resolve) => pinging.on('close', resolve));
    return count - new Set([...said.matchAll(/icmp_seq=(\d+) ttl/g)].map((m) => m[1])).size;
  }

  heard = join(this.folder, 'heard.pcap');

  takeUp(): void {
    endNamespaces(this.all);
    rmSync(this.folder, { recursive: true, force: true });
  }
}

describe('two boxes of one text', () => {
  it('share what the text says as on the bench: who has it, who lends, who takes over and when', async function () {
    const lacks = ['keepalived', 'kea-dhcp4', 'udhcpc', 'tcpdump'].find(
      (t) => spawnSync('sh', ['-c', `command -v ${t}`]).status,
    );
    const why = whyNot() ?? (lacks === undefined ? undefined : `no ${lacks}`);
    if (why !== undefined) {
      console.log(`    no two boxes are asked: ${why}`);
      this.skip();
    }
    const other = (text: string) => changed(text, toTwin(siteFrom(text))!);
    const pair = new Pair();
    try {
      const { first, second } = pair;
      pair.beside(pair.client, `tcpdump -i eth0 -U -c 3 -w ${pair.heard} vrrp`);
      pair.tell(first, TEXT);
      pair.tell(second, other(TEXT));
      const isActive = (box: string) => pair.has(box, 'p3').includes('10.61.20.1/24');
      await until(() => isActive(first) && !isActive(second), 'the first box is active');
      expect([pair.has(first, 'p3'), pair.has(second, 'p3')]).to.deep.equal([
        ['10.61.20.2/24', '10.61.20.1/24', '10.61.20.9/24'],
        ['10.61.20.3/24'],
      ]);
      await until(() => !pair.runs(second, LENDS) && pair.runs(first, LENDS), 'the active one lends');

      // What is on the wire is what the bench puts there, all but the MAC addresses: a box keeps its own here.
      await until(() => readFileSync(pair.heard).length > 24 + 16, 'an advertisement is heard');
      const bytes = readFileSync(pair.heard);
      const length = bytes.readUInt32LE(24 + 8);
      const real = saidIn(bytes.subarray(24 + 16, 24 + 16 + length));
      const benched: unknown[] = [];
      new Bench(modelFrom(TEXT), {
        tap: (_time, from, _to, frame) => {
          if (from.owner.name === 'first' || from.owner.name === 'second') benched.push(saidIn(frame.bytes));
        },
      }).boot();
      expect(benched.filter((said) => said !== undefined)).to.deep.include(real);

      const way = () => [
        pair.in(pair.client, `ping -q -c1 -W1 ${FAR}`).includes(' 0% packet loss'),
        pair.whoHas('198.51.100.18'),
      ];
      expect(way()).to.deep.equal([true, first]);
      expect(pair.lease().slice(1)).to.deep.equal(['10.61.20.1', '10.61.20.2']);
      for (const [box, part] of [
        [first, 'active'],
        [second, 'stands-by'],
      ] as const)
        expect(pair.hinge(box, ['state'])).to.include({ drifted: '', part });

      // A statement more, the standby first: what goes through the active one notices nothing.
      const more = TEXT + DOOR;
      const published = await pair.lostBy(FAR, 6, () => {
        pair.tell(second, other(more));
        pair.tell(first, more);
      });
      expect(published).to.equal(0);
      await until(() => pair.has(first, 'p1').includes('198.51.100.21/32'), 'the door is at its address');
      expect(pair.has(second, 'p1')).to.deep.equal(['198.51.100.20/29']);

      const pace = new Pace();
      const lost = await pair.lostBy('10.61.20.1', 9, () => pair.cable(first, 'p3', 'down'));
      const stretch = pace.stretch();
      const run = runDrill(reachFrom(TEXT), {
        from: 'pc',
        to: '10.61.20.1',
        seconds: 20,
        acts: [{ at: 5000, what: 'cut', on: 'first' }],
      });
      if ('fault' in run) throw new Error(JSON.stringify(run));
      expect(run.noticed.map((n) => [n.interface, n.shared])).to.deep.include([
        'desk',
        { box: 'second', isActive: true },
      ]);
      // Both wait for three advertisements and the skew; where between two of them the cable was cut is not the same.
      expect(lost, `kernel ${lost}, bench ${run.lost} of ten a second`).to.be.within(
        run.lost - 12,
        (run.lost + 12) * stretch,
      );
      // All that is shared has gone, doors and leaves as well, though its outside still had its cable.
      expect([pair.has(first, 'p1'), pair.has(second, 'p1').toSorted()]).to.deep.equal([
        ['198.51.100.19/29'],
        ['198.51.100.18/29', '198.51.100.20/29', '198.51.100.21/32'],
      ]);
      expect(way()).to.deep.equal([true, second]);
      await until(() => pair.runs(second, LENDS) && !pair.runs(first, LENDS), 'the other one lends');
      expect(pair.lease().slice(1)).to.deep.equal(['10.61.20.1', '10.61.20.3']);
      expect([pair.runs(first, ALONE), pair.runs(second, ALONE)]).to.deep.equal([true, false]);
      // Who stands by hears the active one at what they share.
      expect(pair.in(first, 'ping -q -c1 -W1 198.51.100.18')).to.contain(' 0% packet loss');

      pair.cable(first, 'p3', 'up');
      await until(() => isActive(first) && !isActive(second), 'it takes back what it had');
      pair.cable(first, 'p2', 'down');
      await until(() => isActive(second) && !isActive(first), 'a dead uplink lowers it');
      pair.cable(first, 'p2', 'up');
      await until(() => isActive(first), 'it takes back what it had, as its uplink lives again');

      // What was shared becomes its own.
      const alone = more.replace(
        'address 10.61.20.2/24, virtual .1 .9 id 20 with .3',
        'address 10.61.20.1/24',
      );
      pair.tell(first, alone);
      await pause(1500);
      expect(pair.has(first, 'p3')).to.deep.equal(['10.61.20.1/24']);
      expect(pair.hinge(first, ['state'])).to.include({ drifted: '' });
      expect(pair.hinge(first, ['remove'])).to.include({ ok: true });
      expect([pair.runs(first, 'keepalived.conf'), pair.has(first, 'p1')]).to.deep.equal([false, []]);
    } finally {
      pair.takeUp();
    }
  });
});
