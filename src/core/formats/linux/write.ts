/**
 * A site as a Linux box is told it: commands of `ip`, one nftables rule set, and sysctls. IPv4; of IPv6 nothing passes.
 * What is learned is not written: a DHCP or PPPoE client sets it, and the rules take whatever it is. Chains are asked in the order of the packet's way (docs/choices.md).
 */
import {
  IpSet,
  contains,
  familyOf,
  formatIp,
  formatPrefix,
  formatRange,
  isIpv4,
  networkOf,
  specialPrefixes,
} from '#core/addr';
import type { Ip, Prefix, ServiceItem, Services } from '#core/addr';
import type { Model } from '#core/model';
import { lookUp, proxiedBy } from '#core/semantics';
import type { DoorRule, LeaveRule, PassageRule, Route, Rules, States } from '#core/semantics';
import { memo } from '#core/base';
import { ETHERNET_MTU, interfaceNamed } from '#core/site';
import type { Interface, Prospects, Site } from '#core/site';

export interface LinuxBox {
  /** Lines for `ip -batch`, after the devices are there. */
  readonly ip: readonly string[];
  /** A rule set for `nft -f`. */
  readonly nft: string;
  /** `key=value` lines for `sysctl -w`. */
  readonly sysctl: readonly string[];
}

export interface LinuxOptions {
  /** The name of an interface's device; as `deviceOf` where absent. */
  readonly device?: (iface: Interface) => string;
}

/** Names of devices have 15 characters at most. */
const LONGEST = 15;
const named = new WeakMap<Site, ReadonlyMap<Interface, string>>();

/** How Linux calls the interfaces of a site: the port, port.tag, or a name of their own; no two alike. */
const devicesOf = (site: Site): ReadonlyMap<Interface, string> =>
  memo(named, site, () => {
    const out = new Map<Interface, string>();
    const taken = new Set<string>(site.ports.keys());
    for (const iface of site.interfaces) {
      const { carrier } = iface.statement;
      const port = iface.ports[0] ?? iface.name;
      const plain =
        carrier?.by === 'loopback'
          ? 'lo'
          : carrier?.by === 'pppoe'
            ? `ppp-${iface.name}`
            : iface.ports.length > 1
              ? `br-${iface.name}`
              : iface.tag === undefined
                ? port
                : `${port}.${iface.tag}`;
      // The port itself and lo are what they are; of all others each has a name that nobody else has.
      let name = plain;
      if (plain !== 'lo' && plain !== port)
        for (let n = 2; taken.has(name) || name.length > LONGEST; n++) {
          const end = n === 2 && plain.length <= LONGEST && !taken.has(plain) ? '' : `-${n}`;
          name = plain.slice(0, LONGEST - end.length) + end;
        }
      taken.add(name);
      out.set(iface, name);
    }
    return out;
  });

/** How Linux calls an interface. */
export const deviceOf = (site: Site, iface: Interface): string => devicesOf(site).get(iface)!;

/** The devices that tags and bridges need, as lines of a shell; what is there already is left as it is. */
export function linkLines(site: Site): string[] {
  const out: string[] = [];
  const make = (name: string, how: string) =>
    out.push(`ip link show dev ${name} >/dev/null 2>&1 || ip link add ${how}`);
  const up = (name: string) => out.push(`ip link set dev ${name} up`);
  for (const port of site.ports.values())
    if (site.interfaces.some((i) => !i.off && i.ports.includes(port.name))) {
      if (port.off) out.push(`ip link set dev ${port.name} down`);
      else {
        if (port.mtu !== ETHERNET_MTU) out.push(`ip link set dev ${port.name} mtu ${port.mtu}`);
        up(port.name);
      }
    }
  for (const i of site.interfaces) {
    if (i.off || i.carrier === 'pppoe' || !i.ports.length) continue;
    const name = deviceOf(site, i);
    if (i.ports.length > 1) {
      make(name, `${name} type bridge`);
      for (const p of i.ports) {
        const member = i.tag === undefined ? p : `${p}.${i.tag}`;
        if (i.tag !== undefined) make(member, `link ${p} name ${member} type vlan id ${i.tag}`);
        out.push(`ip link set dev ${member} master ${name}`);
        up(member);
      }
    } else if (i.tag !== undefined) make(name, `link ${i.ports[0]} name ${name} type vlan id ${i.tag}`);
    if (i.mtu !== undefined) out.push(`ip link set dev ${name} mtu ${i.mtu}`);
  }
  return out;
}

