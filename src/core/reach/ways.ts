/** By which route each address is reached from a table, as sets: what the longest prefix leaves to the next. */
import { IpSet, UNROUTED, compareIp, familyOf } from '#core/addr';
import type { Family, Ip } from '#core/addr';
import { extend, memo } from '#core/base';
import type { Model } from '#core/model';
import { inOrder } from '#core/semantics';
import type { Route } from '#core/semantics';
import type { Interface } from '#core/site';
import { ALL } from './block';

/** Addresses that are never routed, whatever a table says. */
export const NOWHERE = { 4: IpSet.ofPrefixes(UNROUTED[4]), 6: IpSet.ofPrefixes(UNROUTED[6]) } as const;

/** Destinations by the route that is taken to them. */
export interface Span {
  readonly route?: Route;
  readonly destinations: IpSet;
}

export interface Way extends Span {
  /** What of it is not the box's and can be routed. */
  readonly open: IpSet;
}

const NO_WAYS: readonly Way[] = [];

/** The ways of one moment of a box. Each is worked out once, by table, family and interface. */
export class Ways {
  /** The box's own addresses, by table. */
  readonly own = new Map<string, IpSet>();
  /** Those that are not off, by name. */
  readonly interfaces = new Map<string, Interface>();
  private readonly routes: readonly Route[];
  private readonly byTable = { 4: new Map<string, readonly Way[]>(), 6: new Map<string, readonly Way[]>() };
  private readonly byInterface = {
    4: new Map<string, ReadonlyMap<string, readonly Way[]>>(),
    6: new Map<string, ReadonlyMap<string, readonly Way[]>>(),
  };
  private readonly sorted = {
    4: new Map<string, readonly { readonly first: Ip; readonly way: Way }[]>(),
    6: new Map<string, readonly { readonly first: Ip; readonly way: Way }[]>(),
  };
  private readonly spans = { 4: new Map<string, readonly Span[]>(), 6: new Map<string, readonly Span[]>() };

  constructor({ site, states, routes }: Pick<Model, 'site' | 'states' | 'routes'>) {
    this.routes = routes;
    const own = new Map<string, Ip[]>();
    for (const iface of site.interfaces) {
      if (iface.off) continue;
      this.interfaces.set(iface.name, iface);
      const list = own.get(iface.table) ?? [];
      own.set(iface.table, list);
      extend(list, states.get(iface.name)?.addresses.map((a) => a.address) ?? []);
    }
    for (const [table, list] of own) this.own.set(table, IpSet.ofAddresses(list));
  }

  /** The box's own addresses of a table. */
  ownOf(table: string, family: Family): IpSet {
    return (this.own.get(table) ?? IpSet.empty).only(family);
  }

  /** The interface that a route leads out by; undefined where it leads nowhere, or by one that is off. */
  departureOf(route: Route | undefined): Interface | undefined {
    return route?.interface === undefined ? undefined : this.interfaces.get(route.interface);
  }

  /** The way that one address is reached from a table. */
  wayOf(table: string, address: Ip): Way {
    const all = this.partsOf(table, familyOf(address));
    let [low, high] = [0, all.length - 1];
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (compareIp(all[middle]!.first, address) > 0) high = middle - 1;
      else low = middle;
    }
    return all[low]!.way;
  }

  /** The ways of a table by the addresses they begin at. Together they hold every address once. */
  private partsOf(table: string, family: Family): readonly { readonly first: Ip; readonly way: Way }[] {
    return memo(this.sorted[family], table, () =>
      this.waysOf(table, family)
        .flatMap((way) => way.destinations.ranges.map(({ first }) => ({ first, way })))
        .sort((a, b) => compareIp(a.first, b.first)),
    );
  }

  /** Every address of a family, by the route that is taken to it. */
  waysOf(table: string, family: Family): readonly Way[] {
    const known = this.byTable[family].get(table);
    if (known) return known;
    let left = ALL[family];
    const out: Way[] = [];
    for (const route of inOrder(this.routes, table, family)) {
      const prefix = IpSet.ofPrefixes([route.prefix]);
      const destinations = prefix.intersect(left);
      if (destinations.isEmpty) continue;
      out.push(this.wayBy(route, destinations, table, family));
      left = left.minus(prefix);
    }
    if (!left.isEmpty) out.push(this.wayBy(undefined, left, table, family));
    this.byTable[family].set(table, out);
    return out;
  }

  private wayBy(route: Route | undefined, all: IpSet, table: string, family: Family): Way {
    const open = all.minus(this.ownOf(table, family)).minus(NOWHERE[family]);
    return { route, destinations: all, open };
  }

  /** The ways from a table by one interface. */
  waysTo(table: string, name: string, family: Family): readonly Way[] {
    return this.waysBySide(table, family).get(name) ?? NO_WAYS;
  }

  /** The ways from a table, by the interface that they lead out by. */
  waysBySide(table: string, family: Family): ReadonlyMap<string, readonly Way[]> {
    return memo(this.byInterface[family], table, () => {
      const sorted = new Map<string, Way[]>();
      for (const way of this.waysOf(table, family)) {
        const by = way.route?.interface;
        if (by !== undefined) memo(sorted, by, () => []).push(way);
      }
      return sorted;
    });
  }

  /** The destinations that routes by one interface lead to, the longest prefix first, whatever their table. */
  waysBy(name: string, family: Family): readonly Span[] {
    const known = this.spans[family].get(name);
    if (known) return known;
    let left = ALL[family];
    const out: Span[] = [];
    const own = this.routes.filter((r) => r.interface === name && familyOf(r.prefix.address) === family);
    for (const route of [...own].sort((a, b) => b.prefix.length - a.prefix.length)) {
      const prefix = IpSet.ofPrefixes([route.prefix]);
      const destinations = prefix.intersect(left);
      if (!destinations.isEmpty) out.push({ route, destinations });
      left = left.minus(prefix);
    }
    this.spans[family].set(name, out);
    return out;
  }

  /** The addresses that some routes lead to. */
  leadingTo(family: Family, which: (r: Route) => boolean): IpSet {
    return IpSet.ofPrefixes(
      this.routes.filter((r) => r.interface !== undefined && which(r)).map((r) => r.prefix),
    ).only(family);
  }
}
