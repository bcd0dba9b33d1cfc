/** Step 6 on sets: what the doors at an address take of what arrives, and what they leave. */
import { IpSet, ServiceSet, familyOf } from '#core/addr';
import type { Family, Ip, ServiceItem } from '#core/addr';
import { Pairs, extend, memo } from '#core/base';
import type { Model } from '#core/model';
import type { DoorRule } from '#core/semantics';
import { interfaceNamed } from '#core/site';
import type { Interface, Zone } from '#core/site';
import { ALL, cut, meet, tidy, within } from './block';
import type { Block, Region } from './block';
import type { Entries } from './entry';
import type { Onward } from './onward';
import type { Leg, Outcome } from './outcome';
import { passes } from './policy';
import type { Policy } from './policy';
import type { Ways } from './ways';

/** Services of a door that lead to inside ports by one shift. */
interface Piece {
  readonly services: ServiceSet;
  readonly shift: number;
}

/** What the doors at one address take, and what of the flows to it they leave. */
interface AtDoors {
  readonly taken: readonly Outcome[];
  /** The services of what they take. */
  readonly services: ServiceSet;
  readonly left: Region;
}

export class Doors {
  /** Those whose two sides are of one family, by their public address. */
  readonly byAddress = new Map<Ip, DoorRule[]>();
  private readonly among = new WeakMap<IpSet, readonly Ip[]>();
  private readonly taken = new Pairs<Interface, Ip, AtDoors>();
  private readonly open = new Pairs<string, Zone | undefined, Map<Ip, readonly DoorRule[]>>();
  private readonly permitted = new Map<Piece, Pairs<Zone, Zone, Region>>();
  private readonly pieces = new Map<DoorRule, readonly Piece[]>();
  private addresses?: IpSet;

  constructor(
    private readonly model: Pick<Model, 'site' | 'rules'>,
    private readonly ways: Ways,
    private readonly entries: Entries,
    private readonly policy: Policy,
    private readonly onward: Onward,
  ) {
    for (const door of model.rules.doors)
      if (familyOf(door.inside) === familyOf(door.outside))
        this.byAddress.set(door.outside, [...(this.byAddress.get(door.outside) ?? []), door]);
  }

  /** The addresses of doors among some. */
  doorsIn(addresses: IpSet): readonly Ip[] {
    return memo(this.among, addresses, () => {
      const all = [...this.byAddress.keys()];
      return addresses.meets((this.addresses ??= IpSet.ofAddresses(all)))
        ? all.filter((a) => addresses.has(a))
        : [];
    });
  }

  /**
   * What is left of an outcome when the doors have taken theirs before. Asked of the outcome, not of what arrives: each
   * door has a service of its own, and only the few statements that take it need to be cut up for it.
   */
  leftOf(outcome: Outcome, addresses: Iterable<Ip>): readonly Outcome[] {
    const { flows } = outcome;
    const left: Block[] = [];
    const taken: Ip[] = [];
    for (const address of addresses) {
      if (!flows.destinations.has(address)) continue;
      const doors = this.at(outcome.arrival, address);
      // Most statements speak of other services than the door's.
      if (!doors?.services.meets(flows.services)) continue;
      taken.push(address);
      extend(left, within(doors.left, flows));
    }
    if (!taken.length) return [outcome];
    const destinations = flows.destinations.minus(IpSet.ofAddresses(taken));
    if (!destinations.isEmpty) left.push({ ...flows, destinations });
    return tidy(left).map((block) => ({ ...outcome, flows: block }));
  }

  /** What the doors at one address take of what arrives by an interface; undefined where that is nothing. */
  at(arrival: Interface, address: Ip): AtDoors | undefined {
    const doors = this.openAt(arrival, address);
    if (!doors.length) return undefined;
    const made = this.taken.of(arrival, address, () => {
      const family = familyOf(address);
      const { sources } = this.entries.of(arrival, family);
      const taken: Outcome[] = [];
      let left: Region = sources.isEmpty
        ? []
        : [{ sources, destinations: IpSet.ofAddresses([address]), services: ServiceSet.all }];
      for (const door of doors) left = this.throughDoor(arrival, door, left, family, taken);
      const services = taken.reduce((set, o) => set.union(o.flows.services), ServiceSet.empty);
      return { taken, left, services };
    });
    return made.taken.length ? made : undefined;
  }