/** The protocol number that routes and rules of ours carry, so that others are left alone. */
const OURS = 77;
/** Where tables of a site begin among Linux's, and those that hold the routes by one interface. */
const FIRST_TABLE = 100;
const FIRST_BY = 1000;
/** Marks of interfaces are below it, those of tables from it on. */
const FIRST_TABLE_MARK = 128;

class Writer {
  readonly live: readonly Interface[];
  readonly routes: readonly Route[];
  private readonly numbers: ReadonlyMap<string, number>;

  readonly site: Site;
  readonly prospects: Prospects;
  readonly rules: Rules;
  readonly states: States;

  constructor(
    { site, prospects, rules, states, routes }: Model,
    private readonly options: LinuxOptions,
  ) {
    this.site = site;
    this.prospects = prospects;
    this.rules = rules;
    this.states = states;
    this.live = site.interfaces.filter((i) => !i.off);
    this.place = new Map(this.live.map((i, n) => [i, n + 1]));
    this.routes = routes.filter((r) => isIpv4(r.prefix.address));
    const tables = [
      ...new Set(['main', ...this.live.map((i) => i.table), ...site.tables.map((t) => t.name)]),
    ];
    this.numbers = new Map(tables.map((t, i) => [t, t === 'main' ? 254 : FIRST_TABLE + i]));
  }

  private readonly place: ReadonlyMap<Interface, number>;
  private readonly four = new Map<Interface, readonly Prefix[]>();

  dev = (i: Interface): string => this.options.device?.(i) ?? deviceOf(this.site, i);
  /** The number by which a flow remembers an interface; from 1. */
  index = (i: Interface): number => this.place.get(i) ?? 0;
  addresses = (i: Interface): readonly Prefix[] =>
    memo(this.four, i, () => (this.states.get(i.name)?.addresses ?? []).filter((a) => isIpv4(a.address)));
  devs = (list: readonly Interface[]): string => `{ ${list.map((i) => `"${this.dev(i)}"`).join(', ')} }`;

  // ---- addresses and routes

  ip(): string[] {
    const out: string[] = [];
    for (const i of this.live) {
      const dev = this.dev(i);
      out.push(`link set ${dev} up`);
      for (const a of this.addresses(i)) out.push(`addr replace ${formatPrefix(a)} dev ${dev} noprefixroute`);
      // Answered for, not held: the rules turn away what no door takes.
      const own = this.addresses(i);
      for (const a of proxiedBy(this.site, i))
        if (isIpv4(a) && !own.some((o) => o.address === a))
          out.push(`addr replace ${formatIp(a)}/32 dev ${dev} noprefixroute`);
    }
    const metric = (r: Route): number =>
      r.origin === 'connected' ? 0 : r.prefix.length === 0 ? 10 + r.priority : r.distance + 1;
    const line = (r: Route, table: number, order: number): string => {
      const way = r.interface === undefined ? 'unreachable ' : '';
      const via = r.via === undefined ? '' : ` via ${formatIp(r.via)}`;
      const by = interfaceNamed(this.site, r.interface);
      // Only where the text says so: a kernel refuses a next hop on none of the subnets, and is right.
      const said = by && (r.prefix.length === 0 ? by.gateway : undefined);
      const onlink = said?.by === 'address' && said.onlink ? ' onlink' : '';
      const dev = by ? ` dev ${this.dev(by)}${onlink}` : '';
      return `route replace ${way}${formatPrefix(networkOf(r.prefix))}${via}${dev} table ${table} metric ${metric(r) * 100 + order} proto ${OURS}`;
    };
    const usable = this.routes.filter((r) => r.interface === undefined || this.states.has(r.interface));
    for (const [n, r] of usable.entries()) out.push(line(r, this.numbers.get(r.table)!, n));
    for (const [table, number] of this.numbers) {
      out.push(`rule add pref 100 fwmark ${this.tableMark(table)} lookup ${number} protocol ${OURS}`);
      out.push(`rule add pref 101 fwmark ${this.tableMark(table)} unreachable protocol ${OURS}`);
    }
    const byName = new Map<string, [number, Route][]>();
    for (const [n, r] of usable.entries())
      if (r.interface !== undefined) memo(byName, r.interface, (): [number, Route][] => []).push([n, r]);
    for (const i of this.live) {
      const table = FIRST_BY + this.index(i);
      for (const [n, r] of byName.get(i.name) ?? []) out.push(line(r, table, n));
      out.push(`rule add pref 100 fwmark ${this.index(i)} lookup ${table} protocol ${OURS}`);
      if (i.table !== 'main') {
        out.push(`rule add pref 200 iif ${this.dev(i)} lookup ${this.numbers.get(i.table)} protocol ${OURS}`);
        // A table of its own does not fall through to another.
        out.push(`rule add pref 201 iif ${this.dev(i)} unreachable protocol ${OURS}`);
      }
    }
    return out;
  }

