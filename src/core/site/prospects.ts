/**
 * What will be learned, foreseen without running anything: the address that a circuit gives an uplink, and the one
 * that a station gets. Observed leases and sessions, where the caller has them, stand instead.
 */
import {
  contains,
  identifierOf,
  isIpv4,
  networkOf,
  offsetIp,
  prefixEquals,
  rangeContains,
  subnetOf,
} from '#core/addr';
import type { DhcpOption, Ip, Ipv4, Ipv6, Mac, Prefix, Range } from '#core/addr';
import { memo } from '#core/base';
import { lendersAt } from './lenders';
import { foreseenNames } from './resolving';
import { interfaceAt, isLit, landed, meantAt, segmentOf } from './segments';
import type { Landing } from './segments';
import { primaryAddress, staticNetworks } from './site';
import { twinAddresses } from './pair';
import { interfaceMac } from './wiring';
import type { Interface, Pool, Site } from './types';
import type { Circuit, Station, Wiring } from './wiring';

/** What an uplink gets from its provider. */
export interface Learned {
  readonly address: Prefix<Ipv4>;
  readonly gateway?: Ipv4;
  readonly names: readonly Ip[];
  /** Which kind of evidence this is. */
  readonly from: 'prospect' | 'lease' | 'session';
  readonly supposed: boolean;
}

/** What an uplink gets for IPv6: by router advertisement, by DHCPv6, or both. */
export interface Learned6 {
  readonly addresses: readonly Prefix<Ipv6>[];
  readonly gateway?: Ipv6;
  readonly names: readonly Ip[];
  /** The prefix delegated to the box. */
  readonly delegated?: Prefix<Ipv6>;
  readonly from: 'prospect' | 'lease';
  readonly supposed: boolean;
}

/** What uplinks learn, by interface name. */
export interface UplinksLearned {
  readonly uplinks: ReadonlyMap<string, Learned>;
  readonly uplinks6: ReadonlyMap<string, Learned6>;
  /** What the names that rules speak of lead to; foreseen where absent. */
  readonly named?: ReadonlyMap<string, readonly Ip[]>;
}

/** Everything foreseen for a site with its wiring. */
export interface Prospects extends UplinksLearned {
  /** What stands for an address that nobody knows yet, where a reader asks for one (RFC 1122 §3.2.1.3). */
  readonly unknown?: Ipv4;
  /** Uplinks on demand that rest, as another of their table has all that it needs to live. */
  readonly resting: ReadonlySet<string>;
  readonly named: ReadonlyMap<string, readonly Ip[]>;
  /** IPv4 addresses by station name, static ones included. */
  readonly stations: ReadonlyMap<string, Prefix<Ipv4>>;
  /** Their IPv6 addresses, made from what is advertised on their segment or written. */
  readonly stations6: ReadonlyMap<string, Prefix<Ipv6>>;
}

/** The uplinks that one on demand waits for: those of its table that are not. Empty where it is no such uplink. */
export const coveredBy = (site: Site, iface: Interface): Interface[] =>
  iface.onDemand && iface.uplink
    ? site.interfaces.filter((i) => i.uplink && !i.onDemand && i.table === iface.table)
    : [];

/** What a wiring has on each segment, by port and tag. Gathered once: many checks ask for every interface. */
interface Segments {
  readonly circuits: Segmented<Circuit>;
  readonly stations: Segmented<Station>;
}
interface Segmented<T> {
  /** In file order. */
  readonly all: readonly T[];
  /** By port and tag. */
  readonly at: ReadonlyMap<string, readonly T[]>;
  /** What was asked for before. */
  readonly by: Map<Interface, readonly T[]>;
}
const gathered = new WeakMap<Wiring, Segments>();
const segmentKey = (port: string, tag: number | undefined): string => `${port}|${tag ?? ''}`;

