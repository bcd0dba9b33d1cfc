/** Questions about a site that several checks ask. */
import {
  compareIp,
  contains,
  formatIp,
  formatPrefix,
  hostRange,
  isIpv4,
  networkOf,
  prefixRange,
  rangeContains,
} from '#core/addr';
import type { Ip, Ipv4, Prefix } from '#core/addr';
import { memo } from '#core/base';
import { changeClauses } from '#core/edits';
import { written } from '#core/notation';
import type { AnswersClause, Plug, Span, Statement, StatementOf, Who } from '#core/notation';
import {
  addressesOf,
  circuitsOf,
  gatewayAddress,
  gatewayOf,
  interfaceAt,
  networksOf,
  primaryAddress,
} from '#core/site';
import type { Circuit, InsideRouter, Interface, RouterLeg, Site } from '#core/site';
import type { Context, Mend } from './finding';

/** Interfaces that are not off. */
export const live = (site: Site): readonly Interface[] =>
  memo(lives, site, () => site.interfaces.filter((i) => !i.off));
const lives = new WeakMap<Site, readonly Interface[]>();

/** Live interfaces that are no uplinks. */
export const inside = (site: Site): Interface[] => live(site).filter((i) => !i.uplink);

/** The address that a box has alone on an interface, and the one that it shares with its twin beside; undefined where it shares none. */
export function ownAndShared(iface: Interface): { own: Ipv4; shared: Ipv4 } | undefined {
  const home = primaryAddress(iface);
  if (!home || !isIpv4(home.address) || iface.shared?.other === undefined) return undefined;
  const own = home.address;
  const shared = gatewayAddress(iface, { address: own, length: home.length });
  return shared === own ? undefined : { own, shared };
}

/** Live uplinks. */
export const uplinks = (site: Site): readonly Interface[] =>
  memo(outward, site, () => live(site).filter((i) => i.uplink));
const outward = new WeakMap<Site, readonly Interface[]>();

/** Everything that has a cable, with where it is plugged in: a router once for each of its legs. */
export const cablesOf = (
  site: Site,
): (readonly [StatementOf<'circuit' | 'switch' | 'router' | 'station'>, Plug])[] => [
  ...[...site.circuits, ...site.switches, ...site.stations].flatMap((s) =>
    s.plug ? [[s, s.plug] as const] : [],
  ),
  ...site.routers.flatMap((s) => s.legs.map((l) => [s, l.value.plug] as const)),
];

/** A router inside by each leg that is on the segment of an interface, with its legs that the box does not meet. */
export function routersBefore(c: Context): {
  readonly router: InsideRouter;
  readonly leg: RouterLeg;
  readonly iface: Interface;
  readonly behind: readonly RouterLeg[];
}[] {
  return c.wiring.routers.flatMap((router) => {
    const behind = router.legs.filter((l) => !interfaceAt(c.site, l.landing));
    return router.legs.flatMap((leg) => {
      const iface = interfaceAt(c.site, leg.landing);
      return iface && !iface.uplink ? [{ router, leg, iface, behind }] : [];
    });
  });
}

/** The IPv4 networks of an interface, learned ones included. */
export const networks4 = (c: Context, iface: Interface): Prefix<Ipv4>[] =>
  networksOf(iface, c.prospects).filter((n): n is Prefix<Ipv4> => isIpv4(n.address));

/** Circuits stated (not supposed) on the segment of an interface. */
export const statedCircuits = (c: Context, iface: Interface): Circuit[] =>
  circuitsOf(c.wiring, iface).filter((x) => !x.supposed);

/** A written gateway of either family, with the one that a stated circuit has for it. */
export interface WrittenGateway {
  /** The clause that says it. */
  readonly clause: 'gateway' | 'gateway6';
  readonly address: Ip;
  readonly onlink: boolean;
  readonly at: Span;
  /** What the circuits say, in their order. */
  readonly circuits: readonly { readonly circuit: Circuit; readonly address: Ip }[];
}

/** The written gateways of an interface, IPv4 first. */
export function writtenGateways(c: Context, iface: Interface): WrittenGateway[] {
  const { gateway, gateway6 } = iface.statement;
  const circuits = statedCircuits(c, iface);
  const one = (
    clause: WrittenGateway['clause'],
    said: typeof gateway,
    of: (circuit: Circuit) => Ip | undefined,
  ): WrittenGateway[] =>
    said?.value.by === 'address'
      ? [
          {
            clause,
            address: said.value.address,
            onlink: said.value.onlink,
            at: said.at,
            circuits: circuits.flatMap((circuit) => {
              const address = of(circuit);
              return address === undefined ? [] : [{ circuit, address }];
            }),
          },
        ]
      : [];
  return [
    ...one('gateway', gateway, (x) => x.gateway),
    ...one('gateway6', gateway6, (x) => (x.block6 ? x.gateway6 : undefined)),
  ];
}

