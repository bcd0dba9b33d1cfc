/** A site built of network namespaces, with a Linux kernel told to be its box, asked the same as bench and reach. */
import { execFileSync, spawn, spawnSync } from 'node:child_process';
import { setTimeout as delay } from 'node:timers/promises';
import { mkdtempSync, readFileSync, readlinkSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';

import {
  IpSet,
  PROTO,
  familyOf,
  formatFlowService,
  formatMac,
  identifierOf,
  linkLocal,
  formatIp,
  formatPrefix,
  isIpv4,
  networkOf,
  specialPrefixes,
} from '#core/addr';
import type { Family, FlowService, Ip, Mac } from '#core/addr';
import { memo } from '#core/base';
import { readPacket } from '#core/bench';
import { deviceOf, generationOf, numbersOf, streamOf } from '#core/linux';
import type { Generation } from '#core/linux';
import { bootBench } from '#core/proof';
import type { Drill } from '#core/proof';
import { Reach, has, shownOf, stationGateway } from '#core/reach';
import type { Passing, Place } from '#core/reach';
import {
  addressesOf,
  announcedBy,
  boxSideOf,
  circuitsOf,
  interfaceAt,
  interfaceMac,
  segmentOf,
  stationsOf,
} from '#core/site';
import type { Interface, Site, Station } from '#core/site';
import { anySite, anyTwins, ASKED_SERVICES, EVERYTHING, reachOf, withoutDaemons } from '#core/testkit';
import type { Disagreement } from '#core/testkit';
import { hingeText } from '../../src/lib/server/hinge';
import { OwnRoot } from '../../src/lib/server/practice/root';

const TRY = `jg${process.pid}-try`;

/** Why a kernel cannot be asked here, or undefined where it can. */
export function whyNot(): string | undefined {
  if (process.getuid?.() !== 0) return 'not root';
  for (const tool of ['ip', 'tc', 'nft', 'python3', 'sysctl'])
    if (spawnSync('sh', ['-c', `command -v ${tool}`]).status !== 0) return `${tool} is missing`;
  const made = spawnSync('ip', ['netns', 'add', TRY]);
  if (made.status !== 0) return 'no network namespaces may be made';
  const nft = spawnSync('ip', ['netns', 'exec', TRY, 'nft', 'add', 'table', 'ip', 'gate']);
  spawnSync('ip', ['netns', 'del', TRY]);
  return nft.status === 0 ? undefined : 'nftables may not be written';
}

const specials = (family: Family): string => `{ ${specialPrefixes(family).map(formatPrefix).join(', ')} }`;
/** Every process has names of its own, so that two may be at it. */
const OWN = `jg${process.pid}`;
const BOX = `${OWN}-box`;
const SWITCH = `${OWN}-sw`;
const FAR = `${OWN}-far`;

const run = (command: string, args: readonly string[], input?: string): string =>
  execFileSync(command, args, { input, encoding: 'utf8', stdio: ['pipe', 'pipe', 'pipe'] });
/** Two ends of a cable, each in its namespace. */
const cable = (a: string, netnsA: string, b: string, netnsB: string, mac?: Mac): void => {
  const own = mac === undefined ? [] : ['address', formatMac(mac)];
  run('ip', ['link', 'add', a, 'netns', netnsA, ...own, 'type', 'veth', 'peer', 'name', b, 'netns', netnsB]);
};
const inside = (netns: string, batch: readonly string[]): void => {
  if (batch.length) run('ip', ['-n', netns, '-batch', '-'], `${batch.join('\n')}\n`);
};
const told = (netns: string, keys: readonly string[]): void => {
  spawnSync('ip', ['netns', 'exec', netns, 'sysctl', '-qw', ...keys]);
};
const rules = (netns: string, nft: string): void => {
  run('ip', ['netns', 'exec', netns, 'nft', '-f', '-'], nft);
};
const HINGE = '/usr/local/sbin/jolly-gate-hinge';
const QUIET = [
  'net.ipv4.conf.all.rp_filter=0',
  'net.ipv4.conf.default.rp_filter=0',
  'net.ipv4.icmp_ratelimit=0',
  'net.ipv6.icmp.ratelimit=0',
  // Of what is in the mask all hosts together send some fifty at once (icmp(7), icmp_msgs_burst): nothing is.
  'net.ipv4.icmp_ratemask=0',
  'net.ipv6.icmp.ratemask=255',
  // Nobody waits until an address has proven its own.
  'net.ipv6.conf.all.accept_dad=0',
  'net.ipv6.conf.default.accept_dad=0',
  'net.ipv6.conf.all.accept_ra=0',
  'net.ipv6.conf.default.accept_ra=0',
];

/** Ends what runs in namespaces, and takes them away. */
export function endNamespaces(names: readonly string[]): void {
  for (const n of names) {
    const pids = spawnSync('ip', ['netns', 'pids', n], { encoding: 'utf8' }).stdout;
    for (const pid of pids.trim().split('\n').filter(Boolean))
      try {
        process.kill(Number(pid), 'SIGKILL');
      } catch {
        // It ended meanwhile.
      }
    spawnSync('ip', ['netns', 'del', n]);
  }
}

/** What came of asking a site. */
export interface Compared {
  readonly flows: number;
  /** Frames that crossed trunks on their way to the box. */
  readonly tagged: number;
  /** Flows that were asked again after the line of an uplink was cut. */
  readonly again: number;
  /** Those of them that then go out otherwise than before. */
  readonly moved: number;
  /** Flows that differed when they were asked first, and not when they were asked again. */
  readonly once: number;
  readonly differ: Disagreement[];
}

/** One host that is asked and asks. */
interface LabHost {
  readonly name: string;
  readonly netns: string;
  readonly address: Ip;
  readonly silent: boolean;
}

/** A site that stands in namespaces until it is taken down. */
export class Lab {
  private readonly names: string[] = [];
  private readonly trunks: string[] = [];
  /** What far hosts saw when the lab was asked last, on the bench. */
  private outside: readonly string[] = [];
  /** The switch's ends of the lines of each uplink. */
  private readonly lines = new Map<Interface, string[]>();
  readonly hosts: LabHost[] = [];

  constructor(
    readonly site: Site,
    readonly reach: Reach,
  ) {}

  private add(...names: string[]): void {
    this.names.push(...names);
    run('ip', ['-batch', '-'], `${names.map((n) => `netns add ${n}`).join('\n')}\n`);
    for (const n of names) told(n, QUIET);
  }

  build(): this {
    const { wiring } = this.reach.model;
    this.add(BOX, SWITCH, FAR);
    const far: string[] = ['link set lo up'];
    const bridges: string[] = [];
    const live = this.site.interfaces.filter((i) => !i.off);
    const boxwards: string[] = [];
    const tags: object[] = [];
    const trunked = (port: string | undefined) =>
      live.some((i) => i.ports[0] === port && i.tag !== undefined);
    const macOf = (i: Interface) => interfaceMac(this.site, i);
    live.forEach((iface, n) => {
      bridges.push(`link add b${n} type bridge`, `link set b${n} up`);
      const port = iface.ports.length === 1 ? iface.ports[0] : undefined;
      if (port !== undefined && trunked(port)) {
        // One cable for the port, its frames tagged; an untagged interface on it is the port itself.
        const plain = live.find((i) => i.ports[0] === port && i.tag === undefined);
        const trunk = port;
        if (!this.trunks.includes(trunk)) {
          this.trunks.push(trunk);
          cable(trunk, BOX, `u-${port}`, SWITCH, macOf(iface));
          boxwards.push(`link set ${trunk} up`);
          bridges.push(`link set u-${port} up`);
        }
        if (iface === plain) bridges.push(`link set u-${port} master b${n}`);
        else {
          cable(deviceOf(this.site, iface), BOX, `q${n}`, BOX, macOf(iface));
          cable(`x${n}`, SWITCH, `q${n}`, SWITCH);
          boxwards.push(`link set q${n} up`);
          bridges.push(`link set q${n} up`, `link set x${n} master b${n}`, `link set x${n} up`);
          tags.push(
            { netns: BOX, trunk, vid: iface.tag, port: `q${n}` },
            { netns: SWITCH, trunk: `u-${port}`, vid: iface.tag, port: `q${n}` },
          );
        }
      } else if (iface.carrier === 'loopback') {
        // It has no cable.
      } else if (iface.ports.length > 1) {
        // Everybody hangs on the first port of a bridge; the others have carrier.
        iface.ports.forEach((p, k) => cable(p, BOX, `x${n}-${k}`, SWITCH));
        bridges.push(...iface.ports.map((_, k) => `link set x${n}-${k} up`), `link set x${n}-0 master b${n}`);
      } else {
        cable(deviceOf(this.site, iface), BOX, `x${n}`, SWITCH, macOf(iface));
        bridges.push(`link set x${n} master b${n}`, `link set x${n} up`);
      }
      stationsOf(wiring, iface).forEach((station, k) => {
        if (station.off || interfaceAt(this.site, station.landing) !== iface) return;
        const gateway6 = station.address6 ? station.gateway6 : linkLocal(identifierOf(macOf(iface)));
        this.seat(station, `b${n}`, `s${n}-${k}`, bridges, iface, gateway6);
      });
      circuitsOf(wiring, iface).forEach((circuit, k) => {
        const four = !!circuit.prefix && circuit.gateway !== undefined;
        if ((!four && !circuit.block6) || circuit.down) return;
        const netns = `${OWN}-c${n}-${k}`;
        this.add(netns);
        cable('line', netns, `c${n}-${k}`, SWITCH);
        cable('far', netns, `f${n}-${k}`, FAR);
        memo(this.lines, iface, (): string[] => []).push(`c${n}-${k}`);
        bridges.push(`link set c${n}-${k} master b${n}`, `link set c${n}-${k} up`);
        const [near, away] = [`100.64.${n}.${k * 4 + 1}`, `100.64.${n}.${k * 4 + 2}`];
        const [near6, away6] = [`fd64:${n}:${k}::1`, `fd64:${n}:${k}::2`];
        told(netns, [
          'net.ipv4.ip_forward=1',
          'net.ipv4.conf.all.send_redirects=0',
          'net.ipv4.conf.line.send_redirects=0',
          'net.ipv6.conf.all.forwarding=1',
        ]);
        inside(netns, [
          'link set lo up',
          'link set line up',
          'link set far up',
          ...(four ? [`addr add ${formatIp(circuit.gateway)}/${circuit.prefix.length} dev line`] : []),
          `addr add ${near}/30 dev far`,
          `route add default via ${away}`,
          ...(circuit.block6
            ? [
                `addr add ${formatIp(circuit.linkLocal)}/64 dev line`,
                ...(circuit.gateway6 === undefined
                  ? []
                  : [`addr add ${formatIp(circuit.gateway6)}/${circuit.block6.length} dev line`]),
                `addr add ${near6}/126 dev far`,
                `route add default via ${away6}`,
              ]
            : []),
          ...circuit.routes.map((r) => `route add ${formatPrefix(r.prefix)} via ${formatIp(r.via)} dev line`),
        ]);
        const shows = circuit.translatesTo;
        rules(
          netns,
          shows === undefined
            ? `table ip line {\n chain f { type filter hook forward priority 0;\n iifname "line" ip saddr ${specials(4)} drop\n }\n}\n`
            : `table ip line {\n chain f { type filter hook forward priority 0;\n iifname "far" ct state new drop\n }\n chain s { type nat hook postrouting priority 100;\n oifname "far" snat to ${formatIp(shows)}\n }\n}\n`,
        );
        rules(
          netns,
          `table ip6 line {\n chain f { type filter hook forward priority 0;\n iifname "line" ip6 saddr ${specials(6)} drop\n }\n}\n`,
        );
        far.push(`link set f${n}-${k} up`, `addr add ${away}/30 dev f${n}-${k}`);
        if (circuit.block6) far.push(`addr add ${away6}/126 dev f${n}-${k}`);
        for (const p of announcedBy(circuit)) {
          const six = !isIpv4(p.address);
          if (six ? circuit.block6 : four)
            far.push(`route add ${formatPrefix(networkOf(p))} via ${six ? near6 : near}`);
        }
      });
    });
    this.routers(live, bridges);
    for (const f of wiring.fars) {
      for (const six of [false, true]) {
        const address = f.addresses.find((a) => isIpv4(a) !== six);
        if (address === undefined) continue;
        far.push(`addr add ${formatIp(address)}/${six ? 128 : 32} dev lo`);
        this.hosts.push({ name: f.name, netns: FAR, address, silent: f.silent });
      }
    }
    inside(SWITCH, bridges);
    inside(BOX, boxwards);
    if (tags.length) run('python3', ['tests/lab/tags.py'], JSON.stringify(tags));
    inside(FAR, far);
    // A lab asks more at once than a kernel answers by itself.
    told(BOX, ['net.ipv4.icmp_ratelimit=0']);
    inside(BOX, ['link set lo up']);
    this.root.install('jolly-gate-hinge', hingeText());
    // The lab's hosts have their addresses: no daemon is needed.
    this.hinge('apply', this.stage(withoutDaemons(generationOf(this.reach.model, []))));
    this.learn(live);
    return this;
  }

  /** Puts a station on a bridge of the switch, with the addresses that it has or gets. */
  private seat(
    station: Station,
    bridge: string,
    cord: string,
    bridges: string[],
    iface: Interface,
    gateway6?: Ip,
  ): void {
    const { model } = this.reach;
    const own = model.prospects.stations.get(station.name);
    const own6 = model.prospects.stations6.get(station.name);
    if (!own && !own6) return;
    const netns = `${OWN}-${cord}`;
    this.add(netns);
    cable('eth0', netns, cord, SWITCH);
    bridges.push(`link set ${cord} master ${bridge}`, `link set ${cord} up`);
    const gateway = stationGateway(model, station, iface, 4);
    inside(netns, [
      'link set lo up',
      'link set eth0 up',
      ...[own, own6].flatMap((a) => (a ? [`addr add ${formatPrefix(a)} dev eth0`] : [])),
      ...(own && typeof gateway === 'number' ? [`route add default via ${formatIp(gateway)}`] : []),
      // Who makes its address from what is advertised goes out by who advertises.
      ...(own6 && gateway6 !== undefined ? [`route add default via ${formatIp(gateway6)} dev eth0`] : []),
    ]);
    if (station.silent) told(netns, ['net.ipv4.icmp_echo_ignore_all=1', 'net.ipv6.icmp.echo_ignore_all=1']);
    for (const a of [own, own6])
      if (a) this.hosts.push({ name: station.name, netns, address: a.address, silent: station.silent });
  }

  /** Routers inside, each a kernel of its own that forwards, and the stations on networks that only they are on. */
  private routers(live: readonly Interface[], bridges: string[]): void {
    const { wiring } = this.reach.model;
    const hidden = new Map<string, string>();
    const bridgeOf = (segment: string): string => {
      const n = live.findIndex((i) => segment === `interface ${i.name}`);
      if (n >= 0) return `b${n}`;
      return memo(hidden, segment, () => {
        const name = `v${hidden.size}`;
        bridges.push(`link add ${name} type bridge`, `link set ${name} up`);
        return name;
      });
    };
    wiring.routers.forEach((router, k) => {
      const netns = `${OWN}-r${k}`;
      this.add(netns);
      told(netns, [
        'net.ipv4.ip_forward=1',
        'net.ipv4.conf.all.send_redirects=0',
        'net.ipv4.conf.default.send_redirects=0',
      ]);
      const batch = ['link set lo up'];
      router.legs.forEach((leg, j) => {
        if (leg.segment === undefined) return;
        cable(`leg${j}`, netns, `r${k}-${j}`, SWITCH, leg.mac);
        bridges.push(`link set r${k}-${j} master ${bridgeOf(leg.segment)}`, `link set r${k}-${j} up`);
        batch.push(`link set leg${j} up`, `addr add ${formatPrefix(leg.address)} dev leg${j}`);
      });
      batch.push(...router.routes.map((r) => `route add ${formatPrefix(r.prefix)} via ${formatIp(r.via)}`));
      if (router.gateway !== undefined) batch.push(`route add default via ${formatIp(router.gateway)}`);
      inside(netns, batch);
    });
    wiring.stations.forEach((station, k) => {
      const at = boxSideOf(this.site, wiring, station);
      const segment = segmentOf(this.site, station.landing);
      if (at && segment !== undefined) this.seat(station, bridgeOf(segment), `h${k}`, bridges, at);
    });
  }

  private readonly folder = mkdtempSync(join(tmpdir(), 'jg-lab-'));
  /** The box's own: this machine may have been told by hand. */
  private readonly root = new OwnRoot(this.folder);
  /** Calls the hinge; its keeper is started where it is asked for. */
  private get call(): string[] {
    return [...this.root.enter(BOX), 'env', 'JG_NO_KEEPER=yes'];
  }

  /** Gives the hinge of the box an order; throws with its answer where that is refused. */
  private hinge(...order: string[]): string {
    const done = spawnSync('ip', [...this.call, HINGE, ...order], { encoding: 'utf8' });
    if (done.status !== 0) throw new Error(`${order.join(' ')}: ${done.stdout}${done.stderr}`);
    return done.stdout;
  }

  private stage(g: Generation): string {
    run('ip', [...this.call, HINGE, 'stage', g.id], streamOf(g));
    return g.id;
  }

  /** Plays the clients of what uplinks learn, as networkd leaves it: an address, and ways in the uplink's own table. */
  private learn(live: readonly Interface[]): void {
    const { prospects, states } = this.reach.model;
    const lines = live.flatMap((i) => {
      const got = prospects.uplinks.get(i.name);
      if (!got) return [];
      const dev = deviceOf(this.site, i);
      const gateway = states.get(i.name)?.gateway;
      return [
        `addr add ${formatPrefix(got.address)} dev ${dev} noprefixroute`,
        `route add ${formatPrefix(networkOf(got.address))} dev ${dev} table ${numbersOf(this.site).tableBy(i.name)} proto dhcp`,
        ...(gateway === undefined || i.gateway.by !== 'learned'
          ? []
          : [
              `route add default via ${formatIp(gateway)} dev ${dev} table ${numbersOf(this.site).tableBy(i.name)} proto dhcp`,
            ]),
      ];
    });
    inside(BOX, lines);
    if (lines.length) this.hinge('settle');
  }

  /** Of the uplinks that another one could stand in for, the one by which most went out when the lab was asked last. */
  spare(): Interface | undefined {
    const uplinks = this.site.interfaces.filter((i) => i.uplink && !i.off && i.gateway.by !== 'none');
    const by = (i: Interface) =>
      addressesOf(i, this.reach.model.prospects).reduce(
        (n, a) => n + this.outside.filter((text) => text.includes(` sees ${formatIp(a.address)} to `)).length,
        0,
      );
    return uplinks
      .filter((i) => this.lines.has(i) && uplinks.some((o) => o !== i && o.table === i.table) && by(i) > 0)
      .sort((a, b) => by(b) - by(a))[0];
  }

  /**
   * Cuts the lines of an uplink somewhere beyond the box's port, which keeps its carrier, and has the box's own keeper
   * find out. A lab has less patience than a site: it asks every second and believes the first silence.
   */
  cut(uplink: Interface): void {
    inside(
      SWITCH,
      this.lines.get(uplink)!.map((end) => `link set ${end} down`),
    );
    const running = readlinkSync(this.root.at('run/jolly-gate/running'));
    const watches = this.root.at(running, 'watches');
    const hasty = readFileSync(watches, 'utf8').replace(/^(\S+ \S+ \S+) \S+ \S+/gm, '$1 1 1');
    writeFileSync(watches, hasty);
    const keep = ['timeout', '-s', 'KILL', '3', HINGE, 'keep'];
    spawnSync('ip', [...this.call, ...keep]);
  }

  /**
   * Pings from a station's namespace ten times a second while the line of an uplink fails under the eyes of the box's
   * own keeper; tells when each ping was sent, milliseconds after the first, and whether it was answered.
   */
  async ping(
    station: string,
    to: Ip,
    seconds: number,
    fault: { readonly what: 'cut' | 'deaden'; readonly uplink: Interface; readonly at: number },
  ): Promise<{ readonly at: number; readonly answered: boolean }[]> {
    const host = this.hosts.find((h) => h.name === station)!;
    const keep = [...this.call, HINGE, 'keep'];
    const keeper = spawn('ip', keep, { stdio: 'ignore', detached: true });
    try {
      // It has looked at everything once before anything fails.
      await delay(3000);
      const count = seconds * 10;
      const ping = ['ping', '-n', '-i', '0.1', '-c', String(count), '-W', '1', formatIp(to)];
      const pinging = spawn('ip', ['netns', 'exec', host.netns, ...ping], {
        stdio: ['ignore', 'pipe', 'ignore'],
      });
      let said = '';
      pinging.stdout.on('data', (piece: Buffer) => (said += piece.toString()));
      const ended = new Promise((done) => pinging.on('exit', done));
      await delay(fault.at);
      for (const end of this.lines.get(fault.uplink)!)
        if (fault.what === 'cut') inside(SWITCH, [`link set ${end} down`]);
        else
          rules(
            `${OWN}-${end}`,
            'table ip dead {\n chain f { type filter hook forward priority -10; policy drop;\n }\n}\n',
          );
      await ended;
      const heard = new Set([...said.matchAll(/icmp_seq=(\d+) ttl/g)].map((m) => Number(m[1])));
      return Array.from({ length: count }, (_, i) => ({ at: i * 100, answered: heard.has(i + 1) }));
    } finally {
      if (keeper.pid !== undefined) process.kill(-keeper.pid, 'SIGKILL');
    }
  }

  /**
   * Asks every host everything of everybody; each difference in words. With an uplink that is cut, kernel and bench are
   * asked: the reach supposes that every uplink lives.
   */
  compare(cut?: Interface): Compared {
    const { prospects } = this.reach.model;
    const own = this.site.interfaces
      .filter((i) => !i.off)
      .flatMap((i) => addressesOf(i, prospects).map((a) => a.address));
    const doors = this.reach.model.rules.doors.map((d) => d.outside);
    const targets = [...new Set<Ip>([...this.hosts.map((h) => h.address), ...own, ...doors])];
    const first = (same: (a: LabHost, b: LabHost) => boolean) =>
      this.hosts.filter((h, i) => this.hosts.findIndex((o) => same(o, h)) === i);
    const kernels = first((a, b) => a.netns === b.netns);
    const loud = first((a, b) => a.netns === b.netns && familyOf(a.address) === familyOf(b.address));
    const flows = loud.flatMap((h) =>
      targets
        // Far hosts speak to each other without the box.
        .filter(
          (t) =>
            t !== h.address &&
            familyOf(t) === familyOf(h.address) &&
            !(h.netns === FAR && this.hosts.some((o) => o.netns === FAR && o.address === t)),
        )
        .flatMap((destination) =>
          SERVICES.map((asked, n) => ({
            from: h,
            source: h.address,
            destination,
            service: asked.echo && !isIpv4(destination) ? { proto: PROTO.icmp6, echo: true } : asked,
            // Everybody asks the same from the same port, so that the box has to keep them apart.
            port: 20_000 + targets.indexOf(destination) * SERVICES.length + n,
          })),
        ),
    );
    const answer = run(
      'python3',
      ['tests/lab/probe.py'],
      JSON.stringify({
        hosts: kernels.map((h) => ({ name: h.netns, netns: h.netns })),
        flows: flows.map((f) => ({
          from: f.from.netns,
          source: formatIp(f.source),
          destination: formatIp(f.destination),
          proto: f.service.proto,
          port: f.service.port,
          own: f.port,
          echo: !!f.service.echo,
        })),
        wait: 0.5,
      }),
    );
    const results = JSON.parse(answer) as {
      arrived: [string, string, string, number][];
      answered: boolean;
    }[];
    const bench = this.askBench(flows, cut ? { cut: [...cut.ports] } : {});
    const before = this.outside;
    this.outside = bench.map((b) => b.text).filter((text) => text.startsWith(`${FAR} sees `));
    const moved = bench.filter(({ text }) => cut && text.startsWith(FAR) && !before.includes(text)).length;
    const differ = flows.flatMap((f, i): Disagreement[] => {
      const wanted = cut
        ? { text: bench[i]!.text, box: bench[i]!.text === BOX_ANSWERS }
        : this.expect(f.from, f.destination, f.service);
      const got = results[i]!;
      // What goes out to an address that nobody outside has is on its way to nobody.
      const met = got.arrived.filter(
        ([netns, , to]) =>
          netns !== FAR || this.hosts.some((h) => h.netns === FAR && formatIp(h.address) === to),
      );
      const seen = met.map(
        ([netns, source, destination, port]) =>
          `${netns} sees ${source} to ${destination}${port ? ` port ${port}` : ''}`,
      );
      const kernel = `${seen.join(' and ') || (wanted.box && (got.answered || wanted.answered === false) ? BOX_ANSWERS : 'nothing')}`;
      const tried = bench[i]!;
      const same = kernel === wanted.text && tried.text === wanted.text;
      const heard =
        wanted.answered === undefined ||
        (wanted.answered === got.answered && wanted.answered === tried.answered);
      if ((same && heard) || tried.around) return [];
      const said = (text: string, answered: boolean | undefined) => `${text}${answered ? ', answered' : ''}`;
      return [
        {
          flow: `${f.from.name} ${formatIp(f.source)} > ${formatIp(f.destination)} ${formatFlowService(f.service)}`,
          bench: `${said(tried.text, tried.answered)}; kernel: ${said(kernel, got.answered)}`,
          reach: said(wanted.text, wanted.answered),
        },
      ];
    });
    return { flows: flows.length, tagged: this.carried(), again: 0, moved, once: 0, differ };
  }

  /** The same flows, packet by packet on the bench: who got them, as whom, and whether an answer came back. */
  private askBench(
    flows: readonly { readonly from: LabHost; readonly destination: Ip; readonly service: FlowService }[],
    drill: Drill,
  ): { readonly text: string; readonly answered: boolean; readonly around: boolean }[] {
    const { bench } = bootBench(this.reach, drill);
    const tries = flows.map(({ from, destination, service }) => {
      const mark = bench.newMark();
      const { endpoints } = (bench.hosts.get(from.name) ?? bench.fars.get(from.name))!;
      const attempt =
        service.proto === PROTO.tcp
          ? endpoints.connect(destination, service.port!, 0, { mark })
          : service.proto === PROTO.udp
            ? endpoints.ask(destination, service.port!, new Uint8Array(4), { mark })
            : endpoints.ping(destination, { mark });
      bench.wait(() => attempt.done, 10_000);
      return { mark, attempt, from };
    });
    return tries.map(({ mark, attempt, from }) => {
      // What goes out by one uplink and comes back in by another is a new flow, of which nothing is asked here.
      const all = bench.stepsOf(mark);
      const begun = all.filter(
        (s) => s.node === bench.box.name && s.code === 'arrived' && readPacket(s.packet).starts,
      );
      const gone = all.findIndex((s) => s.node === bench.box.name && s.code === 'departed');
      const again = all.findIndex((s, n) => n > gone && gone >= 0 && begun.includes(s) && s !== begun[0]);
      const steps = again < 0 ? all : all.slice(0, again);
      const seen = steps.flatMap(({ code, node, packet }) => {
        const host = this.hosts.find((h) => h.name === node);
        const { starts, ends, service } = readPacket(packet);
        // An answer to a datagram looks like a datagram, but for the port it goes to.
        const home = node === from.name && ends.destinationPort >= EPHEMERAL;
        if (code !== 'received' || !host || home || !starts) return [];
        const port = service.port === undefined ? '' : ` port ${service.port}`;
        return [`${host.netns} sees ${formatIp(ends.source)} to ${formatIp(ends.destination)}${port}`];
      });
      const box = steps.some((s) => s.code === 'box-answers' && s.node === bench.box.name);
      const text = [...new Set(seen)].join(' and ') || (box ? BOX_ANSWERS : 'nothing');
      const answered = attempt.result === 'answered' || attempt.result === 'refused';
      return { text, answered, around: again >= 0 };
    });
  }

  /** Frames that came to the box by its trunks, all of them with a tag where no interface there is without one. */
  private carried(): number {
    if (!this.trunks.length) return 0;
    const links = JSON.parse(run('ip', ['-n', BOX, '-s', '-j', 'link'])) as {
      readonly ifname: string;
      readonly stats64: { readonly rx: { readonly packets: number } };
    }[];
    return links
      .filter((l) => this.trunks.includes(l.ifname))
      .reduce((sum, l) => sum + l.stats64.rx.packets, 0);
  }

  /** What the reach says becomes of one flow. `answered` is left open where it says nothing of it. */
  private expect(
    from: LabHost,
    destination: Ip,
    service: FlowService,
  ): { text: string; answered?: boolean; box?: boolean } {
    const { reach } = this;
    const point = { source: from.address, destination, service };
    const at = { start: 0, end: 0, line: 1, column: 1 };
    const family = familyOf(destination);
    const who = ({ name, address }: LabHost) => {
      const kind = this.site.fars.some((f) => f.name === name) ? 'far' : undefined;
      return reach
        .places({ type: 'addresses', range: { first: address, last: address }, at }, family)
        .filter((p) => (kind === 'far' ? p.far?.name === name : p.station?.name === name));
    };
    const origins = who(from);
    const through = (x: Passing, target: LabHost, place: Place) => {
      const via = x.outcome?.route?.via;
      const line = via === undefined ? undefined : reach.delivery.lineTo(x.outcome!.departure!, family, via);
      const shown =
        (place.far && family === 4 ? line?.circuit.translatesTo : undefined) ??
        (x.outcome ? shownOf(x.outcome, from.address) : from.address);
      const port = service.port === undefined ? 0 : service.port + (x.outcome?.shift ?? 0);
      const to = x.outcome?.door?.inside ?? destination;
      const back = !!x.answered && has(x.answered, point);
      return {
        text: `${target.netns} sees ${formatIp(shown)} to ${formatIp(to)}${port ? ` port ${port}` : ''}`,
        // Neighbours may answer straight, and a quiet far host shares its kernel with others: of those answers nothing
        // is said.
        answered:
          origins[0]?.at === place.at || (place.far && target.silent)
            ? undefined
            : back && !(target.silent && service.echo),
      };
    };
    for (const p of origins) {
      // In two tables there may be two with one address.
      for (const door of reach.model.rules.doors.filter((d) => d.outside === destination))
        for (const target of this.hosts.filter((h) => h.address === door.inside))
          for (const q of who(target)) {
            const x = reach.through(door, p, q, family, 'routed').find((y) => has(y.flows, point));
            if (x) return through(x, target, q);
          }
      for (const target of this.hosts.filter((h) => h.address === destination))
        for (const q of who(target)) {
          const x = reach.passings(p, q, family, 'routed').find((y) => has(y.flows, point));
          if (x) return through(x, target, q);
        }
      const box = reach
        .answers(p, reach.follower.ways.own.get(p.at.table) ?? OWN_NONE, family, 'routed')
        .find((y) => has(y.flows, point));
      if (!box) continue;
      // A resolver answers questions only, and no kernel is one.
      const asks = box.outcome?.answer?.name === 'dns' || box.outcome?.answer?.name === 'time';
      return {
        text: BOX_ANSWERS,
        box: true,
        answered: asks ? undefined : !!box.answered && has(box.answered, point),
      };
    }
    return { text: 'nothing' };
  }

  destroy(): void {
    for (const n of this.names.splice(0)) spawnSync('ip', ['netns', 'del', n]);
    rmSync(this.folder, { recursive: true, force: true });
  }
}

const OWN_NONE = IpSet.empty;
const BOX_ANSWERS = 'the box answers';
/** From where hosts of the bench ask (RFC 6335 §6). */
const EPHEMERAL = 49_152;

/** Asked of everybody; a protocol without ports could not be told from flow to flow. */
const SERVICES = ASKED_SERVICES.filter((x) => x.port !== undefined || x.echo);

/** What works; what does not is asked of bench and reach. */
const SHAPE = { ...EVERYTHING, odd: false };

/** Generated sites for a kernel, every third of which holds the same addresses in two tables. */
export function sitesFor(count: number, seed: number): string[] {
  const twins = Math.floor(count / 3);
  return [
    ...fc.sample(anySite(SHAPE), { numRuns: count - twins, seed }),
    ...fc.sample(anyTwins(SHAPE), { numRuns: twins, seed }),
  ];
}

/**
 * Builds a site, asks it, and takes it down. A busy machine loses a packet now and then: a site that differs is built and
 * asked once more, and what differs twice is a disagreement. How many flows differed once only is told.
 */
export function compareWithKernel(site: Site): Compared {
  const first = askOnce(site);
  if (!first.differ.length) return first;
  const second = askOnce(site);
  const differ = second.differ.filter((d) => first.differ.some((f) => f.flow === d.flow));
  return { ...second, differ, once: first.differ.length - differ.length };
}

function askOnce(site: Site): Compared {
  const lab = new Lab(site, reachOf(site));
  try {
    const first = lab.build().compare();
    const spare = first.differ.length ? undefined : lab.spare();
    if (!spare) return first;
    lab.cut(spare);
    const { flows, moved, differ } = lab.compare(spare);
    return { ...first, again: flows, moved, differ };
  } finally {
    lab.destroy();
  }
}
