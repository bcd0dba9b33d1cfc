/**
 * What the answers of the reach are made from, as keys: two sites that give a question one key give it one answer.
 * Every key must name all that the answer reads; the law that a remembered table equals a fresh one holds it to that.
 */
import type { Family, Ip, IpSet, Services } from '#core/addr';
import { Pairs, extend, memo } from '#core/base';
import type { DoorRule, LeaveRule, PassageRule } from '#core/semantics';
import type { Interface, Zone } from '#core/site';
import { FAMILIES } from '../block';
import { arrivesAs } from '../outcome';
import type { ReachMemory } from './memory';
import type { Place } from '../places';
import type { Reach } from '../reach';

const text = (set: IpSet | undefined): string => set?.key ?? '*';
/** What answers about a site are made from, as a memory names it. */
export const contentFor = (reach: Reach, memory: ReachMemory): Content =>
  memo(
    memo(contents, reach, () => new WeakMap<ReachMemory, Content>()),
    memory,
    () => new Content(reach, memory),
  );
const contents = new WeakMap<Reach, WeakMap<ReachMemory, Content>>();

/** Services are taken over from text to text, so that most are known. */
const spelt = new WeakMap<Services, string>();
const asked = (services: Services): string => memo(spelt, services, () => JSON.stringify(services));

export class Content {
  private readonly lists = new Pairs<string, string, number>();
  private readonly entries = { 4: new Map<Interface, number>(), 6: new Map<Interface, number>() };
  private readonly ways = {
    4: new Pairs<string, string, number>(),
    6: new Pairs<string, string, number>(),
  };
  private readonly departures = new Pairs<number, Interface, number>();
  private readonly doors = new Pairs<Interface, Ip, string>();
  private readonly places = new Map<Place, number>();
  private readonly zones = new Map<Zone, number>();
  private readonly cores = new Map<Interface, number>();
  private readonly sets = new Map<IpSet, number>();
  private readonly sides = new Map<Interface, number>();
  private readonly doorways = new Map<Interface, number>();
  private readonly leavings = new Map<Interface, number>();
  private readonly wholes = new Map<Interface, number>();
  private readonly plain = new Map<Interface, boolean>();
  private readonly byTable = new Map<string, number>();
  private readonly byDoors = new Map<string, number>();
  private readonly passed = {
    4: new Pairs<Interface, Interface, number>(),
    6: new Pairs<Interface, Interface, number>(),
  };
  private readonly left = new Map<Interface | undefined, number>();
  private readonly leaveIds = new Map<LeaveRule, number>();
  private readonly lines = { 4: new Map<string, number>(), 6: new Map<string, number>() };
  private sendings?: number;

  constructor(
    private readonly reach: Reach,
    private readonly memory: ReachMemory,
  ) {}

  /** A place, with all that delivery to and from it depends on. */
  place(place: Place, family: Family): number {
    return memo(this.places, place, () => {
      const { delivery } = this.reach;
      const { at, addresses, beyond, station } = place;
      // Where a plain host sends follows from the interface's addresses and what it claims.
      const own = station || beyond;
      const any = own && delivery.sendsToBox(place, family, 'anything');
      const routed = own && delivery.sendsToBox(place, family, 'routed');
      return this.memory.id(
        [
          at.name,
          at.table,
          at.zone?.name,
          this.addresses(at),
          beyond,
          station ? 'station' : '',
          place.far?.name,
          addresses.key,
          any && `${any.destinations.key} ${any.onLink.key}`,
          routed && routed.destinations.key,
          delivery.backTo(place, family).key,
          delivery.claims(at).key,
          at.uplink ? this.linesOf(at.table, family) : '',
        ].join('|'),
      );
    });
  }

  private linesOf(table: string, family: Family): number {
    const { model, delivery } = this.reach;
    return memo(this.lines[family], table, () =>
      this.memory.id(
        model.site.interfaces
          .filter((i) => i.uplink && i.table === table)
          .map((i) => delivery.lineText(i, family))
          .join('|'),
      ),
    );
  }

