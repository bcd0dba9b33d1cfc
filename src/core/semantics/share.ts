/**
 * Uplinks that share new flows: which of them a source takes follows from its address alone, so that all its flows leave
 * alike and everybody can tell beforehand. IPv4 only: an IPv6 source is of one provider's network, and belongs to it.
 */
import { IpSet, contains, isIpv4 } from '#core/addr';
import type { Ip, Ipv4 } from '#core/addr';
import type { Interface, Prospects, Site } from '#core/site';
import { behindInterface } from './behind';
import { isLive, lookUp } from './routes';
import type { Route, States } from './routes';

/** An uplink with its part: of 16 to one another. */
export interface Sharer {
  readonly name: string;
  readonly weight: number;
}

/** The uplinks of one table and priority that share, and whom they share out. */
export interface ShareRule {
  readonly table: string;
  readonly uplinks: readonly Sharer[];
  /** The sources behind each inside interface; what comes from elsewhere takes the usual order. */
  readonly from: ReadonlyMap<string, IpSet>;
}

/** The sharings of a site: two uplinks with `share` at least, in one table and of one priority. */
export function sharesOf(site: Site, prospects: Prospects): ShareRule[] {
  const groups = new Map<string, Interface[]>();
  for (const i of site.interfaces) {
    if (!isSharer(i)) continue;
    const key = `${i.priority} ${i.table}`;
    groups.set(key, [...(groups.get(key) ?? []), i]);
  }
  return [...groups.values()]
    .filter((all) => all.length > 1)
    .map((all) => ({
      table: all[0]!.table,
      uplinks: all.map(({ name, share }) => ({ name, weight: share! })),
      from: new Map(
        site.interfaces
          .filter((i) => !i.off && !i.uplink)
          .map((i) => [i.name, behindInterface(site, prospects, i).only(4)]),
      ),
    }));
}

/** Whether an interface takes a share of what leaves by its table. */
export const isSharer = (i: Interface): boolean =>
  i.share !== undefined && i.uplink && !i.onDemand && i.gateway.by !== 'none';

/** Whether two uplinks take their shares of the same; one that shares does so with itself. */
export const shareTogether = (a: Interface, b: Interface): boolean =>
  isSharer(a) && isSharer(b) && a.table === b.table && a.priority === b.priority;

/** The part that an uplink takes of all that its like share; undefined where it shares with nobody. */
export function portionOf(
  site: Site,
  iface: Interface,
): { readonly weight: number; readonly of: number } | undefined {
  const like = site.interfaces.filter((i) => shareTogether(i, iface));
  return like.length > 1
    ? { weight: iface.share!, of: like.reduce((sum, i) => sum + i.share!, 0) }
    : undefined;
}

/** As many buckets as an octet has values. */
export const BUCKETS = 256;

/** Networks of more addresses than these are parted by the third octet, not the last. */
const WIDE = 65_536;

/** Whether a stretch of addresses is parted by the third octet, which 256 neighbours share. */
export const isWide = ({ first, last }: { readonly first: Ip; readonly last: Ip }): boolean =>
  Number(last) - Number(first) >= WIDE;

/** The bucket of an octet: its bits from the lowest up, so that neighbours are far apart. */
export function bucketOf(octet: number): number {
  let out = 0;
  for (let i = 0; i < 8; i++) out |= ((octet >> i) & 1) << (7 - i);
  return out;
}

/**
 * The uplinks that a bucket takes, the first that lives before the others. A bucket lies in the stretch of one uplink,
 * each as long as its weight; where that one is dead its stretch is parted among the others in the same way, so that
 * nobody who is on a live one moves.
 */
export function preferenceOf(bucket: number, uplinks: readonly Sharer[]): string[] {
  const left = [...uplinks];
  const out: string[] = [];
  let at = bucket;
  while (left.length) {
    const total = left.reduce((sum, u) => sum + u.weight, 0);
    let begin = 0;
    let i = 0;
    while (at * total >= BUCKETS * (begin + left[i]!.weight)) begin += left[i++]!.weight;
    const [chosen] = left.splice(i, 1);
    out.push(chosen!.name);
    at = Math.floor((at * total - BUCKETS * begin) / chosen!.weight);
  }
  return out;
}

/** What a new flow from a source takes where the usual route is a default route by an uplink that shares. */
export function sharedRoute(
  { shares }: { readonly shares: readonly ShareRule[] },
  { routes, states }: { readonly routes: readonly Route[]; readonly states: States },
  arrival: string,
  { source, destination }: { readonly source: Ip; readonly destination: Ip },
  usual: Route | undefined,
): Route | undefined {
  if (!isIpv4(source)) return usual;
  const rule = shareBy(shares, usual);
  const near = rule?.from.get(arrival)?.ranges.find((r) => r.first <= source && source <= r.last);
  if (!rule || !near) return usual;
  for (const name of preferenceOf(bucketOf(octetOf(source, isWide(near))), rule.uplinks)) {
    const route = wayBy(routes, states, name, destination);
    if (route) return route;
  }
  return usual;
}

/** The sharing that a route takes part in: a default route by one of its uplinks, in its table. */
export function shareBy(shares: readonly ShareRule[], route: Route | undefined): ShareRule | undefined {
  if (route?.prefix.length !== 0) return undefined;
  return shares.find((s) => s.table === route.table && s.uplinks.some((u) => u.name === route.interface));
}

const octetOf = (address: Ipv4, wide: boolean): number => (wide ? address >>> 8 : address) & 255;

/** The route by one interface that lives to a destination, whichever table it stands in. */
export function wayBy(
  routes: readonly Route[],
  states: States,
  name: string,
  destination: Ip,
): Route | undefined {
  if (!isLive(states.get(name))) return undefined;
  let best: Route | undefined;
  for (const route of routes)
    if (
      route.interface === name &&
      contains(route.prefix, destination) &&
      (!best || route.prefix.length > best.prefix.length)
    )
      best = route;
  return best;
}

/** The route of a flow that no statement of sending speaks of. */
export const usualRoute = (
  rules: { readonly shares: readonly ShareRule[] },
  moment: { readonly routes: readonly Route[]; readonly states: States },
  arrival: { readonly name: string; readonly table: string },
  flow: { readonly source: Ip; readonly destination: Ip },
): Route | undefined =>
  sharedRoute(rules, moment, arrival.name, flow, lookUp(moment.routes, arrival.table, flow.destination));
