/**
 * What the box does with every flow that arrives by one interface, as blocks: the same steps in the same order as the
 * one packet takes on the bench, on sets. Nothing of `decide` is called here, so that the two can judge each other.
 */
import { IpSet, NOBODYS_SOURCES, ServiceSet, UNROUTED, compareIp, contains, familyOf } from '#core/addr';
import type { Family, Ip, Prefix, ServiceItem } from '#core/addr';
import { Pairs, extend, memo } from '#core/base';
import type { Model } from '#core/model';
import type { Statement } from '#core/notation';
import { inOrder } from '#core/semantics';
import type {
  AnswerRule,
  DoorRule,
  LeaveRule,
  PassageRule,
  Route,
  Rules,
  SendRule,
  States,
} from '#core/semantics';
import { interfaceNamed, wantsDelegation } from '#core/site';
import type { Interface, Site, Zone } from '#core/site';
import { ALL, FAMILIES, SPECIAL, cut, meet, tidy, within } from './block';
import type { Block, Region } from './block';

/** How a flow ends at the box. All but `departed` and `box-answers` are the end of it. */
export type End =
  | 'not-spoken'
  | 'own-source'
  | 'no-route-back'
  | 'guard'
  | 'box-answers'
  | 'box-silent'
  | 'nowhere'
  | 'send-never'
  | 'no-route'
  | 'dropped'
  | 'dropped-default'
  | 'dropped-within'
  | 'rejected'
  | 'left-never'
  | 'departed';

export interface Outcome {
  readonly arrival: Interface;
  /** The flows as they arrive, all of which end alike. */
  readonly flows: Block;
  readonly end: End;
  /** The statement that decided, where one did. */
  readonly statement?: Statement;
  readonly departure?: Interface;
  readonly route?: Route;
  readonly door?: DoorRule;
  /** With a door: how much higher the inside port is than the one asked for. */
  readonly shift?: number;
  readonly leave?: LeaveRule;
  /** The source address that the flow shows as it leaves; absent: its own. */
  readonly shown?: Ip;
  readonly answer?: AnswerRule;
}

/** Services of a door that lead to inside ports by one shift. */
interface Piece {
  readonly services: ServiceSet;
  readonly shift: number;
}

/** Flows after a door, or as they came, with the way back to how they arrived. */
interface Leg {
  readonly flows: Block;
  readonly table: string;
  readonly door?: DoorRule;
  readonly shift: number;
  /** What the flows were sent to. */
  readonly asked?: IpSet;
  /** Only what leaves is asked for. */
  readonly departing?: boolean;
}

/** Destinations by the route that is taken to them. */
interface Span {
  readonly route?: Route;
  readonly destinations: IpSet;
}

interface Way extends Span {
  /** What of it is not the box's and can be routed. */
  readonly open: IpSet;
}

interface Entry {
  readonly sources: IpSet;
  readonly ended: readonly Outcome[];
}

/** What the doors at one address take, and what of the flows to it they leave. */
interface AtDoors {
  readonly taken: readonly Outcome[];
  /** The services of what they take. */
  readonly services: ServiceSet;
  readonly left: Region;
}

/** Flows between two zones of which one statement says what becomes, or none does. */
interface Decision {
  readonly flows: Block;
  readonly verdict: PassageRule['verdict'] | 'within' | 'default';
  readonly rule?: PassageRule;
}

const passes = (d: { readonly verdict: Decision['verdict'] }, from: Zone): boolean =>
  d.verdict === 'allow' || (d.verdict === 'within' && from.within === 'allow');

const ENDS: Record<Exclude<Decision['verdict'], 'allow'>, End> = {
  drop: 'dropped',
  reject: 'rejected',
  within: 'dropped-within',
  default: 'dropped-default',
};

const NOTHING: readonly Outcome[] = [];
/** What is said of all flows where a side has no zone. */
const UNRULED: readonly (Omit<Decision, 'flows'> & { readonly flows?: undefined })[] = [
  { verdict: 'default' },
];
const NO_WAYS: readonly Way[] = [];
const NOBODYS = {
  4: IpSet.ofPrefixes(NOBODYS_SOURCES[4]),
  6: IpSet.ofPrefixes(NOBODYS_SOURCES[6]),
} as const;
const NOWHERE = { 4: IpSet.ofPrefixes(UNROUTED[4]), 6: IpSet.ofPrefixes(UNROUTED[6]) } as const;
/** Sources that are good on one link only, whose flows are no business of routing. */
const NEAR = { 4: IpSet.empty, 6: IpSet.parse('fe80::/10') } as const;