function segmentsOf(wiring: Wiring): Segments {
  return memo(gathered, wiring, () => {
    const by = <T>(
      all: readonly T[],
      placeOf: (item: T) => { port: string; tag?: number } | undefined,
    ): Segmented<T> => {
      const at = new Map<string, T[]>();
      for (const item of all) {
        const place = placeOf(item);
        if (place) memo(at, segmentKey(place.port, place.tag), (): T[] => []).push(item);
      }
      return { all, at, by: new Map() };
    };
    return {
      circuits: by(wiring.circuits, (c) => (landed(c.landing) ? c.landing : undefined)),
      stations: by(wiring.stations, (s) => meantAt(s.landing)),
    };
  });
}

/** What lies on the segments of an interface: for a bridge that of every member, in file order. */
function onSegments<T>({ all, at, by }: Segmented<T>, iface: Interface): readonly T[] {
  return memo(by, iface, () => {
    const found = iface.ports.flatMap((p) => at.get(segmentKey(p, iface.tag)) ?? []);
    return iface.ports.length < 2 ? found : all.filter((x) => found.includes(x));
  });
}

/** The circuits that arrive on the segment of an interface, in file order. */
export const circuitsOf = (wiring: Wiring, iface: Interface): readonly Circuit[] =>
  onSegments(segmentsOf(wiring).circuits, iface);

/** The stations that are meant for the segment of an interface, in file order, those that are off included. */
export const stationsOf = (wiring: Wiring, iface: Interface): readonly Station[] =>
  onSegments(segmentsOf(wiring).stations, iface);

/** The address that SLAAC makes in a network of length 64, of a MAC address or a suffix that was chosen. RFC 4862 §5.5.3. */
export const slaacAddress = (network: Prefix<Ipv6>, mac: Mac, suffix?: bigint): Prefix<Ipv6> => ({
  address: (network.address | (suffix ?? identifierOf(mac))) as Ipv6,
  length: network.length,
});

/** Whether an uplink asks for a prefix: some interface is numbered from it. */
export const wantsDelegation = (site: Site, iface: Interface): boolean =>
  memo(
    asking,
    site,
    () => new Set(site.interfaces.flatMap((i) => (i.off ? [] : i.auto6.from.map((f) => f.interface)))),
  ).has(iface.name);

/** The uplinks that a prefix is wanted of. */
const asking = new WeakMap<Site, ReadonlySet<string>>();

/** The addresses that an interface takes from delegated prefixes: the first of each /64. */
export function delegatedAddresses(
  iface: Interface,
  delegated: (uplink: string) => Prefix<Ipv6> | undefined,
): Prefix<Ipv6>[] {
  return iface.auto6.from.flatMap(({ interface: uplink, subnet }) => {
    const prefix = delegated(uplink);
    const net = prefix && subnetOf(prefix, subnet);
    return net ? [{ address: offsetIp(net.address, 1)!, length: 64 }] : [];
  });
}

