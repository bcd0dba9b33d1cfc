/** The reach of a site: which flows get from one place to another, and what became of those that do not. */
import { IpSet, PROTO, ServiceSet, isIpv4 } from '#core/addr';
import type { Family } from '#core/addr';
import type { Model } from '#core/model';
import type { DoorRule } from '#core/semantics';
import type { Interface } from '#core/site';
import { cutAll, has, meet } from './block';
import type { Block, Point, Region } from './block';
import { extend } from '#core/base';
import { Delivery, splitByNet } from './delivery';
import type { Source } from './delivery';
import { Follower } from './follow';
import { showing } from './outcome';
import type { Outcome } from './outcome';
import { placesAt, placesOf } from './places';
import type { Place } from './places';
import type { Who } from '#core/notation';

/** Flows that get from one place to another. */
export interface Passing {
  /** As they are begun. */
  readonly flows: Block;
  /** Those whose answers come back. */
  readonly answered?: Block;
  /** What the box did; absent where both are neighbours and the box is not asked. */
  readonly outcome?: Outcome;
  /** Connections that the target may refuse but not take: what it says comes back, and the box lets no more through. */
  readonly refused?: Block;
  /** Whether they did not cross the box and their answers do. */
  readonly around?: boolean;
}

/** All there is to ask about the reach of one site. What is worked out is kept for the next question. */
export class Reach {
  readonly follower: Follower;
  readonly delivery: Delivery;

  constructor(readonly model: Model) {
    this.follower = new Follower(model);
    this.delivery = new Delivery(model);
  }

  /** What a name stands for, each place in one network. */
  places(who: Who, family: Family): Place[] {
    return placesOf(this.model, who, family).flatMap((p) => splitByNet(p, this.delivery.netsOf(p.at)));
  }

  /** The places behind an interface that is not off. */
  placesAt(iface: Interface, family: Family): Place[] {
    const nets = this.delivery.netsOf(iface);
    return placesAt(this.model, iface, family).flatMap((p) => splitByNet(p, nets));
  }

  /** The flows that get from one place to another, doors left out. */
  passings(from: Place, to: Place, family: Family, source: Source): Passing[] {
    const out: Passing[] = [];
    const { delivery } = this;
    if (from.at !== to.at && !this.follower.waysOut(from.at.table).has(to.at.name)) return out;
    const sent = delivery.sendsToBox(from, family, source);
    const all: Block = { sources: from.addresses, destinations: to.addresses, services: ServiceSet.all };
    if (from.at === to.at && !from.beyond && !to.beyond) {
      const destinations = to.addresses.intersect(sent.onLink).minus(delivery.claims(to.at));
      const back = delivery.sendsToBox(to, family, source).onLink;
      const near = from.addresses.intersect(back);
      const flows = { ...all, destinations };
      if (!destinations.isEmpty && !near.isEmpty)
        out.push({ flows: { ...flows, sources: near }, answered: { ...flows, sources: near } });
      // A target that takes the asker for no neighbour answers over the box, to which most answers mean nothing; a
      // datagram starts a flow of its own.
      const distant = { ...flows, sources: from.addresses.minus(back) };
      if (!destinations.isEmpty && !distant.sources.isEmpty)
        out.push({
          flows: distant,
          answered: this.returnsAsNew(distant, from, to, family),
          around: true,
        });
    }
    const past = delivery.around(from, to);
    if (!past.isEmpty) extend(out, this.pastTheBox({ ...all, destinations: past }, from, to, family));
    const asked = { ...all, destinations: to.addresses.intersect(sent.destinations) };
    for (const outcome of this.follower.between(from.at, to.at, family, asked))
      extend(out, this.delivered(outcome, outcome.flows, from, to, family));
    return out;
  }

  /** Flows that routers inside carry by themselves; their answers take the same way, or that over the box. */
  private pastTheBox(flows: Block, from: Place, to: Place, family: Family): Passing[] {
    const back = this.delivery.around(to, from);
    const sources = flows.sources.intersect(back);
    const distant = { ...flows, sources: flows.sources.minus(back) };
    return [
      ...(sources.isEmpty ? [] : [{ flows: { ...flows, sources }, answered: { ...flows, sources } }]),
      ...(distant.sources.isEmpty
        ? []
        : [{ flows: distant, answered: this.returnsAsNew(distant, from, to, family), around: true }]),
    ];
  }

  /** Of flows that did not cross the box, those whose answers do, as new flows: datagrams, where the rules let them. */
  private returnsAsNew(all: Block, from: Place, to: Place, family: Family): Block | undefined {
    // Who has another gateway does not ask the box.
    const heard = this.delivery.sendsToBox(to, family, 'routed').destinations;
    const flows = { ...all, sources: all.sources.intersect(heard) };
    if (flows.sources.isEmpty) return undefined;
    const wanted: Block = {
      sources: flows.destinations,
      destinations: flows.sources,
      services: ServiceSet.of([{ kind: 'ports', proto: PROTO.udp, first: 49152, last: 65535 }], family),
    };
    const passing = (services: ServiceSet) =>
      this.follower
        .between(to.at, from.at, family, wanted)
        .filter((o) => o.shown === undefined && !o.translated)
        .filter((o) => !this.delivery.carriedTo(from, family, o.route?.via).isEmpty)
        .flatMap((o) => meet(o.flows, { ...wanted, services }) ?? []);
    const udp = cutAll([wanted], passing(wanted.services)).length
      ? ServiceSet.empty
      : ServiceSet.of([{ kind: 'proto', proto: PROTO.udp }], family);
    // Protocols without ports answer with packets that begin a flow as well.
    const raw = ServiceSet.all.minus(ServiceSet.ordinary);
    const stuck = cutAll([{ ...wanted, services: raw }], passing(raw)).map((b) => b.services);
    const services = stuck.reduce((left, set) => left.minus(set), raw).union(udp);
    return services.isEmpty ? undefined : { ...flows, services };
  }