  /** The addresses of an interface, the primary one first. */
  private addresses(iface: Interface): string {
    const own = this.reach.model.states.get(iface.name)?.addresses ?? [];
    return own.map((a) => `${a.address}/${a.length}`).join(',');
  }

  // What becomes of what arrives by an interface, by how much of it can matter to a goal: leaving and sending do
  // only where something leaves by a statement, doors only where their addresses lie.

  /** For a goal at plain interfaces. */
  core(from: Interface): number {
    return memo(this.cores, from, () =>
      this.memory.id(
        `${this.entry(from, 4)} ${this.entry(from, 6)} ${this.table(from.table)} ${this.zone(from.zone)}`,
      ),
    );
  }

  /** For one door: the goal names it, and where it leads from each table. */
  byDoor(from: Interface): number {
    return memo(this.doorways, from, () =>
      this.memory.id(
        `${this.entry(from, 4)} ${this.entry(from, 6)} ${from.table} ${this.zone(from.zone)} ${this.leaves(from)} ${this.sends()}`,
      ),
    );
  }

  /** For a goal without doors. */
  leaving(from: Interface): number {
    return memo(this.leavings, from, () =>
      this.memory.id(`${this.core(from)} ${this.leaves(from)} ${this.sends()}`),
    );
  }

  /** For any goal. */
  whole(from: Interface): number {
    return memo(this.wholes, from, () => this.memory.id(`${this.leaving(from)} ${this.doorsOf(from.table)}`));
  }

  /** Whether nothing that leaves by an interface meets a statement of leaving or sending. */
  isPlain(iface: Interface): boolean {
    return memo(this.plain, iface, () => {
      const { follower, model } = this.reach;
      const { rules } = model;
      return !follower.onward.isSent(iface) && !rules.leaves.some((r) => r.out.has(iface.name));
    });
  }

  /** The ways out of a table, and whom they lead to. */
  private table(name: string): number {
    return memo(this.byTable, name, () => {
      const { follower } = this.reach;
      const ways = FAMILIES.flatMap((f) =>
        follower.ways.waysOf(name, f).map((w) => {
          const by = w.route?.interface;
          return `${by} ${by && follower.ways.interfaces.get(by)?.zone?.name} ${w.route?.via} ${w.destinations.key}`;
        }),
      );
      return this.memory.id(
        `${name} ${ways.join('|')} ${FAMILIES.map((f) => follower.ways.ownOf(name, f).key).join()}`,
      );
    });
  }

  /** All doors, and where they lead from a table. */
  private doorsOf(table: string): number {
    return memo(this.byDoors, table, () => {
      const led = this.reach.model.rules.doors.map((rule) => `${this.rule(rule)} ${this.leads(table, rule)}`);
      return this.memory.id(led.join('|'));
    });
  }

  /** By what way a door leads to its inside address, for what arrives at a table. */
  private leads(table: string, rule: DoorRule): string {
    const { follower } = this.reach;
    const { route } = follower.ways.wayOf(follower.doors.tableOf(table, rule), rule.inside);
    const to = route?.interface === undefined ? undefined : follower.ways.interfaces.get(route.interface);
    return to ? `${route!.via} ${this.side(to)}` : '';
  }

  /** An interface that flows leave by. */
  private side(to: Interface): number {
    return memo(this.sides, to, () =>
      this.memory.id(`${to.name} ${to.zone?.name} ${to.uplink} ${this.addresses(to)}`),
    );
  }

  /** The statements of leaving that what arrives by an interface may meet; all of them without one. */
  private leaves(from?: Interface): number {
    return memo(this.left, from, () => {
      const own = this.reach.model.rules.leaves.filter((r) => !from || arrivesAs(r.arrival, from));
      return this.memory.id(own.map((r) => this.leaveId(r)).join());
    });
  }