  // ---- matching

  set(set: IpSet): string {
    const four = set.only(4);
    return four.isEmpty ? '' : `{ ${four.ranges.map(formatRange).join(', ')} }`;
  }

  /** Matches of a source or destination; undefined where it can match nothing. */
  side(word: 'saddr' | 'daddr', set: IpSet | undefined): string | undefined {
    if (set === undefined) return '';
    const text = this.set(set);
    return text && `ip ${word} ${text} `;
  }

  arrival(who: LeaveRule['arrival']): string | undefined {
    if (!who) return '';
    const list = this.live.filter(
      (i) => (!who.zone || i.zone?.name === who.zone) && (!who.interface || i.name === who.interface),
    );
    return list.length ? `ct mark and 0xff { ${list.map(this.index).join(', ')} } ` : undefined;
  }

  zone(word: 'iifname' | 'oifname', name: string): string | undefined {
    const list = this.live.filter((i) => i.zone && (name === 'any' || i.zone.name === name));
    return list.length ? `${word} ${this.devs(list)} ` : undefined;
  }

  // ---- chains

  sources(): string[] {
    const out: string[] = [];
    for (const table of new Set(this.live.map((i) => i.table))) {
      const here = this.live.filter((i) => i.table === table);
      const own = here.flatMap((i) => this.addresses(i).map((a) => a.address));
      if (own.length)
        out.push(`iifname ${this.devs(here)} ip saddr { ${own.map(formatIp).join(', ')} } drop`);
      const back = IpSet.ofPrefixes(
        this.routes
          .filter((r) => r.table === table && r.usable && r.interface !== undefined)
          .map((r) => r.prefix),
      );
      // What is learned is not known here: where a default route may be, everything may come back.
      if (here.some((i) => i.gateway.by === 'learned')) continue;
      const lost = this.set(IpSet.all(4).minus(back));
      if (lost) out.push(`iifname ${this.devs(here)} ct state new ip saddr ${lost} drop`);
    }
    for (const i of this.live) {
      if (!i.guard) continue;
      const elsewhere = this.routes.filter(
        (r) =>
          r.origin === 'connected' &&
          r.table === i.table &&
          r.interface !== i.name &&
          this.live.find((o) => o.name === r.interface)?.table === i.table,
      );
      const by = IpSet.ofPrefixes(
        this.routes.filter((r) => r.interface === i.name && r.table === i.table).map((r) => r.prefix),
      );
      if (i.gateway.by === 'learned') {
        const bad = this.set(IpSet.ofPrefixes([...specialPrefixes(4), ...elsewhere.map((r) => r.prefix)]));
        if (bad) out.push(`iifname "${this.dev(i)}" ct state new ip saddr ${bad} drop`);
        continue;
      }
      const good = by
        .minus(IpSet.ofPrefixes(specialPrefixes(4)))
        .minus(IpSet.ofPrefixes(elsewhere.map((r) => r.prefix)));
      const bad = this.set(IpSet.all(4).minus(good));
      if (bad) out.push(`iifname "${this.dev(i)}" ct state new ip saddr ${bad} drop`);
    }
    return out;
  }