  /** The flows that get from one place through a door to another. */
  through(door: DoorRule, from: Place, to: Place, family: Family, source: Source): Passing[] {
    const taken = this.follower.throughDoors(from.at, door);
    if (!taken.length || !to.addresses.has(door.inside)) return [];
    const sent = this.delivery.sendsToBox(from, family, source);
    const asked: Block = {
      sources: from.addresses,
      destinations: sent.destinations,
      services: ServiceSet.all,
    };
    return taken.flatMap((outcome) => {
      if (outcome.departure !== to.at) return [];
      const flows = meet(outcome.flows, asked);
      return flows ? this.delivered(outcome, flows, from, to, family) : [];
    });
  }

  /** Flows from a place to the box itself that it answers. */
  answers(from: Place, addresses: IpSet, family: Family, source: Source): Passing[] {
    const sent = this.delivery.sendsToBox(from, family, source);
    const asked: Block = {
      sources: from.addresses,
      destinations: addresses.intersect(sent.destinations),
      services: ServiceSet.all,
    };
    return this.follower.answered(from.at, family).flatMap((outcome) => {
      const flows = meet(outcome.flows, asked);
      if (!flows) return [];
      const sources = flows.sources.intersect(this.delivery.backTo(from, family));
      return [{ flows, answered: sources.isEmpty ? undefined : { ...flows, sources }, outcome }];
    });
  }

  private delivered(outcome: Outcome, flows: Block, from: Place, to: Place, family: Family): Passing[] {
    const isOwn = outcome.shown === undefined && !outcome.translated;
    const via = outcome.route?.via;
    const keep = (sources: IpSet, good: IpSet) => showing(outcome, sources, good);
    const arrived = keep(flows.sources, this.delivery.carriedTo(to, family, via));
    if (arrived.isEmpty) return [];
    const home = keep(arrived, this.delivery.answersTo(to, family, via)).intersect(
      this.delivery.backTo(from, family),
    );
    const passing = (services: ServiceSet, sources: IpSet): Passing => ({
      flows: { ...flows, services, sources: arrived },
      answered: sources.isEmpty ? undefined : { ...flows, services, sources },
      outcome,
    });
    const straight = isOwn ? this.straightBack(from, to, family).intersect(arrived).minus(home) : IpSet.empty;
    if (straight.isEmpty) return [passing(flows.services, home)];
    // Of a connection whose answers the box does not hear it lets no more through.
    const tcp = ServiceSet.of([{ kind: 'proto', proto: PROTO.tcp }], family);
    const connections = flows.services.intersect(tcp);
    return [
      passing(flows.services.minus(tcp), home.union(straight)),
      {
        ...passing(connections, home),
        refused: { ...flows, services: connections, sources: straight },
      },
    ].filter((x) => !x.flows.services.isEmpty);
  }

  /** The sources to whom a target answers without the box: neighbours, and those whom routers inside get to. */
  private straightBack(from: Place, to: Place, family: Family): IpSet {
    if (from.at !== to.at) return IpSet.empty;
    const near =
      from.beyond || to.beyond ? IpSet.empty : this.delivery.sendsToBox(to, family, 'routed').onLink;
    return near.union(this.delivery.around(to, from));
  }

  /** What the box does with one flow that arrives by an interface. */
  outcomeOf(arrival: Interface, point: Point): Outcome | undefined {
    return this.follower.follow(arrival, isIpv4(point.source) ? 4 : 6).find((o) => has(o.flows, point));
  }
}

/** Places that stand for the same: the internet by each uplink is one, every other place is its own. */
export function groupsOf(places: readonly Place[]): Place[][] {
  const out: Place[][] = [];
  const joint = new Map<string, Place[]>();
  for (const place of places) {
    const key = place.internet ? (place.far?.name ?? 'internet') : undefined;
    const known = key === undefined ? undefined : joint.get(key);
    if (known) known.push(place);
    else {
      const group = [place];
      out.push(group);
      if (key !== undefined) joint.set(key, group);
    }
  }
  return out;
}

/** A region without flows from an address to itself, where one address alone is on both sides: nobody asks itself. Of whole
 * networks the flow of each address to itself stays, which no answer here depends on. */
export function withoutLoneSelf(region: Region): Region {
  return region.flatMap((b): Region => {
    const both = b.sources.intersect(b.destinations);
    if (both.isEmpty) return [b];
    if (both.size === 1) {
      const one = { ...b, sources: both, destinations: both };
      return cutAll([b], [one]);
    }
    return [b];
  });
}