  private leaveId(rule: LeaveRule): number {
    const { arrival, out } = rule;
    return memo(this.leaveIds, rule, () =>
      this.memory.id(`${this.rule(rule)} ${arrival?.zone} ${arrival?.interface} ${[...out].join(',')}`),
    );
  }

  /** A door as a goal: all doors at its address, where they lead, and who is behind it. */
  door(rule: DoorRule, places: readonly (readonly [Place, Family])[]): number {
    const { ways, doors } = this.reach.follower;
    const beside = (doors.byAddress.get(rule.outside) ?? []).map(
      (d) => `${this.rule(d)} ${[...ways.own.keys()].map((table) => this.leads(table, d)).join()}`,
    );
    return this.memory.id(
      `door ${rule.name} ${beside.join(' ')} to ${places.map(([p, f]) => this.place(p, f)).join()}`,
    );
  }

  /** What passes from one place to another without a door. */
  passing(from: Place, to: Place, family: Family): string {
    const way = this.passingBy(from.at, to.at, family);
    const doors = this.doorsAmong(from.at, to.addresses);
    // Who takes the asker for no neighbour answers over the box, to where doors may be too.
    if (from.at === to.at) extend(doors, this.doorsAmong(from.at, from.addresses));
    return `${way} ${doors.join(';')} to ${this.place(to, family)}`;
  }

  private passingBy(from: Interface, to: Interface, family: Family): number {
    return this.passed[family].of(from, to, () => this.memory.id(this.passingText(from, to, family)));
  }

  private passingText(from: Interface, to: Interface, family: Family): string {
    const { follower } = this.reach;
    if (from !== to && !follower.waysOut(from.table).has(to.name)) return 'apart';
    const ways = this.waysTo(from.table, to.name, family);
    const sent = follower.onward.isSent(to) ? this.sends() : '';
    return `${this.entry(from, family)} ${ways} ${this.between(from.zone, to.zone)} ${this.departure(from, to)} ${sent}`;
  }

  /** The doors among addresses that take anything of what arrives. */
  private doorsAmong(from: Interface, addresses: IpSet): string[] {
    const { follower } = this.reach;
    const open = follower.doors.doorsIn(addresses).filter((a) => follower.doors.openAt(from, a).length > 0);
    return open.map((a) => this.doorsAt(from, a));
  }

  /** What passes through the doors at one address. */
  doorsAt(from: Interface, address: Ip): string {
    return this.doors.of(from, address, () => {
      const { follower } = this.reach;
      const doors = follower.doors.openAt(from, address);
      const led = doors.map((rule) => {
        const { route } = follower.ways.wayOf(follower.doors.tableOf(from.table, rule), rule.inside);
        const to = route?.interface === undefined ? undefined : follower.ways.interfaces.get(route.interface);
        const way = to ? `${to.name} ${this.between(from.zone, to.zone)} ${this.departure(from, to)}` : '';
        return `${this.rule(rule)} ${route?.via} ${way}`;
      });
      const sent = doors.length ? this.sends() : '';
      return `${String(address)} ${from.zone?.upstream} ${sent} ${led.join(';')}`;
    });
  }

  /** What the box answers to somebody who arrives by an interface. */
  answers(from: Interface, family: Family): string {
    const { follower, model } = this.reach;
    const { rules } = model;
    const own = follower.ways.ownOf(from.table, family);
    const answers = (rules.answers.get(from.name) ?? []).map(
      (a) => `${asked(a.services)} ${text(a.sources)}`,
    );
    const doored = this.doorsAmong(from, own);
    return `${this.entry(from, family)} ${own.key} ${answers.join(',')} ${doored.join(';')}`;
  }

  entry(from: Interface, family: Family): number {
    return memo(this.entries[family], from, () =>
      this.memory.id(`${from.name} ${this.set(this.reach.follower.entries.of(from, family).sources)}`),
    );
  }

