/** Where flows come from and go to: what a name stands for, as sets of addresses at interfaces of the box. */
import { IpSet, contains, hostPrefix, hostRange, isIpv4, rangeContains } from '#core/addr';
import type { Family, Ip, Ipv4, Prefix } from '#core/addr';
import { memo } from '#core/base';
import type { Model } from '#core/model';
import type { Who } from '#core/notation';
import {
  addressesFor,
  inOrder,
  internetSet,
  kindOf,
  knownRanges,
  proxiedBy,
  suffixed,
} from '#core/semantics';
import {
  addressesOf,
  gatewayAddress,
  interfaceFor,
  interfaceAt,
  landed,
  lendersAt,
  networksOf,
  poolOf,
  routersOn,
  stationsBehind,
  stationsOf,
  twinAddresses,
  zoneNamed,
} from '#core/site';
import type { Far, Interface, Station } from '#core/site';
import { ALL, FAMILIES } from './block';

/** Addresses of one family at one interface: of hosts as they should be, or of one station or far host as it is. */
export interface Place {
  readonly at: Interface;
  readonly addresses: IpSet;
  readonly station?: Station;
  readonly far?: Far;
  /** Somewhere behind the interface's gateway, not on its segment. */
  readonly beyond: boolean;
  /** It is the internet by this uplink, or a far host of it: the same by each uplink. */
  readonly internet?: true;
}

/** The addresses that a station has on a family, with its length. */
export const stationAddress = (g: Model, s: Station, family: Family): Prefix | undefined =>
  family === 4 ? g.prospects.stations.get(s.name) : g.prospects.stations6.get(s.name);

/** The gateway of a station: written, or that of its lease; for IPv6 the router that advertises. */
export function stationGateway(
  g: Model,
  s: Station,
  at: Interface,
  family: Family,
): Ip | 'router' | undefined {
  if (family === 6) return s.gateway6 ?? (at.advertises ? 'router' : undefined);
  if (!s.dhcp) return s.gateway;
  const own = g.prospects.stations.get(s.name);
  const pool = own && landed(s.landing) ? poolOf(at.pools, own.address) : undefined;
  if (pool?.gateway !== undefined) return pool.gateway;
  const lender =
    own &&
    !pool &&
    lendersAt(g.site, g.wiring, s.landing).find(
      (l) =>
        contains(l.network, own.address) &&
        (poolOf([l.pool], own.address) ??
          ('reserved' in l.by && l.by.reserved.some((k) => k.address === own.address))),
    );
  if (lender) return lender.gateway;
  const home = addressesOf(at, g.prospects).find((a) => own && isIpv4(a.address) && sameNet(a, own));
  return home && gatewayAddress(at, home as Prefix<Ipv4>);
}

const sameNet = (a: Prefix, b: Prefix): boolean =>
  rangeContains(hostRange(a), b.address) || a.address === b.address;

/** The hosts that may sit on the segment of an interface: its networks without what the box, its twin and routers answer for. */
function hostsOn(g: Model, iface: Interface): IpSet {
  const nets = networksOf(iface, g.prospects);
  // A network of one address is a line to one neighbour, and that address is the box.
  const hosts = IpSet.of(nets.map((n) => hostRange(n)));
  const own = addressesOf(iface, g.prospects).map((a) => a.address);
  const routers = routersOn(g.wiring, `interface ${iface.name}`).map(({ leg }) => leg.address.address);
  const others = [...routers, ...twinAddresses([iface]), ...proxiedBy(g.site, iface)];
  return hosts.minus(IpSet.ofAddresses([...own, ...others]));
}

/** Everything behind an interface: its hosts, and beyond them what static routes and known hosts say. */
function behind(g: Model, iface: Interface): { near: IpSet; far: IpSet } {
  const near = hostsOn(g, iface);
  const nets = IpSet.ofPrefixes(networksOf(iface, g.prospects));
  const known = g.site.knowns
    .filter((k) => k.behind?.name === iface.name)
    .flatMap((k) => k.items.map((i) => i.value.range));
  const far = IpSet.of(known).union(routedBy(g, iface)).minus(nets);
  return { near, far };
}

/** Whether an interface is on the air: it is not off, nor its port, and does not rest. */
const isUp = (g: Model, iface: Interface): boolean => !!g.states.get(iface.name)?.up;

