/** Values that a clause could well have here: offered while somebody types, never written by themselves. */
import { contains, formatIp, formatPrefix, hostRange, isIpv4, offsetIp } from '#core/addr';
import type { Ip, Ipv4, Prefix } from '#core/addr';
import type { Statement } from '#core/notation';
import {
  circuitsOf,
  interfaceAt,
  interfaceNamed,
  lowestFree,
  networksOf,
  primaryAddress,
  staticNetworks,
} from '#core/site';
import type { Interface, Wiring } from '#core/site';
import type { Model } from './model';
import { firstHost, nextFreeSubnet } from './suggest';

/** Most values that are offered at once. */
const MOST = 6;

/** Texts that could stand behind a clause's name in a statement, likeliest first. */
export function plausibleValues(model: Model, statement: Statement, clause: string): string[] {
  const values =
    statement.kind === 'interface'
      ? forInterface(model, interfaceNamed(model.site, statement.name), clause)
      : statement.kind === 'station'
        ? forStation(model, statement.name, clause)
        : statement.kind === 'box' && clause === 'names'
          ? resolvers(model.wiring)
          : [];
  return [...new Set(values)].slice(0, MOST);
}

const resolvers = (wiring: Wiring): string[] =>
  [
    ...wiring.circuits.flatMap((c) => c.names),
    ...wiring.fars.filter((f) => f.resolves).flatMap((f) => f.addresses),
  ].map(formatIp);

function forInterface(model: Model, iface: Interface | undefined, clause: string): string[] {
  if (!iface) return [];
  const { site, wiring } = model;
  const circuits = circuitsOf(wiring, iface).filter((c) => !c.supposed);
  const primary = primaryAddress(iface) as Prefix<Ipv4> | undefined;
  const taken = takenBy(model);
  switch (clause) {
    case 'address':
      return [
        ...circuits.flatMap((c) => {
          const block = c.lends ? undefined : c.prefix;
          const free = block && lowestFree(block, (a) => a === c.gateway || taken.has(a));
          return free === undefined ? [] : [`${formatIp(free)}/${block!.length}`];
        }),
        ...(circuits.some((c) => c.lends) ? ['by dhcp'] : []),
        ...(circuits.some((c) => c.session) ? ['by pppoe'] : []),
        ...firstOf(iface.uplink ? undefined : nextFreeSubnet(model)),
      ];
    case 'gateway':
      return circuits.flatMap((c) => (c.gateway === undefined ? [] : [formatIp(c.gateway)]));
    case 'gateway6':
      return circuits.flatMap((c) => (c.gateway6 === undefined ? [] : [formatIp(c.gateway6)]));
    case 'also': {
      const free = primary && lowestFree(primary, (a) => taken.has(a));
      return [
        ...(free === undefined ? [] : [formatIp(free)]),
        ...firstOf(iface.uplink ? undefined : nextFreeSubnet(model)),
      ];
    }
    case 'lends': {
      // A network that has a pool already needs none; a second subnet's is spelt out.
      const pooled = (net: Prefix) => iface.pools.some((p) => p.ranges.some((r) => contains(net, r.first)));
      return staticNetworks(iface)
        .filter((n): n is Prefix<Ipv4> => isIpv4(n.address) && n.length <= 29 && !pooled(n))
        .map((net) => {
          const { first, last } = hostRange(net);
          const from = offsetIp(first, Math.floor((last - first) / 5))!;
          return `${formatIp(from)}-${formatIp(offsetIp(last, -1)!)}`;
        });
    }
    case 'names':
      return resolvers(wiring);
    case 'watch':
      return wiring.fars.filter((f) => !f.silent).flatMap((f) => f.addresses.map(formatIp));
    case 'block':
      return circuits.flatMap((c) => c.routes.map((r) => `${formatPrefix(r.prefix)} routed`));
    case 'tag': {
      const used = new Set(
        site.interfaces.filter((i) => i.ports.includes(iface.ports[0]!)).map((i) => i.tag),
      );
      return site.switches
        .filter((s) => s.plug?.to === 'port' && iface.ports.includes(s.plug.port))
        .flatMap((s) => s.carries.map((c) => c.value))
        .filter((t) => !used.has(t))
        .map(String);
    }
    default:
      return [];
  }
}

function forStation(model: Model, name: string, clause: string): string[] {
  const { site, wiring, prospects } = model;
  const station = wiring.stations.find((s) => s.name === name);
  if (clause === 'at') {
    const used = new Set(
      site.stations.flatMap((s) => (s.plug?.to === 'jack' ? [`${s.plug.switch}/${s.plug.jack}`] : [])),
    );
    return site.switches
      .flatMap((s) => s.jacks.map((j) => `${s.name}/${j.value.jack}`))
      .filter((plug) => !used.has(plug));
  }
  const iface = station && interfaceAt(site, station.landing);
  if (!iface) return [];
  const nets = networksOf(iface, prospects).filter((n): n is Prefix<Ipv4> => isIpv4(n.address));
  const own = (net: Prefix) => iface.addresses.find((a) => contains(net, a.prefix.address))?.prefix.address;
  const taken = takenBy(model);
  switch (clause) {
    case 'address':
      return [
        ...(iface.pools.length ? ['by dhcp'] : []),
        ...nets.flatMap((net) => {
          const free = lowestFree(net, (a) => taken.has(a));
          return free === undefined ? [] : [`${formatIp(free)}/${net.length}`];
        }),
      ];
    case 'gateway':
    case 'names':
      return staticNetworks(iface).flatMap((net) => {
        const address = own(net);
        return address === undefined ? [] : [formatIp(address)];
      });
    default:
      return [];
  }
}

const firstOf = (net: Prefix<Ipv4> | undefined): string[] => (net ? [firstHost(net)] : []);

/** Addresses that somebody has, or that a pool gives. */
function takenBy({ site, wiring, prospects }: Model): ReadonlySet<Ip> {
  const { stations } = prospects;
  return new Set<Ip>([
    ...site.interfaces.flatMap((i) => i.addresses.map((a) => a.prefix.address)),
    ...site.interfaces.flatMap((i) => i.reserved.map((k) => k.address)),
    ...[...stations.values()].map((p) => p.address),
    ...wiring.circuits.flatMap((c) => (c.gateway === undefined ? [] : [c.gateway])),
  ]);
}