  /** The number by which a flow remembers a table. */
  tableMark = (table: string): number => FIRST_TABLE_MARK + [...this.numbers.keys()].indexOf(table);

  /** The rules of doors, with the chains they jump to where statements of passing decide. */
  doors(): { readonly lines: string[]; readonly chains: { name: string; lines: string[] }[] } {
    const lines: string[] = [];
    const chains: { name: string; lines: string[] }[] = [];
    for (const [d, rule] of this.rules.doors.entries()) {
      if (!isIpv4(rule.outside) || !isIpv4(rule.inside)) continue;
      const from = this.side('saddr', rule.sources);
      if (rule.sources && !from) continue;
      for (const [n, piece] of doorPieces(rule).entries()) {
        const head = `ip daddr ${formatIp(rule.outside)} ${piece.match}`;
        // A door that says where its inside is looks it up in the table of that interface.
        const table = interfaceNamed(this.site, rule.on)?.table;
        const mark = table === undefined ? '' : `ct mark set ct mark or ${this.tableMark(table) << 8} `;
        const to = `${mark}dnat ip to ${formatIp(rule.inside)}${piece.port === undefined ? '' : `:${piece.port}`}`;
        if (rule.sources) {
          lines.push(`${head}${from ?? ''}${to}`);
          continue;
        }
        for (const arrival of this.live) {
          const at = `iifname "${this.dev(arrival)}" `;
          if (arrival.zone?.upstream) lines.push(`${at}${head}${to}`);
          else {
            const order = this.insideOrder(arrival, rule, piece);
            if (!order.some((o) => o.allow)) continue;
            const name = `door_${d}_${n}_${this.index(arrival)}`;
            chains.push({
              name,
              lines: order.map((o) => `${o.match}${piece.match}${o.allow ? to : 'return'}`),
            });
            lines.push(`${at}${head}jump ${name}`);
          }
        }
      }
    }
    return { lines, chains };
  }

  /** What the statements of passing say of a door's flow from an inside interface, in their order. */
  private insideOrder(
    arrival: Interface,
    rule: DoorRule,
    piece: DoorPiece,
  ): { match: string; allow: boolean }[] {
    const table = interfaceNamed(this.site, rule.on)?.table ?? arrival.table;
    const route = lookUp(this.routes, table, rule.inside);
    const departure = this.live.find((i) => i.name === route?.interface);
    const [from, to] = [arrival.zone, departure?.zone];
    if (!departure || !from || !to) return [];
    const out: { match: string; allow: boolean }[] = [];
    for (const p of this.rules.passages) {
      if ((p.from !== 'any' && p.from !== from.name) || (p.to !== 'any' && p.to !== to.name)) continue;
      if (p.destinations && !p.destinations.has(rule.inside)) continue;
      const who = this.side('saddr', p.sources);
      if (who === undefined || (p.sources && !who)) continue;
      for (const more of narrowings(p.services, piece))
        out.push({ match: `${who}${more}`, allow: p.verdict === 'allow' });
    }
    if (from.name === to.name) out.push({ match: '', allow: from.within === 'allow' });
    return out;
  }
}

/** One service, or a stretch that keeps its ports, as a door takes it. */
interface DoorPiece {
  readonly match: string;
  /** The inside port, where it is another. */
  readonly port?: number;
  /** The inside service. */
  readonly inside: ServiceItem;
}

type Ports = Extract<ServiceItem, { kind: 'ports' }>;

/** A door's services in pieces that each lead to one thing: moved ports one by one, the rest as they are. */
function doorPieces(rule: DoorRule): DoorPiece[] {
  const to = rule.insideServices.filter((s): s is Ports => s.kind === 'ports');
  let n = -1;
  return rule.services.flatMap((item): DoorPiece[] => {
    if (item.kind !== 'ports') return [{ match: matchOf(item), inside: item }];
    n++;
    const shift = to[n] ? to[n]!.first - item.first : 0;
    const single = (port: number): DoorPiece => ({
      match: matchOf({ ...item, first: port, last: port }),
      port: shift === 0 ? undefined : port + shift,
      inside: { ...item, first: port + shift, last: port + shift },
    });
    // Each port by itself: a statement of passing may take some of a stretch only.
    if (item.last - item.first < 64)
      return [...Array(item.last - item.first + 1).keys()].map((k) => single(item.first + k));
    return [{ match: matchOf(item), inside: item }];
  });
}

