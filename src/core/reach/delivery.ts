/**
 * What happens between the box and the ends: whose gateway is the box, what a provider carries, and whether an answer
 * finds its way home.
 */
import { IpSet, familyOf, identifierOf, isIpv4, linkLocal, networkOf } from '#core/addr';
import type { Family, Ip, Prefix } from '#core/addr';
import { memo } from '#core/base';
import type { Model } from '#core/model';
import { proxiedBy } from '#core/semantics';
import {
  announcedBy,
  circuitsOf,
  handedOn,
  interfaceAt,
  interfaceMac,
  networksOf,
  routerAt,
  segmentOf,
  sentToBox,
  speaks6,
  wantsDelegation,
} from '#core/site';
import type { Circuit, InsideRouter, Interface } from '#core/site';
import { ALL, SPECIAL } from './block';
import { stationAddress, stationGateway } from './places';
import type { Place } from './places';

/** What a line of a provider does for one interface. */
interface Line {
  readonly circuit: Circuit;
  /** Sources that it carries outwards. */
  readonly carries: IpSet;
  /** Sources of the box's side to which answers come back. */
  readonly returns: IpSet;
  /** Destinations for which new flows from the internet come down it. */
  readonly inbound: IpSet;
}

/** Where a place's packets go: those to the box, and the network in which it knows neighbours. */
export interface Sending {
  readonly destinations: IpSet;
  readonly onLink: IpSet;
}

export class Delivery {
  private readonly sending = new WeakMap<Place, Sending>();
  private readonly routed = new WeakMap<Place, Sending>();
  private readonly claimed = new Map<string, IpSet>();
  private readonly lines = new Map<string, readonly Line[]>();
  private readonly backs = new Map<string, IpSet>();
  private readonly nets = new Map<string, readonly IpSet[]>();
  private readonly beyonds = new Map<string, IpSet>();

  /** What routes lead to, by the interface they lead by. */
  private readonly byInterface = new Map<string, Prefix[]>();

  constructor(private readonly model: Model) {
    for (const { interface: by, prefix } of model.routes)
      if (by !== undefined) memo(this.byInterface, by, (): Prefix[] => []).push(prefix);
  }

  /** The addresses that the box answers for on an interface: its own, and on an uplink those of doors and leaving. */
  claims(iface: Interface): IpSet {
    return memo(this.claimed, iface.name, () =>
      IpSet.ofAddresses([
        ...(this.model.states.get(iface.name)?.addresses.map((a) => a.address) ?? []),
        ...proxiedBy(this.model.site, iface),
      ]),
    );
  }

  /** The networks of an interface, each as a set. */
  netsOf(iface: Interface): readonly IpSet[] {
    return memo(this.nets, iface.name, () =>
      networksOf(iface, this.model.prospects).map((n) => IpSet.ofPrefixes([n])),
    );
  }

  /** The sources to whom the box can send an answer by an interface. */
  backBy(iface: Interface, family: Family): IpSet {
    return memo(this.backs, `${family} ${iface.name}`, () =>
      IpSet.ofPrefixes(this.byInterface.get(iface.name) ?? []).only(family),
    );
  }

  /**
   * As backBy, of what came from beyond an uplink: back to there goes only what a router on the line is sent, the
   * longest prefix first, or what is put into a session.
   */
  backBeyond(iface: Interface, family: Family): IpSet {
    return memo(this.beyonds, `${family} ${iface.name}`, () => {
      if (iface.carrier === 'pppoe') return this.backBy(iface, family);
      const own = this.model.routes
        .filter((r) => r.interface === iface.name && familyOf(r.prefix.address) === family)
        .sort((a, b) => b.prefix.length - a.prefix.length);
      let left = ALL[family];
      let out = IpSet.empty;
      for (const { prefix, via } of own) {
        const set = IpSet.ofPrefixes([prefix]);
        if (via !== undefined && this.lineTo(iface, family, via)) out = out.union(left.intersect(set));
        left = left.minus(set);
      }
      return out;
    });
  }

  /** The sources of a place to whom an answer finds its way. */
  backTo(place: Place, family: Family): IpSet {
    return place.at.uplink && place.beyond
      ? this.backBeyond(place.at, family)
      : this.backBy(place.at, family);
  }

  /** The line behind an interface that has a next hop. */
  lineTo(iface: Interface, family: Family, via: Ip): Line | undefined {
    return this.linesOf(iface, family).find(
      ({ circuit: c }) =>
        (c.session !== undefined && isIpv4(via)) ||
        via === c.gateway ||
        (speaks6(c) && (via === c.gateway6 || via === c.linkLocal)),
    );
  }