  /** The table in which the inside address of a door is looked up, for what arrives at a table. */
  tableOf(arrival: string, rule: DoorRule): string {
    return interfaceNamed(this.model.site, rule.on)?.table ?? arrival;
  }

  /** The doors at an address that are open to anybody who arrives by an interface. */
  openAt(arrival: Interface, address: Ip): readonly DoorRule[] {
    const known = this.open.of(arrival.table, arrival.zone, () => new Map());
    return memo(known, address, () =>
      (this.byAddress.get(address) ?? []).filter((door) => this.lets(arrival, door)),
    );
  }

  private lets(arrival: Interface, rule: DoorRule): boolean {
    return (
      !!rule.sources ||
      !!arrival.zone?.upstream ||
      this.piecesOf(rule, familyOf(rule.inside)).some((p) => this.permits(arrival, rule, p).length > 0)
    );
  }

  /** For a door that leaves it to the statements of passing: what they let through it, as it is asked for. */
  private permits(arrival: Interface, rule: DoorRule, piece: Piece): Region {
    const way = this.ways.wayOf(this.tableOf(arrival.table, rule), rule.inside);
    const departure = this.ways.departureOf(way.route);
    const [from, to] = [arrival.zone, departure?.zone];
    if (!from || !to) return [];
    let known = this.permitted.get(piece);
    if (!known) this.permitted.set(piece, (known = new Pairs()));
    return known.of(from, to, () => {
      const family = familyOf(rule.inside);
      const asked: Block = { sources: ALL[family], destinations: ALL[family], services: piece.services };
      const there = inside(asked, rule, piece.shift);
      return this.policy
        .between(from.name, to.name, family)
        .filter((d) => passes(d, from))
        .flatMap((d) => meet(there, d.flows) ?? [])
        .map((flows) => ({
          sources: flows.sources,
          destinations: ALL[family],
          services: flows.services.shifted(-piece.shift),
        }));
    });
  }

  /** Sends what a door takes of a region on its way, and returns what it leaves. */
  private throughDoor(
    arrival: Interface,
    rule: DoorRule,
    region: Region,
    family: Family,
    out: Outcome[],
  ): Region {
    const table = this.tableOf(arrival.table, rule);
    let left = region;
    for (const piece of this.piecesOf(rule, family)) {
      const { services, shift } = piece;
      const named: Block = {
        sources: rule.sources?.only(family) ?? ALL[family],
        destinations: ALL[family],
        services,
      };
      const takes = rule.sources || arrival.zone?.upstream ? [named] : this.permits(arrival, rule, piece);
      for (const flows of takes.flatMap((block) => within(left, block))) {
        const asked = flows.destinations;
        left = cut(left, flows);
        const leg: Leg = { flows: inside(flows, rule, shift), table, door: rule, shift, asked };
        this.onward.route(arrival, leg, this.ways.wayOf(table, rule.inside).route, family, out);
      }
    }
    return left;
  }

  private piecesOf(rule: DoorRule, family: Family): readonly Piece[] {
    return memo(this.pieces, rule, () => piecesOf(rule, family));
  }
}

/** Flows after a door. */
const inside = (flows: Block, rule: DoorRule, shift: number): Block => ({
  sources: flows.sources,
  destinations: IpSet.ofAddresses([rule.inside]),
  services: flows.services.shifted(shift),
});

/** The services of a door in pieces that lead to inside ports by one shift each. */
function piecesOf(rule: DoorRule, family: Family): Piece[] {
  type Ports = Extract<ServiceItem, { kind: 'ports' }>;
  const ports = (items: readonly ServiceItem[]) => items.filter((s): s is Ports => s.kind === 'ports');
  const to = ports(rule.insideServices);
  let left = ServiceSet.of(rule.services, family);
  const out: { services: ServiceSet; shift: number }[] = [];
  for (const [i, item] of ports(rule.services).entries()) {
    const set = ServiceSet.of([item], family);
    const services = left.intersect(set);
    if (!services.isEmpty) out.push({ services, shift: to[i] ? to[i].first - item.first : 0 });
    left = left.minus(set);
  }
  if (!left.isEmpty) out.push({ services: left, shift: 0 });
  return out;
}
