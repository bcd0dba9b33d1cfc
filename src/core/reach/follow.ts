/**
 * What the box does with every flow that arrives by one interface, as blocks: the same steps in the same order as the
 * one packet takes on the bench, on sets. Nothing of `decide` is called here, so that the two can judge each other.
 */
import { IpSet, ServiceSet, contains, familyOf } from '#core/addr';
import type { Family, Ip, Prefix, ServiceItem } from '#core/addr';
import type { Statement } from '#core/notation';
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
import { wantsDelegation } from '#core/site';
import type { Interface, Site } from '#core/site';
import { ALL, SPECIAL, cut, meet, tidy, within } from './block';
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
}

interface Way {
  readonly route?: Route;
  readonly destinations: IpSet;
}

type Decision =
  | { readonly flows: Block; readonly verdict: PassageRule['verdict']; readonly rule: PassageRule }
  | { readonly flows: Block; readonly verdict: 'within' | 'default' };

const NOBODY: ReadonlySet<string> = new Set();
const LOOPBACK = { 4: '127.0.0.0/8', 6: '::1/128' } as const;
const LOOP = { 4: IpSet.parse(LOOPBACK[4]), 6: IpSet.parse(LOOPBACK[6]) } as const;
/** Destinations that are never routed: groups, reserved, everybody; for IPv6 what is valid on one link only. */
const NOWHERE = {
  4: IpSet.parse('224.0.0.0/3'),
  6: IpSet.parse('ff00::/8').union(IpSet.parse('fe80::/10')),
} as const;
/** Sources that are good on one link only, whose flows are no business of routing. */
const NEAR = { 4: IpSet.empty, 6: IpSet.parse('fe80::/10') } as const;

/** Everything about one moment of a box that following flows needs, each piece worked out once. */
export class Follower {
  private readonly ways = new Map<string, readonly Way[]>();
  private readonly policies = new Map<string, readonly Decision[]>();
  private readonly outcomes = new Map<string, readonly Outcome[]>();
  private readonly bySides = {
    4: new Map<Interface, ReadonlyMap<string, readonly Outcome[]>>(),
    6: new Map<Interface, ReadonlyMap<string, readonly Outcome[]>>(),
  };
  private readonly backs = new Map<string, IpSet>();
  private readonly single = new Map<string, Map<Ip, Way>>();
  private readonly pieces = new Map<DoorRule, readonly Piece[]>();
  private readonly doorsAt = new Map<Ip, DoorRule[]>();
  private readonly doored: IpSet;
  private readonly byFrom = new Map<string, readonly PassageRule[]>();
  /** The box's own addresses, by table. */
  readonly own = new Map<string, IpSet>();
  private readonly interfaces = new Map<string, Interface>();

  constructor(
    readonly site: Site,
    readonly rules: Rules,
    readonly states: States,
    readonly routes: readonly Route[],
  ) {
    const own = new Map<string, Ip[]>();
    for (const iface of site.interfaces) {
      if (iface.off) continue;
      this.interfaces.set(iface.name, iface);
      const list = own.get(iface.table) ?? [];
      own.set(iface.table, list);
      list.push(...(states.get(iface.name)?.addresses.map((a) => a.address) ?? []));
    }
    for (const [table, list] of own) this.own.set(table, IpSet.ofAddresses(list));
    for (const door of rules.doors)
      if (familyOf(door.inside) === familyOf(door.outside))
        this.doorsAt.set(door.outside, [...(this.doorsAt.get(door.outside) ?? []), door]);
    this.doored = IpSet.ofAddresses([...this.doorsAt.keys()]);
    for (const from of site.zones.map((z) => z.name))
      this.byFrom.set(
        from,
        rules.passages.filter((r) => r.from === 'any' || r.from === from),
      );
  }

  /** Every flow of a family that may arrive by an interface, in blocks that share none and leave none out. */
  follow(arrival: Interface, family: Family): readonly Outcome[] {
    const key = `${arrival.name} ${family}`;
    const known = this.outcomes.get(key);
    if (known) return known;
    const made = this.followAll(arrival, family);
    this.outcomes.set(key, made);
    return made;
  }

  /** The names of the interfaces by which something of what arrives by one leaves without a door. */
  departures(arrival: string, family: Family): { has(name: string): boolean } {
    const iface = this.interfaces.get(arrival);
    return iface ? this.sorted(iface, family) : NOBODY;
  }

  /** Of what arrives by one interface, what leaves by another without a door. */
  crossing(arrival: Interface, departure: Interface, family: Family): readonly Outcome[] {
    return this.sorted(arrival, family).get(departure.name) ?? [];
  }

  /** Of what arrives by an interface, what a door takes. */
  throughDoors(arrival: Interface, door: DoorRule, family: Family): readonly Outcome[] {
    return this.sorted(arrival, family).get(`door ${door.statement.name}`) ?? [];
  }