/** Foresees what is learned. `observed` uplinks (leases and sessions really seen) take precedence. */
export function foresee(site: Site, wiring: Wiring, observed: Partial<UplinksLearned> = {}): Prospects {
  const uplinks = new Map<string, Learned>();
  const uplinks6 = new Map<string, Learned6>();
  const learn = (iface: Interface) => {
    const seen = observed.uplinks?.get(iface.name) ?? learned4(wiring, iface);
    if (seen) uplinks.set(iface.name, seen);
    const seen6 = observed.uplinks6?.get(iface.name) ?? learned6(site, wiring, iface);
    if (seen6) uplinks6.set(iface.name, seen6);
  };
  const onDemand = site.interfaces.filter((i) => i.onDemand);
  for (const iface of site.interfaces) if (!iface.onDemand) learn(iface);
  const lives = (i: Interface) =>
    isLit(site, i) &&
    ((i.gateway.by === 'address' && i.addresses.some((a) => isIpv4(a.prefix.address))) ||
      (i.gateway6.by === 'address' && i.speaks6) ||
      uplinks.get(i.name)?.gateway !== undefined ||
      uplinks6.get(i.name)?.gateway !== undefined);
  const resting = new Set(onDemand.filter((i) => coveredBy(site, i).some(lives)).map((i) => i.name));
  // One that was called has what it really got.
  const called = ({ name }: Interface) => observed.uplinks?.has(name) || observed.uplinks6?.has(name);
  for (const iface of onDemand) if (!resting.has(iface.name) || called(iface)) learn(iface);
  const stations = new Map<string, Prefix<Ipv4>>();
  // By segment: who sits on another may have the very same address, in another table.
  const taken = new Map<string | undefined, Set<Ip>>();
  const takenAt = (landing: Landing) => memo(taken, segmentOf(site, landing), () => new Set<Ip>());
  for (const s of wiring.stations) {
    if (!s.address) continue;
    stations.set(s.name, s.address);
    if (!s.off) takenAt(s.landing).add(s.address.address);
  }
  // A server asks before it offers, so that what a router or the box has is not given either.
  for (const iface of site.interfaces)
    for (const port of iface.ports)
      for (const address of [...iface.addresses.map((a) => a.prefix.address), ...twinAddresses([iface])])
        takenAt({ port, tag: iface.tag }).add(address);
  for (const { landing, address } of wiring.routers.flatMap((r) => r.legs))
    takenAt(landing).add(address.address);
  for (const s of wiring.stations) {
    if (!s.dhcp || s.off) continue;
    const iface = interfaceAt(site, s.landing);
    const lease =
      (iface && leaseFor(iface, s, takenAt(s.landing))) ??
      leaseElsewhere(site, wiring, s, takenAt(s.landing));
    if (!lease) continue;
    stations.set(s.name, lease);
    takenAt(s.landing).add(lease.address);
  }
  const stations6 = new Map<string, Prefix<Ipv6>>();
  for (const s of wiring.stations) {
    if (s.off) continue;
    const iface = interfaceAt(site, s.landing);
    const net = iface && advertisedNetwork(iface, (name) => uplinks6.get(name)?.delegated);
    const own = s.address6 ?? (net && slaacAddress(net, s.mac, s.suffix));
    if (own) stations6.set(s.name, own);
  }
  const named = observed.named ?? foreseenNames(site, wiring, resolversOf(site, { uplinks, uplinks6 }));
  return { uplinks, uplinks6, named, resting, stations, stations6 };
}

/** The resolvers that the box has: those of its uplinks, then its own. */
const resolversOf = (site: Site, { uplinks, uplinks6 }: UplinksLearned): Ip[] => [
  ...site.interfaces.flatMap(({ name, uplink, names }) =>
    uplink
      ? [
          ...names.addresses,
          ...(names.learned
            ? [...(uplinks.get(name)?.names ?? []), ...(uplinks6.get(name)?.names ?? [])]
            : []),
        ]
      : [],
  ),
  ...(site.box?.names ?? []).map((n) => n.value),
];

function learned4(wiring: Wiring, iface: Interface): Learned | undefined {
  if (iface.off || !iface.dynamic) return undefined;
  if (iface.dynamic === 'dhcp') {
    const circuit = circuitsOf(wiring, iface).find((c) => c.lends && !c.down);
    const lent = circuit && lowestLent(circuit);
    return lent
      ? {
          address: lent,
          gateway: circuit.gateway,
          names: circuit.names,
          from: 'prospect',
          supposed: circuit.supposed,
        }
      : undefined;
  }
  const { carrier } = iface.statement;
  const circuit = circuitsOf(wiring, iface).find((c) => c.session && !c.down);
  const session = circuit?.session;
  if (!session || carrier?.by !== 'pppoe') return undefined;
  if (!circuit.supposed && (session.user !== carrier.user || session.secret !== carrier.secret))
    return undefined;
  return {
    address: { address: session.gives, length: 32 },
    gateway: session.peer,
    names: circuit.names.filter(isIpv4),
    from: 'prospect',
    supposed: circuit.supposed,
  };
}

function learned6(site: Site, wiring: Wiring, iface: Interface): Learned6 | undefined {
  if (iface.off) return undefined;
  const { slaac, dhcpv6 } = iface.auto6;
  const delegation = wantsDelegation(site, iface);
  if (!slaac && !dhcpv6 && !delegation) return undefined;
  const circuit = circuitsOf(wiring, iface).find((c) => !c.down && speaks6(c));
  if (!circuit) return undefined;
  const { block6, lends6, delegates6 } = circuit;
  const addresses: Prefix<Ipv6>[] = [];
  if (slaac && block6?.length === 64) addresses.push(slaacAddress(block6, interfaceMac(site, iface)));
  const lent = dhcpv6 && lends6 ? lowestLent6(lends6) : undefined;
  if (lent) addresses.push(lent);
  return {
    addresses,
    gateway: slaac || dhcpv6 ? circuit.linkLocal : undefined,
    names: circuit.names.filter((n) => !isIpv4(n)),
    delegated: delegation ? delegates6 : undefined,
    from: 'prospect',
    supposed: circuit.supposed,
  };
}