const matchOf = (item: ServiceItem): string => {
  switch (item.kind) {
    case 'any':
      return '';
    case 'ping':
    case 'icmp':
      return 'icmp type echo-request ';
    case 'proto':
      return item.proto === 1 ? 'icmp type echo-request ' : `ip protocol ${item.proto} `;
    case 'ports': {
      const name = item.proto === 6 ? 'tcp' : 'udp';
      if (item.first === 0 && item.last === 65535) return `ip protocol ${name} `;
      return `${name} dport ${item.first === item.last ? item.first : `${item.first}-${item.last}`} `;
    }
  }
};

/** What must be matched beside a door's piece for a specification to take it; nothing for the whole, none where it cannot. */
function narrowings(services: Services, piece: DoorPiece): string[] {
  const { inside } = piece;
  if (takesPiece(services, piece)) return [''];
  if (inside.kind === 'any') return services.map(matchOf);
  if (inside.kind !== 'ports') return [];
  return services.flatMap((s) =>
    s.kind === 'ports' && s.proto === inside.proto && s.first <= inside.last && s.last >= inside.first
      ? [matchOf(s)]
      : [],
  );
}

/** Whether a specification takes the whole of a door's piece. */
function takesPiece(services: Services, { inside }: DoorPiece): boolean {
  return services.some((s) => {
    if (s.kind === 'any') return true;
    if (inside.kind === 'any') return false;
    if (inside.kind === 'ping' || inside.kind === 'icmp')
      return s.kind === 'ping' || s.kind === 'icmp' || (s.kind === 'proto' && s.proto === 1);
    if (inside.kind === 'proto') return s.kind === 'proto' && s.proto === inside.proto;
    if (s.kind === 'proto') return s.proto === inside.proto;
    return s.kind === 'ports' && s.proto === inside.proto && s.first <= inside.first && s.last >= inside.last;
  });
}