/** What static routes lead to by an interface when everything is up: of several to one network the best counts. */
function routedBy(g: Model, iface: Interface): IpSet {
  const by = memo(routed, g, () => {
    const out = new Map<string, IpSet>();
    const routes = g.routes.filter((r) => r.usable);
    for (const table of new Set(routes.map((r) => r.table)))
      for (const family of FAMILIES) {
        let left = ALL[family];
        for (const route of inOrder(routes, table, family)) {
          const set = IpSet.ofPrefixes([route.prefix]);
          if (route.origin === 'static' && route.interface !== undefined && route.prefix.length > 0)
            out.set(route.interface, (out.get(route.interface) ?? IpSet.empty).union(left.intersect(set)));
          left = left.minus(set);
        }
      }
    return out;
  });
  return by.get(iface.name) ?? IpSet.empty;
}
const routed = new WeakMap<Model, ReadonlyMap<string, IpSet>>();

interface Seated extends Record<Family, Map<Interface, readonly Place[]>> {
  readonly behind: Map<Interface, { readonly near: IpSet; readonly far: IpSet }>;
}

/** Places of interfaces, kept for as long as their ground is. */
const gathered = new WeakMap<Model, Seated>();

/** The places of one interface, its stations each on their own; with `among`, only what they have of it. */
export function placesAt(g: Model, iface: Interface, family: Family, among?: IpSet): readonly Place[] {
  const mine = memo(gathered, g, (): Seated => ({ 4: new Map(), 6: new Map(), behind: new Map() }));
  const all = memo(mine[family], iface, () =>
    gather(
      g,
      iface,
      family,
      memo(mine.behind, iface, () => behind(g, iface)),
    ),
  );
  if (!among) return all;
  return all.flatMap((place) => {
    const addresses = among.intersect(place.addresses);
    return addresses.isEmpty ? [] : [{ ...place, addresses }];
  });
}

function gather(
  g: Model,
  iface: Interface,
  family: Family,
  { near, far }: { readonly near: IpSet; readonly far: IpSet },
): Place[] {
  const out: Place[] = [];
  const add = (addresses: IpSet, beyond: boolean, more: Partial<Place> = {}) => {
    const mine = addresses.only(family);
    if (!mine.isEmpty) out.push({ at: iface, addresses: mine, beyond, ...more });
  };
  const sitting = stationsOf(g.wiring, iface).filter(
    (s) => !s.off && interfaceAt(g.site, s.landing) === iface,
  );
  const taken: Ip[] = [];
  for (const station of sitting) {
    const own = stationAddress(g, station, family);
    if (!own) continue;
    taken.push(own.address);
    add(IpSet.ofAddresses([own.address]), false, { station });
  }
  for (const station of stationsBehind(g.site, g.wiring, iface)) {
    const own = stationAddress(g, station, family);
    if (!own) continue;
    taken.push(own.address);
    add(IpSet.ofAddresses([own.address]), true, { station });
  }
  const others = IpSet.ofAddresses(taken);
  add(near.minus(others), false);
  add(far.minus(others), true);
  return out;
}

const internets = { 4: new WeakMap<Model, IpSet>(), 6: new WeakMap<Model, IpSet>() };

/**
 * The internet by every uplink, its far hosts each on their own. Silent ones count only where they are asked for by
 * their address.
 */
function internetPlaces(g: Model, family: Family, among?: IpSet): Place[] {
  // Who asks for the address of a door asks for whom it leads to.
  const everywhere = memo(internets[family], g, () =>
    internetSet(g.site, g.prospects)
      .only(family)
      .minus(
        IpSet.ofPrefixes(
          g.site.doors.flatMap(({ outside }): Prefix[] => {
            const said = outside?.value;
            return !said || 'interface' in said
              ? []
              : ['address' in said ? hostPrefix(said.address) : said.prefix];
          }),
        ),
      ),
  );
  const wanted = among ? everywhere.intersect(among) : everywhere;
  const out: Place[] = [];
  for (const at of g.site.interfaces.filter((i) => i.uplink && isUp(g, i))) {
    let rest = wanted;
    for (const far of g.wiring.fars) {
      const own = IpSet.ofAddresses(far.addresses).only(family).intersect(wanted);
      if (own.isEmpty) continue;
      rest = rest.minus(own);
      if (far.silent && !among) continue;
      out.push({ at, addresses: own, far, beyond: true, internet: true });
    }
    if (!rest.isEmpty) out.push({ at, addresses: rest, beyond: true, internet: true });
  }
  return out;
}