  /** What the internet can send to the box by an interface. */
  inbound(iface: Interface, family: Family): IpSet {
    return this.linesOf(iface, family).reduce((set, line) => set.union(line.inbound), IpSet.empty);
  }

  /** All that is read of the lines of an uplink, as text that is the same where they are alike. */
  lineText(iface: Interface, family: Family): string {
    const lines = this.linesOf(iface, family).map(({ circuit: c, carries, returns, inbound }) =>
      [
        c.session !== undefined,
        c.gateway,
        speaks6(c) ? `${c.gateway6} ${c.linkLocal}` : '',
        c.translatesTo,
        carries.key,
        returns.key,
        inbound.key,
      ].join(' '),
    );
    return `${iface.name} ${this.claims(iface).key} ${this.gatewayOf(iface, family)} ${lines.join(';')}`;
  }

  private linesOf(iface: Interface, family: Family): readonly Line[] {
    return memo(this.lines, `${family} ${iface.name}`, () =>
      // Nothing comes down the line of one that rests or is off.
      (this.model.states.get(iface.name)?.up ? circuitsOf(this.model.wiring, iface) : [])
        .filter((c) => interfaceAt(this.model.site, c.landing) === iface)
        .filter((c) => (c.session !== undefined) === (iface.carrier === 'pppoe'))
        .filter((c) => family === 4 || speaks6(c))
        .map((circuit) => this.lineOf(circuit, iface, family)),
    );
  }

  private lineOf(circuit: Circuit, iface: Interface, family: Family): Line {
    const { session, prefix, block6, lends6, delegates6, routes, beside } = circuit;
    const claims = this.claims(iface);
    const mine = linkLocal(identifierOf(interfaceMac(this.model.site, iface)));
    const onLink = IpSet.ofPrefixes([prefix, block6, lends6, ...beside].filter((p) => p !== undefined));
    // In a session whatever is sent arrives; on Ethernet somebody must answer for the next hop.
    const near = session ? onLink.union(IpSet.ofAddresses([session.gives])) : onLink.intersect(claims);
    const routed = IpSet.ofPrefixes(
      routes.filter((r) => session !== undefined || claims.has(r.via) || r.via === mine).map((r) => r.prefix),
    ).minus(onLink);
    const delegated =
      delegates6 && wantsDelegation(this.model.site, iface) ? IpSet.ofPrefixes([delegates6]) : IpSet.empty;
    const home = near.union(routed).union(delegated).only(family);
    if (circuit.translatesTo !== undefined && family === 4)
      return { circuit, carries: ALL[4], returns: home, inbound: IpSet.empty };
    const carries = ALL[family].minus(SPECIAL[family]);
    const reached = home.intersect(this.sentTo(circuit, family)).intersect(carries);
    return { circuit, carries, returns: reached, inbound: reached };
  }

  /** What the internet sends to a circuit: the longest prefix of all circuits wins. */
  private sentTo(circuit: Circuit, family: Family): IpSet {
    const announced = this.model.wiring.circuits.flatMap((c) =>
      announcedBy(c).map((prefix) => ({ c, prefix })),
    );
    announced.sort((a, b) => b.prefix.length - a.prefix.length);
    let left = ALL[family];
    let out = IpSet.empty;
    for (const { c, prefix } of announced) {
      const set = IpSet.ofPrefixes([prefix]).only(family);
      if (c === circuit) out = out.union(left.intersect(set));
      left = left.minus(set);
    }
    return out;
  }

  /** The destinations for which a place sends a packet to the box, and not to a neighbour or nowhere. */
  sendsToBox(place: Place, family: Family, source: Source): Sending {
    // Only what comes from the internet tells the two apart.
    const kept = source === 'routed' && place.beyond && place.at.uplink ? this.routed : this.sending;
    return memo(kept, place, () => this.sendingOf(place, family, source));
  }

  private sendingOf(place: Place, family: Family, source: Source): Sending {
    const claims = this.claims(place.at);
    const { station } = place;
    if (station) {
      const own = stationAddress(this.model, station, family)!;
      const onLink = IpSet.ofPrefixes([networkOf(own)]);
      const gateway = stationGateway(this.model, station, place.at, family);
      const out = this.handedToBox(place, gateway, family).minus(onLink);
      return { destinations: place.beyond ? out : out.union(onLink.intersect(claims)), onLink };
    }
    if (place.beyond)
      return {
        destinations: place.at.uplink && source === 'routed' ? this.inbound(place.at, family) : ALL[family],
        onLink: IpSet.empty,
      };
    const onLink = this.netsOf(place.at).find((n) => n.meets(place.addresses)) ?? IpSet.empty;
    return { destinations: ALL[family].minus(onLink.minus(claims)), onLink };
  }

