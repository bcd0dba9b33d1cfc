/** Probes: stations put where nobody sits, so that a zone or network can be asked about. They listen to everything. */
import { contains, hostRange, isIpv4, offsetIp } from '#core/addr';
import type { Ip, Ipv4 } from '#core/addr';
import type { Who } from '#core/notation';
import { kindOf } from '#core/semantics';
import { addressesOf, foresee, macFor, networksOf, stationsOf } from '#core/site';
import type { Interface, Prospects, Site, Station, Wiring } from '#core/site';
import { PROBE } from './desks';

/** The interfaces that a WHO is on: a zone's, an interface itself, or those whose networks hold an address. */
export function interfacesOf(site: Site, prospects: Prospects, who: Who): Interface[] {
  switch (who.type) {
    case 'any':
      return site.interfaces.filter((i) => !i.off);
    case 'internet':
      return [];
    case 'addresses':
      return site.interfaces.filter(
        (i) => !i.off && networksOf(i, prospects).some((n) => contains(n, who.range.first)),
      );
    case 'name':
      switch (kindOf(site, who)) {
        case 'zone':
          return site.interfaces.filter((i) => !i.off && i.zone?.name === who.name);
        case 'interface':
          return site.interfaces.filter((i) => !i.off && i.name === who.name);
        default:
          return [];
      }
  }
}

/** A probe on the segment of an inside interface with this address, or the highest free one of its primary subnet. */
export function probeOn(iface: Interface, prospects: Prospects, wanted?: Ip): Station | undefined {
  const port = iface.ports[0];
  const nets = networksOf(iface, prospects);
  const net =
    wanted === undefined
      ? (nets.find((n) => isIpv4(n.address)) ?? nets[0])
      : nets.find((n) => contains(n, wanted));
  const own = addressesOf(iface, prospects).find((a) => net && contains(net, a.address))?.address;
  if (port === undefined || !net || own === undefined) return undefined;
  const taken = new Set<Ip>([
    ...addressesOf(iface, prospects).map((a) => a.address),
    ...[...prospects.stations.values(), ...prospects.stations6.values()].map((p) => p.address),
  ]);
  const { first, last } = hostRange(net);
  let address = wanted;
  for (
    let a: Ip | undefined = last;
    address === undefined && a !== undefined && a >= first;
    a = offsetIp(a, -1)
  )
    if (!taken.has(a)) address = a;
  if (address === undefined) return undefined;
  const four = isIpv4(address) && isIpv4(own);
  return {
    name: `${PROBE}${iface.name}`,
    supposed: true,
    landing: { port, tag: iface.tag },
    address: four ? { address: address as Ipv4, length: net.length } : undefined,
    dhcp: false,
    gateway: isIpv4(own) ? own : undefined,
    address6: isIpv4(address) ? undefined : { address, length: net.length },
    gateway6: isIpv4(own) ? undefined : own,
    names: [],
    mac: macFor(`probe ${iface.name} ${address}`),
    listens: [{ kind: 'any' }],
    silent: false,
    seat: false,
    off: false,
  };
}

/** One probe for every inside interface that a promise speaks of and nobody sits on. */
export function probesFor(site: Site, wiring: Wiring): Station[] {
  const prospects = foresee(site, wiring);
  const wanted = new Set<Interface>();
  for (const { promise } of site.expects) {
    if (!promise) continue;
    const whos = [promise.from, ...('to' in promise ? [promise.to] : [])];
    for (const who of whos)
      for (const iface of interfacesOf(site, prospects, who))
        if (!iface.uplink && !stationsOf(wiring, iface).some((s) => !s.off)) wanted.add(iface);
  }
  return [...wanted].flatMap((iface) => probeOn(iface, prospects) ?? []);
}