  /** Of what arrives by an interface, what the box answers. */
  answered(arrival: Interface, family: Family): readonly Outcome[] {
    return this.sorted(arrival, family).get('the box') ?? [];
  }

  private sorted(arrival: Interface, family: Family): ReadonlyMap<string, readonly Outcome[]> {
    const bySide = this.bySides[family];
    const known = bySide.get(arrival);
    if (known) return known;
    const made = new Map<string, Outcome[]>();
    for (const o of this.follow(arrival, family)) {
      const side =
        o.end === 'box-answers'
          ? 'the box'
          : o.end !== 'departed'
            ? undefined
            : o.door
              ? `door ${o.door.statement.name}`
              : o.departure!.name;
      if (side === undefined) continue;
      const list = made.get(side);
      if (list) list.push(o);
      else made.set(side, [o]);
    }
    bySide.set(arrival, made);
    return made;
  }

  private followAll(arrival: Interface, family: Family): Outcome[] {
    const out: Outcome[] = [];
    const all = ALL[family];
    const own = (this.own.get(arrival.table) ?? IpSet.empty).only(family);
    const end = (sources: IpSet, end: End, statement?: Statement) => {
      if (!sources.isEmpty)
        out.push({
          arrival,
          flows: { sources, destinations: all, services: ServiceSet.all },
          end,
          statement,
        });
    };
    if (family === 6 && !arrival.speaks6 && !wantsDelegation(this.site, arrival)) {
      end(all, 'not-spoken');
      return out;
    }
    let sources = all.minus(NEAR[family]);
    const refused = own.union(LOOP[family]);
    end(sources.intersect(refused), 'own-source');
    sources = sources.minus(refused);
    const back = this.backTo(arrival.table, family);
    end(sources.minus(back), 'no-route-back', arrival.statement);
    sources = sources.intersect(back);
    if (arrival.statement.guard) {
      const good = this.guarded(arrival, family);
      end(sources.minus(good), 'guard', arrival.statement);
      sources = sources.intersect(good);
    }
    if (sources.isEmpty) return out;

    // Doors first, each at its one address; what none takes goes on with the rest.
    const doored = this.doored.only(family);
    const left: Block[] = [];
    for (const [address, doors] of this.doorsAt) {
      if (familyOf(address) !== family) continue;
      let rest: Region = [{ sources, destinations: IpSet.ofAddresses([address]), services: ServiceSet.all }];
      for (const rule of doors) if (rest.length) rest = this.throughDoor(arrival, rule, rest, family, out);
      left.push(...rest);
    }
    left.push({ sources, destinations: all.minus(doored), services: ServiceSet.all });
    for (const flows of tidy(left)) this.onward(arrival, flows, own, family, out);
    return out;
  }

  /** Steps 7 and 8 on for what no door took. */
  private onward(arrival: Interface, flows: Block, own: IpSet, family: Family, out: Outcome[]): void {
    const mine = flows.destinations.intersect(own);
    if (!mine.isEmpty) {
      let rest: Region = [{ ...flows, destinations: mine }];
      for (const answer of this.rules.answers.get(arrival.name) ?? []) {
        const takes: Block = {
          sources: answer.sources?.only(family) ?? ALL[family],
          destinations: ALL[family],
          services: ServiceSet.of(answer.services, family),
        };
        for (const taken of within(rest, takes))
          out.push({ arrival, flows: taken, end: 'box-answers', statement: arrival.statement, answer });
        rest = cut(rest, takes);
      }
      for (const silent of rest)
        out.push({ arrival, flows: silent, end: 'box-silent', statement: arrival.statement });
    }
    const beyond = flows.destinations.minus(own);
    const nowhere = beyond.intersect(NOWHERE[family]);
    if (!nowhere.isEmpty) out.push({ arrival, flows: { ...flows, destinations: nowhere }, end: 'nowhere' });
    const destinations = beyond.minus(NOWHERE[family]);
    if (!destinations.isEmpty)
      this.route(arrival, { flows: { ...flows, destinations }, table: arrival.table, shift: 0 }, family, out);
  }

  // ---- step 5

  private leadingTo(family: Family, which: (r: Route) => boolean): IpSet {
    return IpSet.ofPrefixes(
      this.routes.filter((r) => r.interface !== undefined && which(r)).map((r) => r.prefix),
    ).only(family);
  }

