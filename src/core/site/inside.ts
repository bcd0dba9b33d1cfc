/**
 * What routers inside do with a packet, foreseen from the wiring: the longest prefix of their own networks, their routes
 * and their gateway (RFC 1812 §5.2.4). They translate nothing and forbid nothing.
 */
import { IpSet, contains, networkOf } from '#core/addr';
import type { Ipv4, Prefix } from '#core/addr';
import { memo } from '#core/base';
import { interfaceAt, landed } from './segments';
import type { Interface, Site } from './types';
import type { InsideRouter, RouterLeg, Station, Wiring } from './wiring';

/** Where a router hands a packet on: to whoever has the address on the network of a leg, or to a next hop there. */
export interface InsideWay {
  readonly prefix: Prefix<Ipv4>;
  readonly leg: RouterLeg;
  readonly via?: Ipv4;
}

/** A router by the side that it has on a segment. */
export interface OnSegment {
  readonly router: InsideRouter;
  readonly leg: RouterLeg;
}

/** The ways of a router, the longest prefix first. A next hop that is in none of its networks makes no way. */
export function waysInside(router: InsideRouter): readonly InsideWay[] {
  return memo(ways, router, () => {
    const { legs, routes, gateway } = router;
    const own = legs.map((leg): InsideWay => ({ prefix: networkOf(leg.address), leg }));
    const through = (prefix: Prefix<Ipv4>, via: Ipv4): InsideWay[] => {
      const leg = legs.find((l) => contains(l.address, via));
      return leg ? [{ prefix, leg, via }] : [];
    };
    return [
      ...own,
      ...routes.flatMap((r) => through(r.prefix, r.via)),
      ...(gateway === undefined ? [] : through(EVERYWHERE, gateway)),
    ].sort((a, b) => b.prefix.length - a.prefix.length);
  });
}
const ways = new WeakMap<InsideRouter, readonly InsideWay[]>();
const EVERYWHERE: Prefix<Ipv4> = { address: 0 as Ipv4, length: 0 };

/** The way that a router takes to an address; undefined where it knows none. */
export const wayInside = (router: InsideRouter, to: Ipv4): InsideWay | undefined =>
  waysInside(router).find((w) => contains(w.prefix, to));

/** The routers that have a side on a segment, in file order. */
export function routersOn(wiring: Wiring, segment: string | undefined): readonly OnSegment[] {
  if (segment === undefined) return [];
  return (
    memo(bySegment, wiring, () => {
      const out = new Map<string, OnSegment[]>();
      for (const router of wiring.routers)
        for (const leg of router.legs)
          if (leg.segment !== undefined) memo(out, leg.segment, (): OnSegment[] => []).push({ router, leg });
      return out;
    }).get(segment) ?? []
  );
}
const bySegment = new WeakMap<Wiring, ReadonlyMap<string, readonly OnSegment[]>>();

/** The router that has an address on a segment. */
export const routerAt = (
  wiring: Wiring,
  segment: string | undefined,
  address: Ipv4,
): InsideRouter | undefined =>
  routersOn(wiring, segment).find(({ leg }) => leg.address.address === address)?.router;

/** The segment on which a router, and those behind it, hand a packet to its target; undefined where it does not get so far. */
export function handedOn(wiring: Wiring, router: InsideRouter, to: Ipv4): string | undefined {
  const seen = new Set<InsideRouter>();
  for (let at: InsideRouter | undefined = router; at && !seen.has(at);) {
    seen.add(at);
    const way: InsideWay | undefined = wayInside(at, to);
    if (!way) return undefined;
    if (way.via === undefined) return way.leg.segment;
    at = routerAt(wiring, way.leg.segment, way.via);
  }
  return undefined;
}

/** The leg by whose network the box hears of what is behind a router: towards its gateway, else the first that gets there. */
export function legToBox(wiring: Wiring, router: InsideRouter): RouterLeg | undefined {
  const seen = new Set<InsideRouter>();
  for (let at: InsideRouter | undefined = router; at && !seen.has(at);) {
    seen.add(at);
    const { legs, gateway }: InsideRouter = at;
    const out: RouterLeg | undefined =
      gateway === undefined ? undefined : legs.find((l) => contains(l.address, gateway));
    if (out && landed(out.landing)) return out;
    const next: InsideRouter | undefined =
      out && gateway !== undefined ? routerAt(wiring, out.segment, gateway) : undefined;
    if (!next) return legs.find((l) => landed(l.landing));
    at = next;
  }
  return undefined;
}

/** The destinations that a router, with those that it hands on to, sends to an address of the box. */
export function sentToBox(
  wiring: Wiring,
  router: InsideRouter,
  segment: string,
  claims: IpSet,
  seen: ReadonlySet<InsideRouter> = new Set(),
): IpSet {
  if (seen.has(router)) return IpSet.empty;
  const path = new Set([...seen, router]);
  let left = EVERYBODY.minus(IpSet.ofAddresses(router.legs.map((l) => l.address.address)));
  let out = IpSet.empty;
  for (const { prefix, leg, via } of waysInside(router)) {
    const part = IpSet.ofPrefixes([prefix]).intersect(left);
    left = left.minus(part);
    if (via === undefined) {
      if (leg.segment === segment) out = out.union(part.intersect(claims));
    } else if (leg.segment === segment && claims.has(via)) out = out.union(part);
    else {
      const next = routerAt(wiring, leg.segment, via);
      if (next) out = out.union(part.intersect(sentToBox(wiring, next, segment, claims, path)));
    }
  }
  return out;
}
const EVERYBODY = IpSet.ofPrefixes([EVERYWHERE]);

/** The interface by whose segment the box meets a station that sits behind routers; undefined for all others. */
export const boxSideOf = (site: Site, wiring: Wiring, station: Station): Interface | undefined =>
  memo(sides, wiring, () => {
    const out = new Map<string, Interface>();
    for (const s of wiring.stations) {
      if (landed(s.landing) || s.off) continue;
      const here = routersOn(wiring, s.landing.segment);
      const own = here.find(({ leg }) => leg.address.address === s.gateway) ?? here[0];
      const leg = own && legToBox(wiring, own.router);
      const iface = leg && interfaceAt(site, leg.landing);
      if (iface) out.set(s.name, iface);
    }
    return out;
  }).get(station.name);
const sides = new WeakMap<Wiring, ReadonlyMap<string, Interface>>();

/** The interface that a station speaks to the box by: of its own segment, or of that before the routers it sits behind. */
export const interfaceFor = (site: Site, wiring: Wiring, station: Station): Interface | undefined =>
  interfaceAt(site, station.landing) ?? boxSideOf(site, wiring, station);

/** The stations that sit behind routers which an interface is before, in file order. */
export const stationsBehind = (site: Site, wiring: Wiring, iface: Interface): readonly Station[] =>
  wiring.routers.length ? wiring.stations.filter((s) => boxSideOf(site, wiring, s) === iface) : NOBODY;
const NOBODY: readonly Station[] = [];