/** Whether a circuit speaks IPv6. */
export const speaks6 = (circuit: Circuit): boolean =>
  !!(circuit.block6 ?? circuit.lends6 ?? circuit.delegates6);

/** The first address that a provider lends: the one behind its own, which is the network's first. */
export const lowestLent6 = (lends: Prefix<Ipv6>): Prefix<Ipv6> | undefined => {
  const address = offsetIp(lends.address, 2);
  return address !== undefined && contains(lends, address) ? { address, length: lends.length } : undefined;
};

/** The /64 that an interface advertises to its stations, where it does. */
export function advertisedNetwork(
  iface: Interface,
  delegated: (uplink: string) => Prefix<Ipv6> | undefined,
): Prefix<Ipv6> | undefined {
  if (!iface.advertises || iface.off) return undefined;
  const own = [
    ...iface.addresses.map((a) => a.prefix).filter((p): p is Prefix<Ipv6> => !isIpv4(p.address)),
    ...delegatedAddresses(iface, delegated),
  ];
  const net = own.find((p) => p.length === 64);
  return net && networkOf(net);
}

/** The first address of a circuit's pool; the provider gives the lowest free one, and nobody else asks. */
function lowestLent(circuit: Circuit): Prefix<Ipv4> | undefined {
  const { lends, prefix, gateway } = circuit;
  if (!lends || !prefix) return undefined;
  for (let a = lends.first as number; a <= lends.last; a++)
    if (a !== gateway) return { address: a as Ipv4, length: prefix.length };
  return undefined;
}

/** The lease that a station gets here: its keep, else the lowest free address of the pools in their order. */
function leaseFor(iface: Interface, station: Station, taken: ReadonlySet<Ip>): Prefix<Ipv4> | undefined {
  const kept = iface.reserved.find((k) => k.mac === station.mac);
  if (kept && isIpv4(kept.address)) {
    const net = staticNetworks(iface).find((n) => contains(n, kept.address));
    if (net && iface.pools.length) return { address: kept.address, length: net.length };
  }
  const reserved = new Set<Ip>(iface.reserved.map((k) => k.address));
  const free = (a: Ipv4) => !reserved.has(a) && !taken.has(a);
  for (const range of iface.pools.flatMap((p) => p.ranges)) {
    const net = staticNetworks(iface).find((n) => contains(n, range.first));
    const lease = net && lowestIn(range, net, free);
    if (lease) return lease;
  }
  return undefined;
}

/** The lowest free address of a range that a network holds. */
function lowestIn(
  { first, last }: Range,
  net: Prefix,
  free: (address: Ipv4) => boolean,
): Prefix<Ipv4> | undefined {
  if (!isIpv4(first) || !isIpv4(last)) return undefined;
  for (let a = first as number; a <= last; a++)
    if (contains(net, a as Ipv4) && free(a as Ipv4)) return { address: a as Ipv4, length: net.length };
  return undefined;
}

/** The lease that a station gets of others than the box: the lowest free address of their pools. */
function leaseElsewhere(
  site: Site,
  wiring: Wiring,
  station: Station,
  taken: ReadonlySet<Ip>,
): Prefix<Ipv4> | undefined {
  for (const { by, network, pool } of lendersAt(site, wiring, station.landing)) {
    const reserved = 'reserved' in by ? by.reserved : [];
    const kept = reserved.find((k) => k.mac === station.mac)?.address;
    if (kept !== undefined && isIpv4(kept) && contains(network, kept))
      return { address: kept, length: network.length };
    for (const range of pool.ranges) {
      const lease = lowestIn(range, network, (a) => !taken.has(a) && !reserved.some((k) => k.address === a));
      if (lease) return lease;
    }
  }
  return undefined;
}