/** The mend that writes another gateway. */
export const useGateway = (
  site: Site,
  iface: Interface,
  clause: WrittenGateway['clause'],
  address: Ip,
  circuit?: Circuit,
): Mend => ({
  what: 'use-gateway',
  values: { address: formatIp(address), circuit: circuit?.name ?? '' },
  changes: changeClauses(site, iface.statement, [
    { do: 'set', name: clause, text: `${clause} ${formatIp(address)}` },
  ]),
});

const LOGIN = new Set<string>(['ssh', 'https', 'http']);

/** Whether an interface would let an administrator in, by another clause than the one left out. */
export const letsIn = (iface: Interface, without?: AnswersClause): boolean =>
  // An address that lacks its length is told as that; it is meant to be there.
  (!!iface.statement.address ||
    iface.speaks6 ||
    written(iface.statement).clauses.some((x) => x.name === 'address')) &&
  iface.answers.some((a) => a !== without && a.services.some((s) => LOGIN.has(s.name)));

/** Inside interfaces with an address, none of a dmz, those that an administrator would sit behind first. */
export const trusted = (site: Site): Interface[] =>
  inside(site)
    .filter((i) => i.addresses.length && !i.zone?.dmz)
    .sort(
      (a, b) =>
        Number(b.zone?.management ?? false) - Number(a.zone?.management ?? false) ||
        (b.zone?.trust ?? -1) - (a.zone?.trust ?? -1),
    );

/** What the statement of the box is, or the first statement, for findings about the box as a whole. */
export const boxPlace = (site: Site): Statement | undefined => site.box ?? site.statements[0];

/** `box/NAME`, or plain `box` where no statement names it. */
export const boxSubject = (site: Site): string => (site.box ? `box/${site.box.name}` : 'box');

/** The two ends of what two networks share, for a sentence. */
export function sharedRange(a: Prefix, b: Prefix): string {
  const small = a.length >= b.length ? networkOf(a) : networkOf(b);
  return formatPrefix(small);
}

/** The own address of an interface in the network that holds an address. */
export const ownFor = (iface: Interface, address: Ip): Prefix | undefined =>
  iface.addresses.find((a) => contains(a.prefix, address))?.prefix;

/** A network and the interface that is in it. */
export interface Home {
  readonly iface: Interface;
  readonly net: Prefix;
}

/**
 * Pairs of networks of different interfaces that share addresses, the interfaces in file order. The networks are
 * sorted and swept once, so that hundreds of interfaces cost no more than their number.
 */
export function overlappingHomes(c: Context): [Home, Home][] {
  const order = new Map(live(c.site).map((iface, i) => [iface, i]));
  const homes = [...order.keys()].flatMap((iface) =>
    networksOf(iface, c.prospects).map((net) => ({ iface, net, range: prefixRange(net) })),
  );
  homes.sort((a, b) => compareIp(a.range.first, b.range.first) || a.net.length - b.net.length);
  const out: [Home, Home][] = [];
  let open: typeof homes = [];
  for (const home of homes) {
    open = open.filter((o) => rangeContains(o.range, home.range.first));
    for (const o of open)
      if (o.iface !== home.iface)
        out.push(order.get(o.iface)! < order.get(home.iface)! ? [o, home] : [home, o]);
    open.push(home);
  }
  const place = ([a, b]: [Home, Home]) => order.get(a.iface)! * order.size + order.get(b.iface)!;
  return out.sort((a, b) => place(a) - place(b));
}

/** A list of names or values as a phrase: `a, b and c`. */
export const phrase = (items: readonly string[]): string =>
  items.length < 2 ? (items[0] ?? '') : `${items.slice(0, -1).join(', ')} and ${items[items.length - 1]}`;

/** Addresses as a phrase. */
export const addressPhrase = (items: readonly Ip[]): string => phrase(items.map(formatIp));

/** Pairs of a list, each once, in order. */
export function* pairs<T>(items: readonly T[]): Generator<readonly [T, T]> {
  for (let i = 0; i < items.length; i++)
    for (let j = i + 1; j < items.length; j++) yield [items[i]!, items[j]!] as const;
}

/** Whether an uplink owns an address: its addresses, the hosts of its subnet but the gateway, its block, and what a circuit routes to it. */
export function owns(c: Context, iface: Interface, address: Ip): boolean {
  if (addressesOf(iface, c.prospects).some((a) => a.address === address)) return true;
  if (gatewayOf(iface, c.prospects) === address) return false;
  const { block } = iface.statement;
  return (
    networks4(c, iface).some((n) => rangeContains(hostRange(n), address)) ||
    (!!block && contains(block.value.prefix, address)) ||
    circuitsOf(c.wiring, iface).some((x) => x.routes.some((r) => contains(r.prefix, address)))
  );
}

/** Who is spoken of in `from` and `to`: each with the statement that does. */
export const spokenOf = (site: Site): readonly (readonly [Statement, Who])[] =>
  [
    ...site.passages.map((s) => [s, [...s.sources, ...s.destinations]] as const),
    ...site.doors.map((s) => [s, s.sources] as const),
    ...site.interfaces.map((i) => [i.statement, i.answers.flatMap((a) => a.from ?? [])] as const),
  ].flatMap(([statement, whos]) => whos.map((who) => [statement, who] as const));
