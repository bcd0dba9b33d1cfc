/** What the parts of a generation are made from: the model without what only life knows, and its names and numbers. */
import { isIpv4 } from '#core/addr';
import type { Family, Ip, Prefix } from '#core/addr';
import { memo } from '#core/base';
import { unlearned } from '#core/model';
import type { Model } from '#core/model';
import { proxiedBy } from '#core/semantics';
import type { Route } from '#core/semantics';
import { coveredBy } from '#core/site';
import type { Interface } from '#core/site';
import { deviceOf, numbersOf } from './numbers';
import type { Numbers } from './numbers';

export interface Told extends Model {
  /** Interfaces that are not off, in file order. */
  readonly live: readonly Interface[];
  readonly numbers: Numbers;
  /** Whether anything of it speaks IPv6; otherwise none of it comes in or passes. */
  readonly six: boolean;
  readonly dev: (iface: Interface) => string;
  /** Written addresses of one family, or of both; the primary IPv4 address first. */
  readonly addresses: (iface: Interface, family?: Family) => readonly Prefix[];
  /** Addresses that it answers for and that are nobody's own. */
  readonly proxied: (iface: Interface) => readonly Ip[];
  /** Whether it learns its primary IPv4 address. */
  readonly learns4: (iface: Interface) => boolean;
  /** Whether it learns IPv6 addresses, or makes them from what another learns. */
  readonly learns6: (iface: Interface) => boolean;
}

/** A model as a box is told it. */
export function toldBy(model: Model): Told {
  const bare = unlearned(model);
  const { site } = bare;
  const live = site.interfaces.filter((i) => !i.off && (i.ports.length > 0 || i.carrier === 'loopback'));
  const written = new Map<Interface, readonly Prefix[]>();
  const all = (i: Interface) => memo(written, i, () => bare.states.get(i.name)?.addresses ?? []);
  const own = new Set<Ip>(live.flatMap((i) => all(i).map((a) => a.address)));
  return {
    ...bare,
    routes: bare.routes,
    rules: bare.rules,
    live,
    numbers: numbersOf(site),
    six: live.some((i) => i.speaks6),
    dev: (i) => deviceOf(site, i),
    addresses: (i, family) =>
      family === undefined ? all(i) : all(i).filter((a) => isIpv4(a.address) === (family === 4)),
    proxied: (i) => [...proxiedBy(site, i)].filter((a) => !own.has(a)),
    learns4: (i) => i.dynamic !== undefined,
    learns6: (i) => i.auto6.slaac || i.auto6.dhcpv6 || i.auto6.from.length > 0,
  };
}

/** What is answered for on an interface and is nobody's own, doors and addresses that others leave as: each by itself. */
export const answeredFor = (told: Told, i: Interface): readonly Prefix[] =>
  told.proxied(i).map((address) => ({ address, length: isIpv4(address) ? 32 : 128 }));

/** Whether all ports of an interface are off: then no route leads by it. */
export const isDark = ({ site }: Told, i: Interface): boolean =>
  i.ports.length > 0 && i.ports.every((p) => site.ports.get(p)?.off);

/** Whether a route of the model is told: one that drops, or by an interface that is there. */
export const isTold = (told: Told, r: Route): boolean =>
  r.interface === undefined || told.live.some((i) => i.name === r.interface && !isDark(told, i));

/** Whether an interface is on demand, and waits for others: whoever keeps the uplinks calls it. */
export const isOnCall = ({ site }: Told, i: Interface): boolean => coveredBy(site, i).length > 0;