/** Everything about one moment of a box that following flows needs, each piece worked out once. */
export class Follower {
  private readonly ways = new Map<string, readonly Way[]>();
  private readonly lists = new Pairs<string, string, readonly PassageRule[]>();
  private readonly policies = {
    4: new Pairs<string, string, readonly Decision[]>(),
    6: new Pairs<string, string, readonly Decision[]>(),
  };
  private readonly outcomes = new Map<string, readonly Outcome[]>();
  private readonly crossings = {
    4: new Pairs<Interface, Interface, readonly Outcome[]>(),
    6: new Pairs<Interface, Interface, readonly Outcome[]>(),
  };
  private readonly entries = { 4: new Map<Interface, Entry>(), 6: new Map<Interface, Entry>() };
  private readonly boxwards = {
    4: new Map<Interface, readonly Outcome[]>(),
    6: new Map<Interface, readonly Outcome[]>(),
  };
  private readonly leaves = new Pairs<Interface, Interface, readonly LeaveRule[]>();
  private readonly partners = new Map<string, ReadonlySet<string>>();
  private readonly takenBy = new Pairs<Interface, Ip, AtDoors>();
  private readonly open = new Pairs<string, Zone | undefined, Map<Ip, readonly DoorRule[]>>();
  private readonly permitted = new Map<Piece, Pairs<Zone, Zone, Region>>();
  private readonly waysByInterface = {
    4: new Map<string, ReadonlyMap<string, readonly Way[]>>(),
    6: new Map<string, ReadonlyMap<string, readonly Way[]>>(),
  };
  private readonly spans = new Map<string, readonly Span[]>();
  private readonly sources = {
    4: new Map<string, Record<'own' | 'away' | 'back', IpSet>>(),
    6: new Map<string, Record<'own' | 'away' | 'back', IpSet>>(),
  };
  private readonly sorted = {
    4: new Map<string, readonly { readonly first: Ip; readonly way: Way }[]>(),
    6: new Map<string, readonly { readonly first: Ip; readonly way: Way }[]>(),
  };
  private readonly pieces = new Map<DoorRule, readonly Piece[]>();
  readonly doorsAt = new Map<Ip, DoorRule[]>();
  private readonly doored = new WeakMap<IpSet, readonly Ip[]>();
  private doorways?: IpSet;
  private readonly byFrom = new Map<string, readonly PassageRule[]>();
  /** The box's own addresses, by table. */
  readonly own = new Map<string, IpSet>();
  /** Those that are not off, by name. */
  readonly interfaces = new Map<string, Interface>();

  readonly site: Site;
  readonly rules: Rules;
  readonly states: States;
  readonly routes: readonly Route[];

  constructor({ site, rules, states, routes }: Model) {
    this.site = site;
    this.rules = rules;
    this.states = states;
    this.routes = routes;
    const own = new Map<string, Ip[]>();
    for (const iface of site.interfaces) {
      if (iface.off) continue;
      this.interfaces.set(iface.name, iface);
      const list = own.get(iface.table) ?? [];
      own.set(iface.table, list);
      extend(list, states.get(iface.name)?.addresses.map((a) => a.address) ?? []);
    }
    for (const [table, list] of own) this.own.set(table, IpSet.ofAddresses(list));
    for (const door of rules.doors)
      if (familyOf(door.inside) === familyOf(door.outside))
        this.doorsAt.set(door.outside, [...(this.doorsAt.get(door.outside) ?? []), door]);
    for (const from of site.zones.map((z) => z.name))
      this.byFrom.set(
        from,
        rules.passages.filter((r) => r.from === 'any' || r.from === from),
      );
  }