  /** What a gateway of a station gets that ends at the box: everything at the box itself, what it hands on at a router. */
  private handedToBox(place: Place, gateway: Ip | 'router' | undefined, family: Family): IpSet {
    const claims = this.claims(place.at);
    if (gateway === undefined) return IpSet.empty;
    if (!place.beyond && (gateway === 'router' || claims.has(gateway))) return ALL[family];
    const router = this.routerOf(place);
    return router ? sentToBox(this.model.wiring, router, `interface ${place.at.name}`, claims) : IpSet.empty;
  }

  /** The router inside that is the gateway of a station. */
  private routerOf({ station, at }: Place): InsideRouter | undefined {
    const gateway = station && stationGateway(this.model, station, at, 4);
    return gateway !== undefined && gateway !== 'router' && isIpv4(gateway)
      ? routerAt(this.model.wiring, segmentOf(this.model.site, station!.landing), gateway)
      : undefined;
  }

  /**
   * The addresses on the segment of a place's interface, or behind a router on it, to which what a station sends gets
   * by routers alone: the box never sees it.
   */
  around(from: Place, to: Place): IpSet {
    const router = this.routerOf(from);
    const { site, wiring } = this.model;
    if (!router || from.at !== to.at) return IpSet.empty;
    const target = to.station ? segmentOf(site, to.station.landing) : `interface ${to.at.name}`;
    const gets = (address: Ip) => isIpv4(address) && handedOn(wiring, router, address) === target;
    if (to.station) return to.addresses.ranges.every((r) => gets(r.first)) ? to.addresses : IpSet.empty;
    if (to.beyond) return IpSet.empty;
    // Hosts as they should be lie in one network, which a router has as a whole.
    return gets(to.addresses.ranges[0]!.first) ? to.addresses : IpSet.empty;
  }

  /**
   * The sources, as the target sees them, to which its answer comes back: by its own network, by its gateway, or by the
   * provider's line.
   */
  answersTo(place: Place, family: Family, via: Ip | undefined): IpSet {
    // A host answers as it asks: over the box where it would send to the box.
    if (place.station || !place.at.uplink) return this.sendsToBox(place, family, 'routed').destinations;
    const hop = via ?? this.gatewayOf(place.at, family);
    const line = hop === undefined ? undefined : this.lineTo(place.at, family, hop);
    if (!line || (line.circuit.translatesTo !== undefined && family === 4))
      return line?.returns ?? IpSet.empty;
    // The internet answers to where an address belongs; a flow is known by its table, whichever uplink brings it.
    return this.model.site.interfaces
      .filter((i) => i.uplink && i.table === place.at.table)
      .reduce((set, i) => set.union(this.inbound(i, family)), IpSet.empty);
  }

  /** The sources that get to a place at all: what its provider carries, where one stands before it. */
  carriedTo(place: Place, family: Family, via: Ip | undefined): IpSet {
    const { station } = place;
    if (station && place.beyond) {
      const { site, wiring } = this.model;
      const router =
        via !== undefined && isIpv4(via) ? routerAt(wiring, `interface ${place.at.name}`, via) : undefined;
      const own = stationAddress(this.model, station, family)!.address;
      const good =
        router && isIpv4(own) && handedOn(wiring, router, own) === segmentOf(site, station.landing);
      return good ? ALL[family] : IpSet.empty;
    }
    if (!place.at.uplink || !place.beyond) return ALL[family];
    return (via === undefined ? undefined : this.lineTo(place.at, family, via)?.carries) ?? IpSet.empty;
  }

  private gatewayOf(iface: Interface, family: Family): Ip | undefined {
    const state = this.model.states.get(iface.name);
    return family === 4 ? state?.gateway : state?.gateway6;
  }
}

/** From the internet: only what its routers send this way, or whatever somebody on the line may send. */
export type Source = 'routed' | 'anything';

/** Places without stations, split so that each lies in one network. */
export function splitByNet(place: Place, nets: readonly IpSet[]): Place[] {
  if (place.station || place.beyond || nets.length < 2) return [place];
  return nets.flatMap((n) => {
    const addresses = place.addresses.intersect(n);
    return addresses.isEmpty ? [] : [{ ...place, addresses }];
  });
}