  private backTo(table: string, family: Family): IpSet {
    const key = `${family} ${table}`;
    const known = this.backs.get(key);
    if (known) return known;
    const made = this.leadingTo(family, (r) => r.table === table && r.usable);
    this.backs.set(key, made);
    return made;
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

  /** Sends what a door takes of a region on its way, and returns what it leaves. */
  private throughDoor(
    arrival: Interface,
    rule: DoorRule,
    region: Region,
    family: Family,
    out: Outcome[],
  ): Region {
    const named = rule.on === undefined ? undefined : this.site.interfaces.find((i) => i.name === rule.on);
    const table = named?.table ?? arrival.table;
    let left = region;
    for (const { services, shift } of this.piecesOf(rule, family)) {
      const takes: Block = {
        sources: rule.sources?.only(family) ?? ALL[family],
        destinations: ALL[family],
        services,
      };
      let taken = within(left, takes);
      if (!rule.sources && !arrival.zone?.upstream) {
        const by = this.wayOf(table, rule.inside).route?.interface;
        const departure = by === undefined ? undefined : this.interfaces.get(by);
        taken = departure
          ? taken.flatMap((flows) =>
              this.decide(arrival, departure, inside(flows, rule, shift))
                .filter(
                  (d) =>
                    d.verdict === 'allow' || (d.verdict === 'within' && arrival.zone?.within === 'allow'),
                )
                .map((d) => ({
                  ...flows,
                  sources: d.flows.sources,
                  services: d.flows.services.shifted(-shift),
                })),
            )
          : [];
      }
      for (const flows of taken) {
        left = cut(left, flows);
        this.route(
          arrival,
          { flows: inside(flows, rule, shift), table, door: rule, shift, asked: flows.destinations },
          family,
          out,
        );
      }
    }
    return left;
  }

  // ---- step 8

  /** The way that one address is reached from a table. */
  private wayOf(table: string, address: Ip): Way {
    let known = this.single.get(table);
    if (!known) this.single.set(table, (known = new Map()));
    let way = known.get(address);
    if (!way) {
      way = this.waysOf(table, familyOf(address)).find((w) => w.destinations.has(address))!;
      known.set(address, way);
    }
    return way;
  }

  private piecesOf(rule: DoorRule, family: Family): readonly Piece[] {
    const known = this.pieces.get(rule);
    if (known) return known;
    const made = piecesOf(rule, family);
    this.pieces.set(rule, made);
    return made;
  }

  /** Every address of a family, by the route that is taken to it. */
  waysOf(table: string, family: Family): readonly Way[] {
    const key = `${family} ${table}`;
    const known = this.ways.get(key);
    if (known) return known;
    const sorted = this.routes
      .filter((r) => r.table === table && r.usable && familyOf(r.prefix.address) === family)
      .map((route, i) => ({ route, i }))
      .sort(
        (a, b) =>
          b.route.prefix.length - a.route.prefix.length ||
          a.route.distance - b.route.distance ||
          a.route.priority - b.route.priority ||
          a.i - b.i,
      );
    let left = ALL[family];
    const out: Way[] = [];
    for (const { route } of sorted) {
      const prefix = IpSet.ofPrefixes([route.prefix]);
      const destinations = prefix.intersect(left);
      if (destinations.isEmpty) continue;
      out.push({ route, destinations });
      left = left.minus(prefix);
    }
    if (!left.isEmpty) out.push({ destinations: left });
    this.ways.set(key, out);
    return out;
  }

  /** The destinations that routes by one interface lead to, the longest prefix first, whatever their table. */
  private waysBy(name: string, family: Family): readonly Way[] {
    const key = `${family} by ${name}`;
    const known = this.ways.get(key);
    if (known) return known;
    let left = ALL[family];
    const out: Way[] = [];
    const own = this.routes.filter((r) => r.interface === name && familyOf(r.prefix.address) === family);
    for (const route of [...own].sort((a, b) => b.prefix.length - a.prefix.length)) {
      const prefix = IpSet.ofPrefixes([route.prefix]);
      const destinations = prefix.intersect(left);
      if (!destinations.isEmpty) out.push({ route, destinations });
      left = left.minus(prefix);
    }
    this.ways.set(key, out);
    return out;
  }

  private route(arrival: Interface, leg: Leg, family: Family, out: Outcome[]): void {
    const only = leg.flows.destinations.single;
    const ways = only === undefined ? this.waysOf(leg.table, family) : [this.wayOf(leg.table, only)];
    for (const way of ways) {
      const destinations = leg.flows.destinations.intersect(way.destinations);
      if (destinations.isEmpty) continue;
      const piece: Leg = { ...leg, flows: { ...leg.flows, destinations } };
      const usual = way.route?.interface;
      const outward = usual === undefined || !!this.interfaces.get(usual)?.uplink;
      if (outward && this.rules.sends.length) this.send(arrival, piece, way.route, family, out);
      else this.pass(arrival, piece, way.route, out);
    }
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
    if (!destinations.isEmpty) out.push(ended(arrival, rest(), 'send-never', rule.statement));
  }

  // ---- step 9

  /** What the statements of passing say from one interface to another, for a block. */
  private decide(arrival: Interface, departure: Interface, flows: Block): readonly Decision[] {
    const [from, to] = [arrival.zone, departure.zone];
    if (!from || !to) return [{ flows, verdict: 'default' }];
    return this.policy(from.name, to.name, familyOf(flows.sources.ranges[0]!.first)).flatMap((d) => {
      const shared = meet(flows, d.flows);
      return shared ? [{ ...d, flows: shared }] : [];
    });
  }

  /** All flows between two zones, by the first statement that takes them. */
  policy(from: string, to: string, family: Family): readonly Decision[] {
    const key = `${family} ${from}>${to}`;
    const known = this.policies.get(key);
    if (known) return known;
    const out: Decision[] = [];
    let left: Region = [{ sources: ALL[family], destinations: ALL[family], services: ServiceSet.all }];
    for (const rule of this.byFrom.get(from) ?? []) {
      if (rule.to !== 'any' && rule.to !== to) continue;
      const takes = regionOf(rule, family);
      for (const flows of within(left, takes)) out.push({ flows, verdict: rule.verdict, rule });
      left = cut(left, takes);
    }
    for (const flows of left) out.push({ flows, verdict: from === to ? 'within' : 'default' });
    this.policies.set(key, out);
    return out;
  }

  private pass(arrival: Interface, leg: Leg, route: Route | undefined, out: Outcome[]): void {
    const departure = route?.interface === undefined ? undefined : this.interfaces.get(route.interface);
    if (!route || !departure) {
      out.push(ended(arrival, leg, 'no-route'));
      return;
    }
    if (leg.door) {
      this.leave(arrival, leg, route, departure, leg.door.statement, out);
      return;
    }
    for (const d of this.decide(arrival, departure, leg.flows)) {
      const piece: Leg = { ...leg, flows: d.flows };
      const stop = (end: End, statement?: Statement) =>
        out.push({ ...ended(arrival, piece, end, statement), departure, route });
      if ('rule' in d) {
        const { statement } = d.rule;
        if (d.verdict === 'allow') this.leave(arrival, piece, route, departure, statement, out);
        else stop(d.verdict === 'reject' ? 'rejected' : 'dropped', statement);
      } else if (d.verdict === 'default') stop('dropped-default');
      else if (arrival.zone!.within === 'drop') stop('dropped-within', arrival.zone!.statement);
      else this.leave(arrival, piece, route, departure, arrival.zone!.statement, out);
    }
  }

  // ---- step 10

  private leave(
    arrival: Interface,
    leg: Leg,
    route: Route,
    departure: Interface,
    statement: Statement,
    out: Outcome[],
  ): void {
    const own = this.states.get(departure.name)?.addresses ?? [];
    const family = familyOf(leg.flows.sources.ranges[0]!.first);
    const mine = own.filter((a) => familyOf(a.address) === family);
    const go = (flows: Block, shown?: Ip, leave?: LeaveRule) =>
      out.push({
        ...ended(arrival, { ...leg, flows }, 'departed', statement),
        departure,
        route,
        shown,
        leave,
      });
    if (leg.door && departure === arrival) {
      // Out by where it came in: the target must answer the box, not the asker beside it (hairpin).
      const near = mine.find((a) => contains(a, leg.door!.inside)) ?? mine[0];
      if (near) {
        go(leg.flows, near.address);
        return;
      }
    }
    let { sources } = leg.flows;
    for (const rule of this.rules.leaves) {
      if (rule.family !== family || !rule.out.has(departure.name) || !arrivesAs(rule.arrival, arrival))
        continue;
      const taken = rule.sources ? sources.intersect(rule.sources) : sources;
      if (taken.isEmpty) continue;
      sources = sources.minus(taken);
      const flows: Block = { ...leg.flows, sources: taken };
      if (rule.action.as === 'never')
        out.push({ ...ended(arrival, { ...leg, flows }, 'left-never', rule.statement), departure, route });
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

/** Flows after a door. */
const inside = (flows: Block, rule: DoorRule, shift: number): Block => ({
  sources: flows.sources,
  destinations: IpSet.ofAddresses([rule.inside]),
  services: flows.services.shifted(shift),
});

const ended = (arrival: Interface, leg: Leg, end: End, statement?: Statement): Outcome => ({
  arrival,
  flows: leg.asked
    ? {
        sources: leg.flows.sources,
        destinations: leg.asked,
        services: leg.flows.services.shifted(-leg.shift),
      }
    : leg.flows,
  end,
  statement,
  door: leg.door,
  shift: leg.door && leg.shift,
});

const arrivesAs = (who: LeaveRule['arrival'], arrival: Interface): boolean =>
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