  /** Every flow of a family that may arrive by an interface, in blocks that share none and leave none out. */
  follow(arrival: Interface, family: Family): readonly Outcome[] {
    return memo(this.outcomes, `${family} ${arrival.name}`, () => {
      const { sources, ended: out } = this.entry(arrival, family);
      if (sources.isEmpty) return out;
      const all = [...out];
      for (const address of this.doorsAt.keys())
        if (familyOf(address) === family) extend(all, this.atDoors(arrival, address)?.taken ?? []);
      extend(all, this.boxward(arrival, family));
      const beyond = ALL[family].minus(this.ownOf(arrival.table, family));
      const nowhere = beyond.intersect(NOWHERE[family]);
      const flows = { sources, destinations: nowhere, services: ServiceSet.all };
      if (!nowhere.isEmpty)
        extend(all, this.withoutDoors({ arrival, flows, end: 'nowhere' }, this.doorsAt.keys()));
      for (const way of this.waysOf(arrival.table, family)) {
        const doors = this.doorsIn(way.open);
        extend(
          all,
          this.onward(arrival, way, family).flatMap((o) => this.withoutDoors(o, doors)),
        );
      }
      return all;
    });
  }

  /** The names of the interfaces by which something of what arrives at a table might leave without a door. */
  waysOut(table: string): ReadonlySet<string> {
    return memo(this.partners, table, () => {
      const out = new Set(FAMILIES.flatMap((family) => [...this.waysBySide(table, family).keys()]));
      for (const iface of this.interfaces.values()) if (this.isSent(iface)) out.add(iface.name);
      return out;
    });
  }

  /** Of what arrives by one interface, what leaves by another without a door: of flows between these addresses. */
  crossing(
    arrival: Interface,
    departure: Interface,
    family: Family,
    { sources, destinations }: Pick<Block, 'sources' | 'destinations'>,
  ): readonly Outcome[] {
    const all = this.crossingOf(arrival, departure, family);
    if (!all.length || destinations.isEmpty) return NOTHING;
    const wanted = { sources, destinations, services: ServiceSet.all };
    const doors = this.doorsIn(destinations);
    return all.flatMap((outcome) => {
      const flows = meet(outcome.flows, wanted);
      if (!flows) return NOTHING;
      const own = flows === outcome.flows ? outcome : { ...outcome, flows };
      return doors.length ? this.withoutDoors(own, doors) : [own];
    });
  }

  /** What would leave if there were no doors: they take theirs where somebody asks, which is seldom where they are. */
  private crossingOf(arrival: Interface, departure: Interface, family: Family): readonly Outcome[] {
    const ways = this.isSent(departure)
      ? this.waysOf(arrival.table, family)
      : this.waysTo(arrival.table, departure.name, family);
    if (!ways.length) return NOTHING;
    return this.crossings[family].of(arrival, departure, () =>
      ways
        .flatMap((way) => this.onward(arrival, way, family, true))
        .filter((o) => o.end === 'departed' && o.departure === departure),
    );
  }

  /** The addresses of doors among some. */
  doorsIn(addresses: IpSet): readonly Ip[] {
    return memo(this.doored, addresses, () => {
      const all = [...this.doorsAt.keys()];
      return addresses.meets((this.doorways ??= IpSet.ofAddresses(all)))
        ? all.filter((a) => addresses.has(a))
        : [];
    });
  }

  /** Of what arrives by an interface, what a door takes and what leaves. */
  throughDoors(arrival: Interface, door: DoorRule): readonly Outcome[] {
    const taken = this.atDoors(arrival, door.outside)?.taken;
    return taken ? taken.filter((o) => o.door === door && o.end === 'departed') : NOTHING;
  }

  /** Of what arrives by an interface, what the box answers. */
  answered(arrival: Interface, family: Family): readonly Outcome[] {
    return this.boxward(arrival, family).filter((o) => o.end === 'box-answers');
  }

  /** Steps 3 to 5: the sources whose flows go on, and how those of all others end. */
  entry(arrival: Interface, family: Family): Entry {
    return memo(this.entries[family], arrival, () => this.enter(arrival, family));
  }

  private enter(arrival: Interface, family: Family): Entry {
    const ended: Outcome[] = [];
    const all = ALL[family];
    const end = (sources: IpSet, end: End, statement?: Statement) => {
      if (!sources.isEmpty)
        ended.push({
          arrival,
          flows: { sources, destinations: all, services: ServiceSet.all },
          end,
          statement,
        });
    };
    if (family === 6 && !arrival.speaks6 && !wantsDelegation(this.site, arrival)) {
      end(all, 'not-spoken');
      return { sources: IpSet.empty, ended };
    }
    const { own, away, back } = this.sourcesTo(arrival.table, family);
    end(own, 'own-source');
    end(away, 'no-route-back', arrival.statement);
    let sources = back;
    if (arrival.guard) {
      const good = this.guarded(arrival, family);
      end(sources.minus(good), 'guard', arrival.statement);
      sources = sources.intersect(good);
    }
    return { sources, ended };
  }

