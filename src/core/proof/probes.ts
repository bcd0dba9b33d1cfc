/** Probes: stations put where nobody sits, so that a zone or network can be asked about. They listen to everything. */
import { IpSet, contains, familyOf, formatIp, hostRange, isIpv4, offsetIp } from '#core/addr';
import type { Family, Ip, Ipv4 } from '#core/addr';
import type { Model } from '#core/model';
import type { Who } from '#core/notation';
import { FAMILIES, doorPlaces, exitsOf, judgeOnSets, promiseNow, spotOf } from '#core/reach';
import type { Place, Reach } from '#core/reach';
import { kindOf } from '#core/semantics';
import type { DoorRule } from '#core/semantics';
import { addressesOf, interfaceAt, macFor, networksOf, stationsOf, twinAddresses } from '#core/site';
import type { Far, Interface, Prospects, Site, Station } from '#core/site';
import { PROBE } from './desks';

/** The interfaces that a WHO is on: a zone's, an interface itself, or those whose networks hold an address. */
export function interfacesOf(site: Site, prospects: Prospects, who: Who): Interface[] {
  switch (who.type) {
    case 'any':
      return site.interfaces.filter((i) => !i.off);
    case 'internet':
    case 'suffix':
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
export function probeOn(
  iface: Interface,
  { prospects, wiring }: Pick<Model, 'prospects' | 'wiring'>,
  wanted?: Ip,
): Station | undefined {
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
    ...wiring.routers.flatMap((r) => r.legs.map((l) => l.address.address)),
    ...twinAddresses([iface]),
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
    macStated: false,
    listens: [{ kind: 'any' }],
    silent: false,
    seat: false,
    lends: [],
    options: [],
    reserved: [],
    off: false,
  };
}

/** The doors that a WHO names. */
const doorsNamed = (reach: Reach, who: Who): readonly DoorRule[] =>
  who.type === 'name' && kindOf(reach.model.site, who) === 'door'
    ? reach.model.rules.doors.filter((d) => d.name === who.name)
    : [];

/** The addresses that are asked for where somebody asks for a WHO: those of a door are outside. */
function spotsOf(reach: Reach, who: Who, family: Family): IpSet {
  const places = reach.places(who, family).reduce((set, p) => set.union(p.addresses), IpSet.empty);
  return places.union(IpSet.ofAddresses(doorsNamed(reach, who).map((d) => d.outside)));
}

/** Who is put on the bench beside those who are there. */
export interface Extras {
  readonly probes: readonly Station[];
  readonly fars: readonly Far[];
}

/**
 * Somebody to ask wherever a promise speaks of a place where nobody sits: one on every such interface, one at every
 * such known address, and the two ends of each flow by which the reach says that a promise fails.
 */
export function extrasFor(reach: Reach): Extras {
  const { site, wiring, prospects } = reach.model;
  const probes = new Map<string, Station>();
  const fars = new Map<Ip, Far>();
  const add = (iface: Interface, address?: Ip) => {
    const made = probeOn(iface, reach.model, address);
    if (!made) return;
    const name = address === undefined ? made.name : `${made.name} ${formatIp(address)}`;
    // The same address in another table is somebody else.
    const own = made.address?.address ?? made.address6?.address;
    const there = [...probes.values()].some(
      (p) => (p.address?.address ?? p.address6?.address) === own && interfaceAt(site, p.landing) === iface,
    );
    if (!there) probes.set(name, { ...made, name });
  };
  const addFar = (address: Ip) => {
    if (wiring.fars.some((f) => f.addresses.includes(address))) return;
    fars.set(address, {
      name: `${PROBE}${formatIp(address)}`,
      supposed: true,
      addresses: [address],
      listens: [{ kind: 'any' }],
      resolves: false,
      silent: false,
    });
  };
  /** Puts somebody at an address of a place, unless a host of the wiring has it. */
  const seat = (place: Place, address: Ip) => {
    if (place.station || place.far) return;
    if (place.at.uplink && place.beyond) addFar(address);
    else if (!place.at.uplink && !place.beyond) add(place.at, address);
  };
  for (const statement of site.expects) {
    const promise = promiseNow(reach.model, statement);
    if (!promise) continue;
    const whos = [promise.from, ...('to' in promise ? [promise.to] : [])];
    for (const who of whos) {
      for (const iface of interfacesOf(site, prospects, who))
        if (!iface.uplink && who.type !== 'addresses' && !stationsOf(wiring, iface).some((s) => !s.off))
          add(iface);
      const kind = who.type === 'name' ? kindOf(site, who) : who.type;
      const doors = kind === 'door' ? doorsNamed(reach, who) : (spotOf(reach, who)?.doors ?? []);
      if (promise.says === 'never-reaches')
        for (const door of doors)
          for (const place of doorPlaces(reach, door, familyOf(door.inside))) seat(place, door.inside);
      if (kind !== 'known' && kind !== 'addresses') continue;
      for (const family of FAMILIES) {
        const places = reach.places(who, family);
        if (!places.some((p) => p.station ?? p.far))
          for (const place of places) seat(place, place.addresses.ranges[0]!.first);
      }
    }
    // Who asks a neighbour of their own network needs a neighbour.
    for (const family of FAMILIES) {
      const [asks = [], asked = []] = whos.map((who) => reach.places(who, family));
      const shared = asks.filter((a) => asked.some((b) => a.at === b.at)).map((a) => a.at);
      for (const place of [...asks, ...asked])
        if (shared.includes(place.at)) {
          seat(place, place.addresses.ranges[0]!.first);
          seat(place, place.addresses.ranges.at(-1)!.last);
        }
    }
    for (const family of FAMILIES) {
      // Who has the very address that is asked for cannot ask, nor be asked: somebody beside them is, or somebody with
      // that address in another table.
      for (const [who, other] of [whos, [...whos].reverse()]) {
        const places = who ? reach.places(who, family) : [];
        const spots = other ? spotsOf(reach, other, family) : IpSet.empty;
        for (const host of places)
          if (host.station && host.addresses.within(spots))
            for (const place of places) seat(place, place.addresses.ranges[0]!.first);
      }
    }
    if (promise.says === 'leaves-as') for (const exit of exitsOf(reach, promise)) addFar(exit);
    const witness = judgeOnSets(reach, statement)?.witness;
    if (!witness) continue;
    const family = familyOf(witness.source);
    const from = reach.places(promise.from, family);
    const to = 'to' in promise ? reach.places(promise.to, family) : [];
    for (const place of from) if (place.addresses.has(witness.source)) seat(place, witness.source);
    for (const place of to) if (place.addresses.has(witness.destination)) seat(place, witness.destination);
  }
  return { probes: [...probes.values()], fars: [...fars.values()] };
}
