/**
 * What will be learned, foreseen without running anything: the address that a circuit gives an uplink, and the one
 * that a station gets. Observed leases and sessions, where the caller has them, stand instead.
 */
import { contains, isIpv4, networkOf, prefixEquals, rangeContains } from '#core/addr';
import type { Ip, Ipv4, Prefix } from '#core/addr';
import { interfaceAt, landed } from './segments';
import { primaryAddress, staticNetworks } from './site';
import type { Interface, Site } from './site';
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

/** Everything foreseen for a site with its wiring. */
export interface Prospects {
  /** By interface name. */
  readonly uplinks: ReadonlyMap<string, Learned>;
  /** IPv4 addresses by station name, static ones included. */
  readonly stations: ReadonlyMap<string, Prefix<Ipv4>>;
}

/** The circuits that arrive on the segment of an interface, in file order. */
export const circuitsOf = (wiring: Wiring, iface: Interface): Circuit[] =>
  wiring.circuits.filter(
    (c) => landed(c.landing) && iface.ports.includes(c.landing.port) && c.landing.tag === iface.tag,
  );

/** The stations on the segment of an interface, in file order, those that are off included. */
export const stationsOf = (wiring: Wiring, iface: Interface): Station[] =>
  wiring.stations.filter(
    (s) => landed(s.landing) && iface.ports.includes(s.landing.port) && s.landing.tag === iface.tag,
  );

/** Foresees what is learned. `observed` uplinks (leases and sessions really seen) take precedence. */
export function foresee(
  site: Site,
  wiring: Wiring,
  observed: ReadonlyMap<string, Learned> = new Map(),
): Prospects {
  const uplinks = new Map<string, Learned>();
  for (const iface of site.interfaces) {
    const seen = observed.get(iface.name);
    if (seen) uplinks.set(iface.name, seen);
    else if (iface.dynamic === 'dhcp' && !iface.off) {
      const circuit = circuitsOf(wiring, iface).find((c) => c.lends && !c.down);
      const lent = circuit && lowestLent(circuit);
      if (lent)
        uplinks.set(iface.name, {
          address: lent,
          gateway: circuit.gateway,
          names: circuit.names,
          from: 'prospect',
          supposed: circuit.supposed,
        });
    }
  }
  const stations = new Map<string, Prefix<Ipv4>>();
  const taken = new Set<Ip>();
  for (const s of wiring.stations) {
    if (!s.address) continue;
    stations.set(s.name, s.address);
    taken.add(s.address.address);
  }
  for (const s of wiring.stations) {
    if (!s.dhcp || s.off) continue;
    const iface = interfaceAt(site, s.landing);
    const lease = iface && leaseFor(iface, s, taken);
    if (!lease) continue;
    stations.set(s.name, lease);
    taken.add(lease.address);
  }
  return { uplinks, stations };
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
  const kept = iface.statement.keeps.find((k) => k.mac === station.mac);
  if (kept && isIpv4(kept.address.value)) {
    const net = staticNetworks(iface).find((n) => contains(n, kept.address.value));
    if (net && iface.statement.lends.length) return { address: kept.address.value, length: net.length };
  }
  const reserved = new Set<Ip>([
    ...iface.statement.keeps.map((k) => k.address.value),
    ...iface.addresses.map((a) => a.prefix.address),
  ]);
  for (const pool of iface.statement.lends)
    for (const { value: range } of pool.ranges) {
      const net = staticNetworks(iface).find((n) => contains(n, range.first));
      if (!net || !isIpv4(range.first)) continue;
      for (let a = range.first as number; a <= (range.last as number); a++) {
        const address = a as Ipv4;
        if (!reserved.has(address) && !taken.has(address) && contains(net, address))
          return { address, length: net.length };
      }
    }
  return undefined;
}

/** The IPv4 networks of an interface with what it learns, each once. */
export function networksOf(iface: Interface, prospects: Prospects): Prefix[] {
  const out = staticNetworks(iface);
  const learned = prospects.uplinks.get(iface.name);
  if (learned) {
    const net = networkOf(learned.address);
    if (!out.some((n) => prefixEquals(n, net))) out.unshift(net);
  }
  return out;
}

/** All addresses of an interface with what it learns, the primary first. */
export function addressesOf(iface: Interface, prospects: Prospects): Prefix[] {
  const learned = prospects.uplinks.get(iface.name);
  const own = iface.addresses.map((a) => a.prefix);
  return learned ? [learned.address, ...own] : own;
}

/** The primary IPv4 address, static or foreseen. */
export const primaryOf = (iface: Interface, prospects: Prospects): Prefix | undefined =>
  prospects.uplinks.get(iface.name)?.address ?? primaryAddress(iface);

/** The next hop of an interface's IPv4 default route, static or foreseen. */
export function gatewayOf(iface: Interface, prospects: Prospects): Ip | undefined {
  if (iface.gateway.by === 'address') return iface.gateway.address;
  return iface.gateway.by === 'learned' ? prospects.uplinks.get(iface.name)?.gateway : undefined;
}

/** How many addresses the pools of an interface can give out, each once. */
export function poolSize(iface: Interface): number {
  const seen = new Set<Ip>();
  const own = iface.addresses.map((a) => a.prefix.address);
  let size = 0;
  for (const pool of iface.statement.lends)
    for (const { value } of pool.ranges) {
      if (!isIpv4(value.first) || !isIpv4(value.last)) continue;
      size += value.last - value.first + 1;
      for (const a of own)
        if (rangeContains(value, a) && !seen.has(a)) {
          seen.add(a);
          size--;
        }
    }
  return size;
}