  /** The sources of what arrives at a table: the box's own, those to whom no route leads back, and the others. */
  private sourcesTo(table: string, family: Family): Record<'own' | 'away' | 'back', IpSet> {
    return memo(this.sources[family], table, () => {
      const all = ALL[family].minus(NEAR[family]);
      const refused = this.ownOf(table, family).union(NOBODYS[family]);
      const left = all.minus(refused);
      const back = this.leadingTo(family, (r) => r.table === table && r.usable);
      return { own: all.intersect(refused), away: left.minus(back), back: left.intersect(back) };
    });
  }

  /** The box's own addresses of a table. */
  ownOf(table: string, family: Family): IpSet {
    return (this.own.get(table) ?? IpSet.empty).only(family);
  }

  /**
   * What is left of an outcome when the doors have taken theirs before. Asked of the outcome, not of what arrives: each
   * door has a service of its own, and only the few statements that take it need to be cut up for it.
   */
  private withoutDoors(outcome: Outcome, addresses: Iterable<Ip>): readonly Outcome[] {
    const { flows } = outcome;
    const left: Block[] = [];
    const taken: Ip[] = [];
    for (const address of addresses) {
      if (!flows.destinations.has(address)) continue;
      const doors = this.atDoors(outcome.arrival, address);
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

  /** Step 7 for what no door took. */
  private boxward(arrival: Interface, family: Family): readonly Outcome[] {
    return memo(this.boxwards[family], arrival, () => {
      const out: Outcome[] = [];
      const { sources } = this.entry(arrival, family);
      const destinations = this.ownOf(arrival.table, family);
      if (sources.isEmpty || destinations.isEmpty) return out;
      let rest: Region = [{ sources, destinations, services: ServiceSet.all }];
      for (const answer of this.rules.answers.get(arrival.name) ?? []) {
        const takes: Block = {
          sources: answer.sources?.only(family) ?? ALL[family],
          destinations: ALL[family],
          services: ServiceSet.of(answer.services, family),
        };
        for (const flows of within(rest, takes))
          out.push({ arrival, flows, end: 'box-answers', statement: arrival.statement, answer });
        rest = cut(rest, takes);
      }
      for (const flows of rest) out.push({ arrival, flows, end: 'box-silent', statement: arrival.statement });
      return out.flatMap((o) => this.withoutDoors(o, this.doorsAt.keys()));
    });
  }

  /** Steps 8 on for what one way leads on, as if there were no doors; what does not leave may be left out. */
  private onward(arrival: Interface, way: Way, family: Family, departing = false): readonly Outcome[] {
    const { sources } = this.entry(arrival, family);
    if (sources.isEmpty || way.open.isEmpty) return NOTHING;
    const out: Outcome[] = [];
    const flows: Block = { sources, destinations: way.open, services: ServiceSet.all };
    this.route(arrival, { flows, table: arrival.table, shift: 0, departing }, way.route, family, out);
    return out;
  }

  // ---- step 5

  private leadingTo(family: Family, which: (r: Route) => boolean): IpSet {
    return IpSet.ofPrefixes(
      this.routes.filter((r) => r.interface !== undefined && which(r)).map((r) => r.prefix),
    ).only(family);
  }

  private guarded(arrival: Interface, family: Family): IpSet {
    const elsewhere = this.leadingTo(
      family,
      (r) =>
        r.origin === 'connected' &&
        r.interface !== arrival.name &&
        r.table === arrival.table &&
        this.interfaces.get(r.interface!)?.table === arrival.table,
    );
    const here = IpSet.ofAddresses(this.states.get(arrival.name)?.addresses.map((a) => a.address) ?? []);
    const byHere = this.leadingTo(family, (r) => r.table === arrival.table && r.interface === arrival.name);
    return byHere.minus(SPECIAL[family]).minus(elsewhere).minus(here.only(family));
  }

  // ---- step 6

  /** What the doors at one address take of what arrives by an interface; undefined where that is nothing. */
  private atDoors(arrival: Interface, address: Ip): AtDoors | undefined {
    const doors = this.openAt(arrival, address);
    if (!doors.length) return undefined;
    const made = this.takenBy.of(arrival, address, () => {
      const family = familyOf(address);
      const { sources } = this.entry(arrival, family);
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
    return interfaceNamed(this.site, rule.on)?.table ?? arrival;
  }

  /** The doors at an address that are open to anybody who arrives by an interface. */
  openAt(arrival: Interface, address: Ip): readonly DoorRule[] {
    const known = this.open.of(arrival.table, arrival.zone, () => new Map());
    return memo(known, address, () =>
      (this.doorsAt.get(address) ?? []).filter((door) => this.lets(arrival, door)),
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
    const by = this.wayOf(this.tableOf(arrival.table, rule), rule.inside).route?.interface;
    const departure = by === undefined ? undefined : this.interfaces.get(by);
    const [from, to] = [arrival.zone, departure?.zone];
    if (!from || !to) return [];
    let known = this.permitted.get(piece);
    if (!known) this.permitted.set(piece, (known = new Pairs()));
    return known.of(from, to, () => {
      const family = familyOf(rule.inside);
      const asked: Block = { sources: ALL[family], destinations: ALL[family], services: piece.services };
      const there = inside(asked, rule, piece.shift);
      return this.policy(from.name, to.name, family)
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
        this.route(arrival, leg, this.wayOf(table, rule.inside).route, family, out);
      }
    }
    return left;
  }

  // ---- step 8

  /** The way that one address is reached from a table. */
  wayOf(table: string, address: Ip): Way {
    const all = this.partsOf(table, familyOf(address));
    let [low, high] = [0, all.length - 1];
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (compareIp(all[middle]!.first, address) > 0) high = middle - 1;
      else low = middle;
    }
    return all[low]!.way;
  }

  /** The ways of a table by the addresses they begin at. Together they hold every address once. */
  private partsOf(table: string, family: Family): readonly { readonly first: Ip; readonly way: Way }[] {
    return memo(this.sorted[family], table, () =>
      this.waysOf(table, family)
        .flatMap((way) => way.destinations.ranges.map(({ first }) => ({ first, way })))
        .sort((a, b) => compareIp(a.first, b.first)),
    );
  }

  private piecesOf(rule: DoorRule, family: Family): readonly Piece[] {
    return memo(this.pieces, rule, () => piecesOf(rule, family));
  }

  /** Every address of a family, by the route that is taken to it. */
  waysOf(table: string, family: Family): readonly Way[] {
    const key = `${family} ${table}`;
    const known = this.ways.get(key);
    if (known) return known;
    let left = ALL[family];
    const out: Way[] = [];
    for (const route of inOrder(this.routes, table, family)) {
      const prefix = IpSet.ofPrefixes([route.prefix]);
      const destinations = prefix.intersect(left);
      if (destinations.isEmpty) continue;
      out.push(this.wayBy(route, destinations, table, family));
      left = left.minus(prefix);
    }
    if (!left.isEmpty) out.push(this.wayBy(undefined, left, table, family));
    this.ways.set(key, out);
    return out;
  }

  private wayBy(route: Route | undefined, all: IpSet, table: string, family: Family): Way {
    const open = all.minus(this.ownOf(table, family)).minus(NOWHERE[family]);
    return { route, destinations: all, open };
  }

  /** The ways from a table by one interface. */
  waysTo(table: string, name: string, family: Family): readonly Way[] {
    return this.waysBySide(table, family).get(name) ?? NO_WAYS;
  }

  private waysBySide(table: string, family: Family): ReadonlyMap<string, readonly Way[]> {
    return memo(this.waysByInterface[family], table, () => {
      const sorted = new Map<string, Way[]>();
      for (const way of this.waysOf(table, family)) {
        const by = way.route?.interface;
        if (by !== undefined) memo(sorted, by, () => []).push(way);
      }
      return sorted;
    });
  }

  /** Whether statements of sending may lead flows to or away from an interface. */
  isSent(iface: Interface): boolean {
    return (
      this.rules.sends.length > 0 &&
      (iface.uplink ||
        this.rules.sends.some(
          ({ by, otherwise: other }) =>
            by === iface.name || (other && other !== 'never' && other.interface === iface.name),
        ))
    );
  }

  /** The destinations that routes by one interface lead to, the longest prefix first, whatever their table. */
  private waysBy(name: string, family: Family): readonly Span[] {
    const key = `${family} ${name}`;
    const known = this.spans.get(key);
    if (known) return known;
    let left = ALL[family];
    const out: Span[] = [];
    const own = this.routes.filter((r) => r.interface === name && familyOf(r.prefix.address) === family);
    for (const route of [...own].sort((a, b) => b.prefix.length - a.prefix.length)) {
      const prefix = IpSet.ofPrefixes([route.prefix]);
      const destinations = prefix.intersect(left);
      if (!destinations.isEmpty) out.push({ route, destinations });
      left = left.minus(prefix);
    }
    this.spans.set(key, out);
    return out;
  }

  private route(
    arrival: Interface,
    leg: Leg,
    usual: Route | undefined,
    family: Family,
    out: Outcome[],
  ): void {
    const outward = usual?.interface === undefined || !!this.interfaces.get(usual.interface)?.uplink;
    if (outward && this.rules.sends.length) this.send(arrival, leg, usual, family, out);
    else this.pass(arrival, leg, usual, out);
  }

  private send(arrival: Interface, leg: Leg, usual: Route | undefined, family: Family, out: Outcome[]): void {
    let left: Region = [leg.flows];
    for (const rule of this.rules.sends) {
      if (!left.length) return;
      if (!arrivesAs(rule.arrival, arrival)) continue;
      const takes: Block = {
        sources: rule.sources?.only(family) ?? ALL[family],
        destinations: ALL[family],
        services: ServiceSet.of(rule.services, family),
      };
      for (const flows of within(left, takes))
        this.sendBy(arrival, { ...leg, flows }, rule, usual, family, out);
      left = cut(left, takes);
    }
    for (const flows of left) this.pass(arrival, { ...leg, flows }, usual, out);
  }

  private sendBy(
    arrival: Interface,
    leg: Leg,
    rule: SendRule,
    usual: Route | undefined,
    family: Family,
    out: Outcome[],
  ): void {
    let { destinations } = leg.flows;
    const by = (name: string) => {
      const state = this.states.get(name);
      if (!state?.up || !state.alive) return;
      for (const way of this.waysBy(name, family)) {
        const here = destinations.intersect(way.destinations);
        if (here.isEmpty) continue;
        this.pass(arrival, { ...leg, flows: { ...leg.flows, destinations: here } }, way.route, out);
        destinations = destinations.minus(way.destinations);
      }
    };
    by(rule.by);
    if (destinations.isEmpty) return;
    const rest = (): Leg => ({ ...leg, flows: { ...leg.flows, destinations } });
    if (rule.otherwise === undefined) {
      this.pass(arrival, rest(), usual, out);
      return;
    }
    if (rule.otherwise !== 'never') by(rule.otherwise.interface);
    if (!destinations.isEmpty) out.push(ended(arrival, rest(), 'send-never', { statement: rule.statement }));
  }

  // ---- step 9

  /** The statements of passing from a zone, in their order. */
  rulesFrom(zone: string): readonly PassageRule[] {
    return this.byFrom.get(zone) ?? [];
  }

  /** The statements of passing between two zones, in their order. */
  rulesBetween(from: string, to: string): readonly PassageRule[] {
    return this.lists.of(from, to, () =>
      this.rulesFrom(from).filter((rule) => rule.to === 'any' || rule.to === to),
    );
  }

  /** All flows between two zones, by the first statement that takes them. */
  policy(from: string, to: string, family: Family): readonly Decision[] {
    return this.policies[family].of(from, to, () => {
      const out: Decision[] = [];
      let left: Region = [{ sources: ALL[family], destinations: ALL[family], services: ServiceSet.all }];
      for (const rule of this.rulesBetween(from, to)) {
        const takes = regionOf(rule, family);
        for (const flows of within(left, takes)) out.push({ flows, verdict: rule.verdict, rule });
        left = cut(left, takes);
      }
      for (const flows of left) out.push({ flows, verdict: from === to ? 'within' : 'default' });
      return out;
    });
  }

  private pass(arrival: Interface, leg: Leg, route: Route | undefined, out: Outcome[]): void {
    const departure = route?.interface === undefined ? undefined : this.interfaces.get(route.interface);
    if (!route || !departure) {
      out.push(ended(arrival, leg, 'no-route', {}));
      return;
    }
    if (leg.door) {
      this.leave(arrival, leg, route, departure, leg.door.statement, out);
      return;
    }
    const [from, to] = [arrival.zone, departure.zone];
    const policy = from && to ? this.policy(from.name, to.name, familyIn(leg.flows)) : UNRULED;
    for (const d of policy) {
      const good = from !== undefined && passes(d, from);
      if (leg.departing && !good) continue;
      const flows = d.flows ? meet(leg.flows, d.flows) : leg.flows;
      if (!flows) continue;
      const piece: Leg = { ...leg, flows };
      const statement = d.rule?.statement ?? (d.verdict === 'within' ? from!.statement : undefined);
      if (good) this.leave(arrival, piece, route, departure, statement, out);
      else
        out.push(
          ended(arrival, piece, ENDS[d.verdict as keyof typeof ENDS], { statement, departure, route }),
        );
    }
  }

  // ---- step 10

  /** The statements of leaving that flows between two interfaces meet, in their order. */
  leavesBetween(arrival: Interface, departure: Interface): readonly LeaveRule[] {
    return this.leaves.of(arrival, departure, () =>
      this.rules.leaves.filter((r) => r.out.has(departure.name) && arrivesAs(r.arrival, arrival)),
    );
  }

  private leave(
    arrival: Interface,
    leg: Leg,
    route: Route,
    departure: Interface,
    statement: Statement | undefined,
    out: Outcome[],
  ): void {
    const own = this.states.get(departure.name)?.addresses ?? [];
    const family = familyIn(leg.flows);
    const mine = own.filter((a) => familyOf(a.address) === family);
    const go = (flows: Block, shown?: Ip, leave?: LeaveRule) =>
      out.push(ended(arrival, leg, 'departed', { statement, departure, route, shown, leave }, flows));
    if (leg.door && departure === arrival) {
      // Out by where it came in: the target must answer the box, not the asker beside it (hairpin).
      const near = mine.find((a) => contains(a, leg.door!.inside)) ?? mine[0];
      if (near) {
        go(leg.flows, near.address);
        return;
      }
    }
    let { sources } = leg.flows;
    for (const rule of this.leavesBetween(arrival, departure)) {
      if (rule.family !== family) continue;
      const taken = rule.sources ? sources.intersect(rule.sources) : sources;
      if (taken.isEmpty) continue;
      sources = sources.minus(taken);
      const flows: Block = { ...leg.flows, sources: taken };
      if (rule.action.as === 'never')
        out.push(ended(arrival, leg, 'left-never', { statement: rule.statement, departure, route }, flows));
      else go(flows, shownBy(rule, mine), rule);
      if (sources.isEmpty) return;
    }
    go({ ...leg.flows, sources });
  }
}

/** The flows that a statement of passing is about. */
export const regionOf = (rule: PassageRule, family: Family): Block => ({
  sources: rule.sources?.only(family) ?? ALL[family],
  destinations: rule.destinations?.only(family) ?? ALL[family],
  services: ServiceSet.of(rule.services, family),
});

const familyIn = (flows: Block): Family => familyOf(flows.sources.ranges[0]!.first);

/** Flows after a door. */
const inside = (flows: Block, rule: DoorRule, shift: number): Block => ({
  sources: flows.sources,
  destinations: IpSet.ofAddresses([rule.inside]),
  services: flows.services.shifted(shift),
});

const ended = (
  arrival: Interface,
  leg: Leg,
  end: End,
  by: Pick<Outcome, 'statement' | 'departure' | 'route' | 'shown' | 'leave'>,
  flows = leg.flows,
): Outcome => ({
  arrival,
  flows: leg.asked
    ? { sources: flows.sources, destinations: leg.asked, services: flows.services.shifted(-leg.shift) }
    : flows,
  end,
  statement: by.statement,
  departure: by.departure,
  route: by.route,
  door: leg.door,
  shift: leg.door && leg.shift,
  leave: by.leave,
  shown: by.shown,
});

/** Whether a statement about who arrives speaks of an interface. */
export const arrivesAs = (who: LeaveRule['arrival'], arrival: Interface): boolean =>
  (!who?.zone || who.zone === arrival.zone?.name) && (!who?.interface || who.interface === arrival.name);

function shownBy(rule: LeaveRule, own: readonly Prefix[]): Ip | undefined {
  if (rule.action.as === 'address')
    return familyOf(rule.action.address) === rule.family ? rule.action.address : undefined;
  return rule.action.as === 'interface' ? own[0]?.address : undefined;
}

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
