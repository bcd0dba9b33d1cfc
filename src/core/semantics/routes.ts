/** Routing tables from a site and the state of its interfaces, and the lookup that every packet takes. */
import { broadcastOf, contains, familyOf, isIpv4, isLinkLocal, mustPrefix, networkOf } from '#core/addr';
import type { Family, Ip, Prefix } from '#core/addr';
import type { Statement } from '#core/notation';
import { addressesOf, gateway6Of, gatewayOf, interfaceNamed, isLit } from '#core/site';
import type { Interface, Prospects, Site } from '#core/site';

/** What counts of an interface at one moment. */
export interface InterfaceState {
  /** Not off, its port on and with carrier. */
  readonly up: boolean;
  /** An uplink that counts as working; true for other interfaces. */
  readonly alive: boolean;
  /** Addresses with their lengths, the primary IPv4 address first; learned ones included. */
  readonly addresses: readonly Prefix[];
  /** The next hop of its IPv4 default route, written or learned. */
  readonly gateway?: Ip;
  /** The same for IPv6. */
  readonly gateway6?: Ip;
}

/** The state of interfaces by their name. */
export type States = ReadonlyMap<string, InterfaceState>;

/** Whether an interface carries what leaves by it: it is up, and no watch holds it for dead. */
export const isLive = (state: InterfaceState | undefined): boolean => !!state?.up && state.alive;

export interface Route {
  readonly table: string;
  readonly prefix: Prefix;
  /** Absent: the destination itself is the next hop. */
  readonly via?: Ip;
  /** Absent for a route that drops. */
  readonly interface?: string;
  readonly origin: 'connected' | 'static' | 'learned';
  /** Static routes 1–255; connected ones 0. */
  readonly distance: number;
  /** The uplink's priority, for default routes; 0 else. */
  readonly priority: number;
  /** Whether its interface is up and its uplink alive. */
  readonly usable: boolean;
  readonly statement?: Statement;
}

const DEFAULTS = { 4: mustPrefix('0.0.0.0/0'), 6: mustPrefix('::/0') } as const;

/**
 * The state in which every interface that can work does, with what is foreseen to be learned; uplinks on demand rest.
 * One that is off is not there: it holds no address, and no route leads by it.
 */
export function foreseenStates(site: Site, prospects: Prospects): States {
  return new Map(
    site.interfaces
      .filter((i) => !i.off)
      .map((iface) => [
        iface.name,
        {
          up: isLit(site, iface) && !prospects.resting.has(iface.name),
          alive: !prospects.resting.has(iface.name),
          addresses: addressesOf(iface, prospects),
          gateway: gatewayOf(iface, prospects),
          gateway6: gateway6Of(iface, prospects),
        },
      ]),
  );
}

/** Every route of every table, in the order: connected, default, static, each in file order. */
export function routesOf(site: Site, states: States): Route[] {
  const out: Route[] = [];
  for (const iface of site.interfaces) {
    const state = states.get(iface.name);
    if (!state) continue;
    const seen = new Set<string>();
    for (const address of state.addresses) {
      const prefix = networkOf(address);
      const key = `${prefix.address}/${prefix.length}`;
      if (seen.has(key)) continue;
      seen.add(key);
      out.push({
        table: iface.table,
        prefix,
        interface: iface.name,
        origin: 'connected',
        distance: 0,
        priority: 0,
        usable: state.up,
        statement: iface.statement,
      });
    }
  }
  for (const iface of site.interfaces) {
    const state = states.get(iface.name);
    if (!state || iface.off) continue;
    for (const [family, via, said] of [
      [4, state.gateway, iface.gateway],
      [6, state.gateway6, iface.gateway6],
    ] as const)
      if (via !== undefined && (said.by !== 'address' || said.onlink || isNextHop(iface, state, via)))
        out.push(defaultRoute(iface, state, family, via));
  }
  for (const table of site.tables)
    for (const route of table.routes) {
      const named = route.interface?.name;
      const via = route.via?.value;
      const found =
        named ??
        (via === undefined
          ? undefined
          : site.interfaces.find(
              (i) => i.table === table.name && states.get(i.name)?.addresses.some((a) => contains(a, via)),
            )?.name);
      if (found === undefined && !route.drop) continue;
      const state = found === undefined ? undefined : states.get(found);
      const on = interfaceNamed(site, found);
      if (via !== undefined && on && state && !isNextHop(on, state, via)) continue;
      out.push({
        table: table.name,
        prefix: route.prefix,
        via,
        interface: found,
        origin: 'static',
        distance: route.distance,
        priority: 0,
        usable: route.drop || isLive(state),
        statement: table,
      });
    }
  return out;
}

/**
 * Whether a written next hop makes a route by an interface: on one of its subnets and neither its own address nor one
 * that no host there has, as a kernel asks of a route that is not `onlink`. A session takes whatever it is given.
 */
export function isNextHop(iface: Interface, state: InterfaceState, via: Ip): boolean {
  if (iface.carrier === 'pppoe') return true;
  if (state.addresses.some((a) => a.address === via)) return false;
  if (!isIpv4(via) && isLinkLocal(via)) return true;
  return state.addresses.some(
    (a) =>
      contains(a, via) &&
      (!isIpv4(a.address) || a.length >= 31 || (via !== networkOf(a).address && via !== broadcastOf(a))),
  );
}

const defaultRoute = (iface: Interface, state: InterfaceState, family: Family, via: Ip): Route => ({
  table: iface.table,
  prefix: DEFAULTS[family],
  via,
  interface: iface.name,
  origin: (family === 4 ? iface.gateway : iface.gateway6).by === 'learned' ? 'learned' : 'static',
  distance: 1,
  priority: iface.priority,
  usable: isLive(state),
  statement: iface.statement,
});

/** Whether route `a` is taken before `b`, both matching: longer prefix, then distance, then priority, then order. */
function better(a: Route, b: Route): boolean {
  if (a.prefix.length !== b.prefix.length) return a.prefix.length > b.prefix.length;
  if (a.distance !== b.distance) return a.distance < b.distance;
  return a.priority < b.priority;
}

/** The usable route for a destination, or undefined where none leads there. */
export function lookUp(routes: readonly Route[], table: string, destination: Ip): Route | undefined {
  let best: Route | undefined;
  for (const route of routes)
    if (
      route.table === table &&
      route.usable &&
      contains(route.prefix, destination) &&
      (!best || better(route, best))
    )
      best = route;
  return best;
}

/** The usable routes of a table and family, those first that are taken before others. */
export const inOrder = (routes: readonly Route[], table: string, family: Family): Route[] =>
  routes
    .map((route, i) => ({ route, i }))
    .filter(({ route: r }) => r.table === table && r.usable && familyOf(r.prefix.address) === family)
    .sort((a, b) => (better(a.route, b.route) ? -1 : better(b.route, a.route) ? 1 : a.i - b.i))
    .map(({ route }) => route);

/** Whether some route leads to the address; with `by`, only routes by that interface count, stand-by ones included. */
export function leadsTo(routes: readonly Route[], table: string, address: Ip, by?: string): boolean {
  return routes.some(
    (r) =>
      r.table === table &&
      r.interface !== undefined &&
      (by === undefined ? r.usable : r.interface === by) &&
      contains(r.prefix, address),
  );
}

/** The next hop of a route for a destination. */
export const nextHop = (route: Route, destination: Ip): Ip => route.via ?? destination;
