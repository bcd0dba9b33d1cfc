/**
 * What the box does with every flow that arrives by one interface, as blocks: the same steps in the same order as the
 * one packet takes on the bench, on sets, a room for each stage. Nothing of `decide` is called here, so that the two can
 * judge each other.
 */
import { ServiceSet, familyOf } from '#core/addr';
import type { Family } from '#core/addr';
import { Pairs, extend, memo } from '#core/base';
import type { Model } from '#core/model';
import type { DoorRule } from '#core/semantics';
import type { Interface } from '#core/site';
import { ALL, FAMILIES, cut, meet, within } from './block';
import type { Block, Region } from './block';
import { Doors } from './doors';
import { Entries } from './entry';
import { Leaving } from './leave';
import { Onward } from './onward';
import { NOTHING } from './outcome';
import type { Outcome } from './outcome';
import { Policy, regionOf } from './policy';
import { NOWHERE, Ways } from './ways';
import type { Way } from './ways';

/** Follows the flows of one moment of a box through its stages; what each stage works out is kept by its inputs. */
export class Follower {
  readonly ways: Ways;
  readonly entries: Entries;
  readonly policy: Policy;
  readonly leaving: Leaving;
  readonly onward: Onward;
  readonly doors: Doors;
  private readonly outcomes = {
    4: new Map<Interface, readonly Outcome[]>(),
    6: new Map<Interface, readonly Outcome[]>(),
  };
  private readonly departed = {
    4: new Pairs<Interface, Interface, readonly Outcome[]>(),
    6: new Pairs<Interface, Interface, readonly Outcome[]>(),
  };
  private readonly boxwards = {
    4: new Map<Interface, readonly Outcome[]>(),
    6: new Map<Interface, readonly Outcome[]>(),
  };
  private readonly partners = new Map<string, ReadonlySet<string>>();

  constructor(private readonly model: Model) {
    this.ways = new Ways(model);
    this.entries = new Entries(model, this.ways);
    this.policy = new Policy(model.rules.passages, model.site.zones);
    this.leaving = new Leaving(model);
    this.onward = new Onward(model, this.ways, this.policy, this.leaving);
    this.doors = new Doors(model, this.ways, this.entries, this.policy, this.onward);
  }

  /** Every flow of a family that may arrive by an interface, in blocks that share none and leave none out. */
  follow(arrival: Interface, family: Family): readonly Outcome[] {
    return memo(this.outcomes[family], arrival, () => {
      const { sources, ended: out } = this.entries.of(arrival, family);
      if (sources.isEmpty) return out;
      const all = [...out];
      for (const address of this.doors.byAddress.keys())
        if (familyOf(address) === family) extend(all, this.doors.at(arrival, address)?.taken ?? []);
      extend(all, this.boxward(arrival, family));
      const beyond = ALL[family].minus(this.ways.ownOf(arrival.table, family));
      const nowhere = beyond.intersect(NOWHERE[family]);
      const flows = { sources, destinations: nowhere, services: ServiceSet.all };
      if (!nowhere.isEmpty)
        extend(all, this.doors.leftOf({ arrival, flows, end: 'nowhere' }, this.doors.byAddress.keys()));
      for (const way of this.ways.waysOf(arrival.table, family)) {
        const doors = this.doors.doorsIn(way.open);
        extend(
          all,
          this.led(arrival, way, family).flatMap((o) => this.doors.leftOf(o, doors)),
        );
      }
      return all;
    });
  }

  /** The names of the interfaces by which something of what arrives at a table might leave without a door. */
  waysOut(table: string): ReadonlySet<string> {
    return memo(this.partners, table, () => {
      const out = new Set(FAMILIES.flatMap((family) => [...this.ways.waysBySide(table, family).keys()]));
      for (const iface of this.ways.interfaces.values()) if (this.onward.isSent(iface)) out.add(iface.name);
      return out;
    });
  }

  /** Of what arrives by one interface, what leaves by another without a door: of flows between these addresses. */
  between(
    arrival: Interface,
    departure: Interface,
    family: Family,
    { sources, destinations }: Pick<Block, 'sources' | 'destinations'>,
  ): readonly Outcome[] {
    const all = this.departedBy(arrival, departure, family);
    if (!all.length || destinations.isEmpty) return NOTHING;
    const wanted = { sources, destinations, services: ServiceSet.all };
    const doors = this.doors.doorsIn(destinations);
    return all.flatMap((outcome) => {
      const flows = meet(outcome.flows, wanted);
      if (!flows) return NOTHING;
      const own = flows === outcome.flows ? outcome : { ...outcome, flows };
      return doors.length ? this.doors.leftOf(own, doors) : [own];
    });
  }

  /** What would leave if there were no doors: they take theirs where somebody asks, which is seldom where they are. */
  private departedBy(arrival: Interface, departure: Interface, family: Family): readonly Outcome[] {
    const ways = this.onward.isSent(departure)
      ? this.ways.waysOf(arrival.table, family)
      : this.ways.waysTo(arrival.table, departure.name, family);
    if (!ways.length) return NOTHING;
    return this.departed[family].of(arrival, departure, () =>
      ways
        .flatMap((way) => this.led(arrival, way, family, true))
        .filter((o) => o.end === 'departed' && o.departure === departure),
    );
  }

  /** Of what arrives by an interface, what a door takes and what leaves. */
  throughDoors(arrival: Interface, door: DoorRule): readonly Outcome[] {
    const taken = this.doors.at(arrival, door.outside)?.taken;
    return taken ? taken.filter((o) => o.door === door && o.end === 'departed') : NOTHING;
  }

  /** Of what arrives by an interface, what the box answers. */
  answered(arrival: Interface, family: Family): readonly Outcome[] {
    return this.boxward(arrival, family).filter((o) => o.end === 'box-answers');
  }

  /** Step 7 for what no door took. */
  private boxward(arrival: Interface, family: Family): readonly Outcome[] {
    return memo(this.boxwards[family], arrival, () => {
      const out: Outcome[] = [];
      const { sources } = this.entries.of(arrival, family);
      const destinations = this.ways.ownOf(arrival.table, family);
      if (sources.isEmpty || destinations.isEmpty) return out;
      let rest: Region = [{ sources, destinations, services: ServiceSet.all }];
      for (const answer of this.model.rules.answers.get(arrival.name) ?? []) {
        const takes = regionOf(answer, family);
        for (const flows of within(rest, takes))
          out.push({ arrival, flows, end: 'box-answers', statement: arrival.statement, answer });
        rest = cut(rest, takes);
      }
      for (const flows of rest) out.push({ arrival, flows, end: 'box-silent', statement: arrival.statement });
      return out.flatMap((o) => this.doors.leftOf(o, this.doors.byAddress.keys()));
    });
  }

  /** Steps 8 on for what one way leads on, as if there were no doors; what does not leave may be left out. */
  private led(arrival: Interface, way: Way, family: Family, departing = false): readonly Outcome[] {
    const { sources } = this.entries.of(arrival, family);
    if (sources.isEmpty || way.open.isEmpty) return NOTHING;
    const out: Outcome[] = [];
    const flows: Block = { sources, destinations: way.open, services: ServiceSet.all };
    this.onward.route(arrival, { flows, table: arrival.table, shift: 0, departing }, way.route, family, out);
    return out;
  }
}