/** Compiles a site for a Linux box. */
export function writeLinux(model: Model, options: LinuxOptions = {}): LinuxBox {
  const { site, rules } = model;
  const w = new Writer(model, options);
  const { live } = w;
  const uplinks = live.filter((i) => i.uplink);
  const own = new Set(live.flatMap((o) => w.addresses(o).map((a) => a.address)));
  const proxied = live.flatMap((i) => {
    return [...proxiedBy(site, i)].filter((a) => isIpv4(a) && !own.has(a as never));
  });

  const sends = rules.sends.flatMap((s): string[] => {
    const by = live.find((i) => i.name === s.by);
    const who = w.side('saddr', s.sources);
    const at = w.arrival(s.arrival);
    if (!by || at === undefined || who === undefined || (s.sources && !who)) return [];
    return s.services.map(
      (item) => `${at}${who}${matchOf(item)}ct mark set ct mark or ${w.index(by) << 8} return`,
    );
  });
  const passage = (p: PassageRule): string[] => {
    const [from, to] = [w.zone('iifname', p.from), w.zone('oifname', p.to)];
    const [who, what] = [w.side('saddr', p.sources), w.side('daddr', p.destinations)];
    if (from === undefined || to === undefined || (p.sources && !who) || (p.destinations && !what)) return [];
    return p.services.flatMap((item) => {
      const head = `${from}${to}${who}${what}${matchOf(item)}`;
      if (p.verdict === 'allow') return [`${head}jump leaving`, `${head}accept`];
      if (p.verdict === 'drop') return [`${head}drop`];
      return [
        `${head}meta l4proto tcp reject with tcp reset`,
        `${head}meta nfproto ipv4 reject with icmp type admin-prohibited`,
      ];
    });
  };
  const within = site.zones.flatMap((z): string[] => {
    const [from, to] = [w.zone('iifname', z.name), w.zone('oifname', z.name)];
    if (from === undefined || to === undefined) return [];
    return z.within === 'allow' ? [`${from}${to}jump leaving`, `${from}${to}accept`] : [`${from}${to}drop`];
  });
  const leave = (then: (rule: LeaveRule, out: Interface) => string | undefined) =>
    rules.leaves.flatMap((rule): string[] => {
      if (rule.family !== 4) return [];
      const at = w.arrival(rule.arrival);
      const who = w.side('saddr', rule.sources);
      if (at === undefined || (rule.sources && !who)) return [];
      return live
        .filter((i) => rule.out.has(i.name))
        .flatMap((i) => {
          const verdict = then(rule, i);
          return verdict === undefined ? [] : [`oifname "${w.dev(i)}" ${at}${who ?? ''}${verdict}`];
        });
    });
  const shown = (rule: LeaveRule, out: Interface): string => {
    const primary = w.addresses(out)[0];
    if (rule.action.as === 'address' && familyOf(rule.action.address) === 4)
      return `snat ip to ${formatIp(rule.action.address)}`;
    if (rule.action.as !== 'interface') return 'accept';
    return primary ? `snat ip to ${formatIp(primary.address)}` : 'meta nfproto ipv4 masquerade';
  };
  const hairpins = rules.doors.flatMap((d): string[] => {
    if (!isIpv4(d.inside)) return [];
    return live.flatMap((i) => {
      const near = w.addresses(i).find((a) => contains(a, d.inside)) ?? w.addresses(i)[0];
      return near
        ? [
            `ct status dnat ct mark and 0xff ${w.index(i)} oifname "${w.dev(i)}" ip daddr ${formatIp(d.inside)} snat ip to ${formatIp(near.address)}`,
          ]
        : [];
    });
  });
  const holding = new Map<string, string>();
  const mineIn = (table: string): string =>
    memo(holding, table, () => {
      const here = live.filter((o) => o.table === table);
      const same = here.flatMap((o) => w.addresses(o).map((a) => a.address));
      // A learned address is one of the box, whichever it is.
      if (here.some((o) => o.dynamic !== undefined)) return 'meta nfproto ipv4 fib daddr type local ';
      return same.length ? `ip daddr { ${same.map((a: Ip) => formatIp(a)).join(', ')} } ` : '';
    });
  const answers = live.flatMap((i) => {
    const mine = mineIn(i.table);
    return (rules.answers.get(i.name) ?? []).flatMap((a) => {
      const who = w.side('saddr', a.sources);
      if (!mine || who === undefined || (a.sources && !who)) return [];
      return a.services.map((item) => `iifname "${w.dev(i)}" ${mine}${who}${matchOf(item)}accept`);
    });
  });
  const served = live.filter((i) => i.pools.length > 0);
  const asking = live.filter((i) => i.dynamic === 'dhcp');
  const dhcp = [
    ...(served.length ? [`iifname ${w.devs(served)} udp sport 68 udp dport 67 accept`] : []),
    ...(asking.length ? [`iifname ${w.devs(asking)} udp sport 67 udp dport 68 accept`] : []),
  ];
  const doors = w.doors();
  const chain = (name: string, hook: string, lines: readonly string[]): string =>
    `  chain ${name} {\n${hook ? `    ${hook}\n` : ''}${lines.map((l) => `    ${l}\n`).join('')}  }\n`;
  const arrived = live.map((i) => `iifname "${w.dev(i)}" ct state new ct mark set ${w.index(i)}`);
  const tables = [...new Set(live.map((i) => i.table))];
  const apart = tables.flatMap((table) => {
    const here = live.filter((i) => i.table === table);
    return table === 'main' ? [] : [`iifname ${w.devs(here)} ct original zone set ${w.tableMark(table)}`];
  });
  // Which way a flow would go is asked of the table it arrives at: statements of sending speak of what would leave by
  // an uplink, or by nothing.
  const outward = tables.flatMap((table) => {
    const here = live.filter((i) => i.table === table);
    const at = `iifname ${w.devs(here)} `;
    return [
      `${at}meta mark set ${table === 'main' ? 0 : w.tableMark(table)}`,
      ...uplinks.map((i) => `${at}fib daddr . mark oifname "${w.dev(i)}" jump sending`),
      `${at}fib daddr type != local fib daddr . mark oif missing jump sending`,
    ];
  });
  const nft = [
    // One transaction: what was there before is taken out as the new one comes in.
    'table inet gate {\n}\ndelete table inet gate\ntable inet gate {\n',
    // Two tables may hold the same addresses: what arrives at each is remembered apart.
    ...(apart.length
      ? [chain('apart', 'type filter hook prerouting priority -300; policy accept;', apart)]
      : []),
    chain('sources', 'type filter hook prerouting priority -150; policy accept;', [
      // Its own business, whatever the source: DHCP comes from nowhere.
      ...dhcp,
      ...w.sources(),
      'ct state invalid drop',
      // What goes on with the box itself is left to it: whoever tells it this may be on such a connection.
      'ct state new fib daddr type != local ip protocol tcp tcp flags & (fin | syn | rst | ack) != syn drop',
      'ct state new ip protocol icmp icmp type != echo-request drop',
      ...arrived,
    ]),
    ...doors.chains.map((c) => chain(c.name, '', c.lines)),
    chain('doors', 'type nat hook prerouting priority -100; policy accept;', doors.lines),
    chain('sending', '', sends),
    chain('choosing', '', [
      // A door has said already.
      'ct mark and 0xff00 != 0 meta mark set ct mark >> 8 return',
      ...(sends.length ? outward : []),
      'meta mark set ct mark >> 8',
    ]),
    chain('ways', 'type filter hook prerouting priority -90; policy accept;', [
      'meta mark set 0',
      'ct state new ct direction original goto choosing',
      'ct direction original meta mark set ct mark >> 8',
      'ct direction reply meta mark set ct mark and 0xff',
    ]),
    // The box's own answers go the way their flows came, too.
    chain('own', 'type route hook output priority -150; policy accept;', [
      'ct direction reply meta mark set ct mark and 0xff',
    ]),
    chain('input', 'type filter hook input priority 0; policy drop;', [
      'iif lo accept',
      ...(proxied.length ? [`ip daddr { ${proxied.map((a) => formatIp(a)).join(', ')} } drop`] : []),
      'ct state established,related accept',
      // IPv6 is not told here: its neighbours are heard, and nothing else of it comes in or passes.
      'icmpv6 type { nd-neighbor-solicit, nd-neighbor-advert, nd-router-advert } accept',
      ...dhcp,
      ...answers,
    ]),
    chain('leaving', '', [
      ...(hairpins.length
        ? live.map((i) => `ct status dnat ct mark and 0xff ${w.index(i)} oifname "${w.dev(i)}" return`)
        : []),
      ...leave((rule) => (rule.action.as === 'never' ? 'drop' : 'return')),
    ]),
    chain('forward', 'type filter hook forward priority 0; policy drop;', [
      'ct state established,related accept',
      'ct status dnat jump leaving',
      'ct status dnat accept',
      ...rules.passages.flatMap(passage),
      ...within,
    ]),
    chain('showing', 'type nat hook postrouting priority 100; policy accept;', [
      'fib saddr type local accept',
      ...hairpins,
      ...leave(shown),
    ]),
    '}\n',
  ].join('');
  return {
    ip: w.ip(),
    nft,
    sysctl: [
      'net.ipv4.conf.all.rp_filter=0',
      'net.ipv4.conf.all.send_redirects=0',
      'net.ipv4.conf.default.send_redirects=0',
      ...live.flatMap((i) => [
        `net/ipv4/conf/${w.dev(i)}/send_redirects=0`,
        `net/ipv4/conf/${w.dev(i)}/rp_filter=0`,
      ]),
      'net.ipv4.conf.all.src_valid_mark=1',
      // A cable that is pulled takes its routes out of use.
      'net.ipv4.conf.all.ignore_routes_with_linkdown=1',
    ],
  };
}

/** The sysctl that lets packets pass; the last thing that is told. */
export const FORWARDING = 'net.ipv4.ip_forward=1';