/** Whether a WHO is one host that is there: then it must accept, not merely be reached. */
export function isStrict(g: Model, who: Who): boolean {
  if (who.type !== 'name') return false;
  const kind = kindOf(g.site, who);
  if (kind === 'station' || kind === 'far' || kind === 'door') return true;
  if (kind !== 'known') return false;
  return FAMILIES.some((f) => placesOf(g, who, f).some((p) => p.station));
}

/** What a WHO stands for as places. Doors stand for none: they are asked for on their own. */
export function placesOf(g: Model, who: Who, family: Family): Place[] {
  const { site } = g;
  const live = site.interfaces.filter((i) => isUp(g, i));
  switch (who.type) {
    case 'any':
      return [...live.flatMap((i) => placesAt(g, i, family)), ...internetPlaces(g, family)];
    case 'internet':
      return internetPlaces(g, family);
    case 'addresses':
      return amid(g, IpSet.of([who.range]), family);
    case 'suffix':
      return amid(g, IpSet.ofAddresses(suffixed(site, g.prospects, who)).only(family), family);
    case 'name': {
      const kind = kindOf(site, who);
      switch (kind) {
        case 'zone': {
          const zone = zoneNamed(site, who.name)!;
          const own = live.filter((i) => i.zone?.name === who.name).flatMap((i) => placesAt(g, i, family));
          if (!zone.upstream) return own;
          // What routes lead to by an uplink is on the internet already, unless it is private.
          const everywhere = internetSet(g.site, g.prospects);
          const beside = own.flatMap((place) => {
            const addresses = place.beyond ? place.addresses.minus(everywhere) : place.addresses;
            return addresses.isEmpty ? [] : [{ ...place, addresses }];
          });
          return [...beside, ...internetPlaces(g, family)];
        }
        case 'interface':
          return live.filter((i) => i.name === who.name).flatMap((i) => placesAt(g, i, family));
        case 'station': {
          const station = g.wiring.stations.find((s) => s.name === who.name && !s.off);
          const at = station && interfaceFor(site, g.wiring, station);
          const own = station && stationAddress(g, station, family);
          const beyond = !!station && !landed(station.landing);
          return at && own ? [{ at, addresses: IpSet.ofAddresses([own.address]), station, beyond }] : [];
        }
        case 'known': {
          const known = site.knowns.find((k) => k.name === who.name)!;
          const set = IpSet.of(knownRanges(g.prospects, known)).only(family);
          const at = live.find((i) => i.name === known.behind?.name);
          return at ? [...placesAt(g, at, family, set)] : amid(g, set, family);
        }
        case 'far':
          return internetPlaces(g, family, addressesFor(site, g.wiring, g.prospects, who));
        case 'door':
        case undefined:
          return [];
      }
    }
  }
}

/** Addresses wherever they are: on the segments that hold them, and on the internet. */
function amid(g: Model, set: IpSet, family: Family): Place[] {
  return [...onSegments(g, set, family), ...internetPlaces(g, family, set)];
}

/** Addresses on the segments that hold them and behind these. */
export function onSegments(g: Model, set: IpSet, family: Family): Place[] {
  const out: Place[] = [];
  const { ranges } = set;
  const [low, high] = [ranges[0]?.first, ranges.at(-1)?.last];
  if (low === undefined || high === undefined) return out;
  for (const { place, first, last } of everywhere(g, family)) {
    // Most places are seen to be elsewhere by their ends.
    if (first > high || last < low) continue;
    const addresses = set.intersect(place.addresses);
    if (!addresses.isEmpty) out.push({ ...place, addresses });
  }
  return out;
}

/** A place with the lowest and the highest of its addresses. */
interface Spread {
  readonly place: Place;
  readonly first: Ip;
  readonly last: Ip;
}

const segments = { 4: new WeakMap<Model, readonly Spread[]>(), 6: new WeakMap<Model, readonly Spread[]>() };

/** The places of all interfaces that are not off. */
const everywhere = (g: Model, family: Family): readonly Spread[] =>
  memo(segments[family], g, () =>
    g.site.interfaces
      .filter((i) => isUp(g, i))
      .flatMap((i) => placesAt(g, i, family))
      .map((place) => {
        const { ranges } = place.addresses;
        return { place, first: ranges[0]!.first, last: ranges.at(-1)!.last };
      }),
  );