  /** Names a set that many interfaces share. */
  private set(set: IpSet): number {
    return memo(this.sets, set, () => this.memory.id(set.key));
  }

  private waysTo(table: string, name: string, family: Family): number {
    return this.ways[family].of(table, name, () =>
      this.memory.id(
        this.reach.follower.ways
          .waysTo(table, name, family)
          .map((w) => `${w.route?.via} ${w.destinations.key} ${w.open.key}`)
          .join('|'),
      ),
    );
  }

  /** The statements of passing from one zone to another, in their order; 0 where a side has none. */
  between(a: Zone | undefined, b: Zone | undefined): number {
    if (!a || !b) return 0;
    return this.lists.of(a.name, b.name, () => {
      const rules = this.reach.follower.policy.rulesBetween(a.name, b.name).map((r) => this.rule(r));
      return this.memory.id(`${a.name}>${b.name} ${a === b ? a.within : ''} ${rules.join(' ')}`);
    });
  }

  /** What flows from one interface meet as they leave by another. */
  private departure(from: Interface, to: Interface): number {
    // Whoever may meet the same statements meets the same ones there.
    return this.departures.of(this.leaves(from), to, () => {
      const { follower } = this.reach;
      const rules = follower.leaving.leavesBetween(from, to).map((r) => this.rule(r));
      return this.memory.id(`${to.zone?.name} ${this.addresses(to)} ${rules.join(' ')}`);
    });
  }

  /** Everything that statements of sending and shares read: rarely there, so all of it. */
  private sends(): number {
    const { rules, routes, states } = this.reach.model;
    if (!rules.sends.length && !rules.shares.length) return 0;
    return (this.sendings ??= this.memory.id(
      [
        ...rules.sends.map(
          (s) =>
            `${s.arrival?.zone} ${s.arrival?.interface} ${text(s.sources)} ${asked(s.services)} ${s.by} ${JSON.stringify(s.otherwise)}`,
        ),
        ...rules.shares.map(
          (s) =>
            `${s.table} ${s.uplinks.map((u) => `${u.name}*${u.weight}`).join()} ${[...s.from].map(([name, set]) => `${name} ${set.key}`).join()}`,
        ),
        ...routes.map(
          (r) =>
            `${r.table} ${r.prefix.address}/${r.prefix.length} ${r.via} ${r.interface} ${r.distance} ${r.priority} ${r.usable}`,
        ),
        ...[...states].map(([name, s]) => `${name} ${s.up} ${s.alive}`),
        ...this.reach.model.site.zones.map((z) => this.zone(z)),
        this.leaves(),
      ].join('|'),
    ));
  }

  private zone(zone: Zone | undefined): number {
    if (!zone) return 0;
    return memo(this.zones, zone, () => {
      const rules = this.reach.follower.policy.rulesFrom(zone.name).map((r) => this.rule(r));
      return this.memory.id(`${zone.name} ${zone.within} ${zone.upstream} ${rules.join(' ')}`);
    });
  }

  private rule(rule: PassageRule | LeaveRule | DoorRule): number {
    return memo(this.memory.rules, rule, () => this.memory.id(ruleText(rule)));
  }
}

function ruleText(rule: PassageRule | LeaveRule | DoorRule): string {
  if ('verdict' in rule)
    return `${rule.from}>${rule.to} ${rule.verdict} ${asked(rule.services)} ${text(rule.sources)} ${text(rule.destinations)}`;
  if ('action' in rule)
    return `${rule.family} ${text(rule.sources)} ${rule.action.as} ${rule.action.as === 'address' ? rule.action.address : rule.action.as === 'prefix' ? `${rule.action.to.address}/${rule.action.to.length}` : ''}`;
  return `${rule.name} ${rule.outside} ${asked(rule.services)} > ${rule.inside} ${asked(rule.insideServices)} ${rule.on} ${text(rule.sources)}`;
}