/** What interfaces have with what they learn. Every room asks for every interface. */
interface Numbered {
  readonly addresses: Map<Interface, readonly Prefix[]>;
  readonly networks: Map<Interface, readonly Prefix[]>;
}
const numbered = new WeakMap<UplinksLearned, Numbered>();
const numberedBy = (prospects: UplinksLearned): Numbered =>
  memo(numbered, prospects, () => ({ addresses: new Map(), networks: new Map() }));

/** The networks of an interface with what it learns, each once, a learned IPv4 one first. */
export const networksOf = (iface: Interface, prospects: UplinksLearned): readonly Prefix[] =>
  memo(numberedBy(prospects).networks, iface, () => {
    const out: Prefix[] = [];
    for (const address of addressesOf(iface, prospects)) {
      const net = networkOf(address);
      if (!out.some((n) => prefixEquals(n, net))) out.push(net);
    }
    return out;
  });

/** All addresses of an interface with what it learns, the primary first. */
export const addressesOf = (iface: Interface, prospects: UplinksLearned): readonly Prefix[] =>
  memo(numberedBy(prospects).addresses, iface, () => {
    const learned = prospects.uplinks.get(iface.name);
    return [
      ...(learned ? [learned.address] : []),
      ...iface.addresses.map((a) => a.prefix),
      ...(prospects.uplinks6.get(iface.name)?.addresses ?? []),
      ...delegatedAddresses(iface, (name) => prospects.uplinks6.get(name)?.delegated),
    ];
  });

/** The primary IPv4 address, static or foreseen. */
export const primaryOf = (iface: Interface, prospects: Prospects): Prefix | undefined =>
  prospects.uplinks.get(iface.name)?.address ?? primaryAddress(iface);

/** The next hop of an interface's IPv4 default route, static or foreseen. */
export function gatewayOf(iface: Interface, prospects: UplinksLearned): Ip | undefined {
  if (iface.gateway.by === 'address') return iface.gateway.address;
  return iface.gateway.by === 'learned' ? prospects.uplinks.get(iface.name)?.gateway : undefined;
}

/** The next hop of an interface's IPv6 default route, static or foreseen. */
export function gateway6Of(iface: Interface, prospects: UplinksLearned): Ip | undefined {
  if (iface.gateway6.by === 'address') return iface.gateway6.address;
  return iface.gateway6.by === 'learned' ? prospects.uplinks6.get(iface.name)?.gateway : undefined;
}

/** The pool that an address lies in; the first, where several overlap. */
export const poolOf = <P extends Pick<Pool, 'ranges'>>(pools: readonly P[], address: Ip): P | undefined =>
  pools.find((p) => p.ranges.some((r) => rangeContains(r, address)));

/** The options that go with an address of an interface: of two of one number the one for fewer addresses. */
export function optionsFor({ options }: Pick<Interface, 'options'>, address: Ip): DhcpOption[] {
  const size = (o: Interface['options'][number]) =>
    o.only && isIpv4(o.only.first) && isIpv4(o.only.last) ? o.only.last - o.only.first : Infinity;
  const fit = options.filter((o) => !o.only || rangeContains(o.only, address));
  const codes = [...new Set(fit.map((o) => o.code))].sort((a, b) => a - b);
  return codes.map((code) => {
    const same = fit.filter((o) => o.code === code);
    const best = same.reduce((a, b) => (size(b) < size(a) ? b : a));
    return { code, value: best.value };
  });
}

/** How many addresses the pools of an interface can give out, each once. */
export function poolSize(iface: Interface): number {
  const seen = new Set<Ip>();
  const own = iface.addresses.map((a) => a.prefix.address);
  let size = 0;
  for (const pool of iface.pools)
    for (const range of pool.ranges) {
      if (!isIpv4(range.first) || !isIpv4(range.last)) continue;
      size += range.last - range.first + 1;
      for (const a of own)
        if (rangeContains(range, a) && !seen.has(a)) {
          seen.add(a);
          size--;
        }
    }
  return size;
}
