/** Promises put to the reach: whether they hold for every flow, and one flow that shows it where they do not. */
import { IpSet, PROTO, ServiceSet, familyOf } from '#core/addr';
import type { Family, Ip, ServiceItem, Services } from '#core/addr';
import type { Statement, StatementOf, Who } from '#core/notation';
import type { Model } from '#core/model';
import { askedServices, kindOf, whoNow } from '#core/semantics';
import type { AskedService, DoorRule } from '#core/semantics';
import { addressesOf, interfaceNamed } from '#core/site';
import type { Interface } from '#core/site';
import { FAMILIES, cutAll, pointOf } from './block';
import type { Block, Point } from './block';
import { showing, shownOf } from './outcome';
import type { End } from './outcome';
import { isStrict, onSegments } from './places';
import type { Place } from './places';
import { groupsOf, withoutLoneSelf } from './reach';
import type { Passing, Reach } from './reach';

/** Why a flow does not do what was promised. */
export type Why =
  | { readonly why: 'box'; readonly end: End; readonly statement?: Statement }
  /** The place does not send it to the box: its gateway is another, or the internet knows no way. */
  | { readonly why: 'never-sent' }
  /** It gets there, and the answer does not come back. */
  | { readonly why: 'no-answer'; readonly shown: Ip }
  /** A provider does not carry its source. */
  | { readonly why: 'not-carried'; readonly shown: Ip }
  /** The target does not take the service. */
  | { readonly why: 'not-accepted'; readonly target: string }
  | { readonly why: 'arrives'; readonly statement?: Statement; readonly door?: string }
  | { readonly why: 'shows'; readonly shown: Ip }
  | { readonly why: 'no-source' | 'no-target' | 'no-pair' };

/** Why a promise fails, and a flow that shows it with the interface by which it arrives. */
interface Fault {
  readonly why: Why;
  readonly witness?: Point & { readonly arrival: Interface };
}

export type PromiseOnSets = { readonly statement: StatementOf<'expect'> } & (
  | ({ readonly holds: false } & Fault)
  | { readonly holds: true; readonly why?: undefined; readonly witness?: undefined }
);

const INTERNET: Who = { type: 'internet', at: { start: 0, end: 0, line: 1, column: 1 } };

/** Whether a promise holds for all flows. Undefined where the promise could not be read. */
export function judgeOnSets(reach: Reach, statement: StatementOf<'expect'>): PromiseOnSets | undefined {
  let known = judged.get(reach);
  if (!known) judged.set(reach, (known = new Map<StatementOf<'expect'>, PromiseOnSets | undefined>()));
  if (!known.has(statement)) known.set(statement, judgeNow(reach, statement));
  return known.get(statement);
}

/** What was judged already: finding, proof and their probes ask the same. */
const judged = new WeakMap<Reach, Map<StatementOf<'expect'>, PromiseOnSets | undefined>>();

function judgeNow(reach: Reach, statement: StatementOf<'expect'>): PromiseOnSets | undefined {
  const promise = promiseNow(reach.model, statement);
  if (!promise) return undefined;
  const fault = ((): Fault | undefined => {
    switch (promise.says) {
      case 'reaches':
        return reaches(reach, promise.from, promise.to, promise.services);
      case 'never-reaches':
        return neverReaches(reach, promise.from, promise.to, promise.services);
      case 'leaves-as':
        return leavesAs(reach, promise.from, promise.address);
      case 'answers-ping':
        return answersPing(reach, promise.from, promise.interface.name);
    }
  })();
  return fault ? { statement, holds: false, ...fault } : { statement, holds: true };
}

/** What a statement promises, hosts by their suffix as the addresses that they have at the moment. */
export function promiseNow(
  { site, prospects }: Pick<Model, 'site' | 'prospects'>,
  { promise }: StatementOf<'expect'>,
): StatementOf<'expect'>['promise'] {
  if (!promise) return undefined;
  const now = (who: Who) => whoNow(site, prospects, who);
  return promise.says === 'reaches' || promise.says === 'never-reaches'
    ? { ...promise, from: now(promise.from), to: now(promise.to) }
    : { ...promise, from: now(promise.from) };
}

const doorOf = (reach: Reach, who: Who): DoorRule | undefined =>
  who.type === 'name' && kindOf(reach.model.site, who) === 'door'
    ? reach.model.rules.doors.find((d) => d.name === who.name)
    : undefined;

/** The services that a place accepts: what it listens to, and ping unless it is silent. Every host as it should be takes all. */
function acceptedBy(place: Place, family: Family): ServiceSet {
  const host = place.station ?? place.far;
  if (!host) return ServiceSet.all;
  // Whether it answers ping is said by `silent` alone.
  const all: ServiceItem[] = host.listens.filter((s) => s.kind !== 'ping' && s.kind !== 'icmp');
  if (place.far?.resolves)
    for (const proto of [PROTO.udp, PROTO.tcp] as const)
      all.push({ kind: 'ports', proto, first: 53, last: 53 });
  const ping = ServiceSet.of([{ kind: 'ping' }], family);
  const taken = all.length ? ServiceSet.of(all, family) : ServiceSet.empty;
  return host.silent ? taken.minus(ping) : taken.union(ping);
}

/** What a target that is there says something to: a refusal counts, silence does not. */
const repliedBy = (place: Place): ServiceSet =>
  (place.station ?? place.far)?.silent
    ? ServiceSet.askable.minus(ServiceSet.of([{ kind: 'ping' }], 4))
    : ServiceSet.askable;

/** The places that a promise is asked from and of: nobody knows who else sits on a provider's line. */
const asked = (places: readonly Place[]): Place[] =>
  places.filter((p) => !p.at.uplink || p.beyond || p.station);

/** Both are outside, or behind the same other router inside: they talk without the box. */
const outside = (a: Place, b: Place): boolean =>
  (a.at.uplink && b.at.uplink) || (a.beyond && b.beyond && a.at === b.at);

/** One address as a destination: whoever answers at it, which may be a host, the box itself, or whom a door leads to. */
export interface Spot {
  readonly address: Ip;
  readonly doors: readonly DoorRule[];
  /** Whether the box holds it. */
  readonly own: boolean;
}

/** What a WHO that is one address stands for beside the hosts that have it. */
export function spotOf(reach: Reach, who: Who): Spot | undefined {
  if (who.type !== 'addresses' || who.range.first !== who.range.last) return undefined;
  const address = who.range.first;
  const { doors, ways } = reach.follower;
  return {
    address,
    doors: doors.byAddress.get(address) ?? [],
    own: [...ways.own.values()].some((set) => set.has(address)),
  };
}

/** Somebody that a promise is about to reach, and the ways to them. */
interface Goal {
  readonly destinations: IpSet;
  /** The places that stand for it; the ways of doors lead elsewhere. */
  readonly places: readonly Place[];
  /** Flows that get there, with who takes them; the box takes what it answers. */
  readonly ways: (from: Place) => { readonly x: Passing; readonly by?: Place; readonly strict: boolean }[];
}

/** Who a promise asks for. To be reached, somebody must be there. */
function goalsOf(reach: Reach, to: Who, family: Family): Goal[] {
  const door = doorOf(reach, to);
  const strict = isStrict(reach.model, to);
  const behind = (rule: DoorRule) => doorPlaces(reach, rule, family).filter((p) => p.station);
  const through = (rule: DoorRule, from: Place, goal: readonly Place[]) =>
    goal.flatMap((by) =>
      reach.through(rule, from, by, family, 'routed').map((x) => ({ x, by, strict: true })),
    );
  if (door) {
    // Where it leads from one table or another: somebody behind it will do.
    const places = behind(door);
    const destinations = IpSet.ofAddresses([door.outside]);
    return places.length ? [{ destinations, places, ways: (from) => through(door, from, places) }] : [];
  }
  const straight = (places: readonly Place[]) => (from: Place) =>
    places
      .filter((by) => !isSame(from, by) && !outside(from, by))
      .flatMap((by) => reach.passings(from, by, family, 'routed').map((x) => ({ x, by, strict })));
  const places = asked(reach.places(to, family));
  const spot = spotOf(reach, to);
  const led = spot?.doors.filter((rule) => behind(rule).length) ?? [];
  if (spot && familyOf(spot.address) === family && (spot.own || led.length)) {
    const destinations = IpSet.ofAddresses([spot.address]);
    const ways = straight(places);
    const { box } = reach.model.site;
    const serves = ({ outcome }: Passing): boolean =>
      outcome?.answer?.name === 'dns'
        ? !!box?.servesNames
        : outcome?.answer?.name !== 'time' || !!box?.servesTime;
    const answers = (from: Place) =>
      reach
        .answers(from, destinations, family, 'routed')
        .filter(serves)
        .map((x) => ({ x, strict: true }));
    return [
      {
        destinations,
        places: [],
        ways: (from) => [
          ...ways(from),
          ...answers(from),
          ...led.flatMap((rule) => through(rule, from, behind(rule))),
        ],
      },
    ];
  }
  return groupsOf(places).map((group) => ({
    destinations: group[0]!.addresses,
    places: group,
    ways: straight(group),
  }));
}

function reaches(reach: Reach, from: Who, to: Who, services: Services | undefined): Fault | undefined {
  const door = doorOf(reach, to);
  // Each that is asked for by itself; none named: some service must pass.
  const parts = askedServices(services, door?.services) ?? [undefined];
  for (const part of parts) {
    const fault = reachesWith(reach, from, to, part);
    if (fault) return fault;
  }
  return undefined;
}

function reachesWith(reach: Reach, from: Who, to: Who, part: AskedService | undefined): Fault | undefined {
  const door = doorOf(reach, to);
  const named = part?.services;
  let pairs = 0;
  let sources = 0;
  let targets = 0;
  for (const family of FAMILIES) {
    const goals = goalsOf(reach, to, family);
    const origins = asked(reach.places(from, family));
    sources += origins.length;
    targets += goals.length;
    for (const origin of groupsOf(origins))
      for (const goal of goals) {
        const p = origin[0]!;
        const q = goal.places[0];
        if (!door && q && (isSame(p, q) || outside(p, q))) continue;
        const ways = origin.flatMap((a) => goal.ways(a));
        const good = ways.flatMap(({ x, by, strict }): Block[] => {
          const out: Block[] = [];
          // A target that says nothing to it was still reached.
          const mute = by && !strict ? x.flows.services.minus(repliedBy(by)) : ServiceSet.empty;
          if (by?.station && !mute.isEmpty)
            out.push({ ...x.flows, services: mute.intersect(ServiceSet.askable) });
          const back = x.answered && (x.around ? takenOnly(x.answered, by, family) : x.answered);
          if (x.refused && by && !(strict && named))
            out.push({ ...x.refused, services: x.refused.services.minus(acceptedBy(by, family)) });
          if (back) out.push(accepted(back, by, x.outcome?.shift ?? 0, family, strict, !!named));
          return out;
        });
        const all = named ? ServiceSet.of(named, family) : ServiceSet.askable;
        const wanted: Block = {
          sources: p.addresses,
          destinations: goal.destinations,
          services: all,
        };
        if (!withoutLoneSelf([wanted]).length) continue;
        pairs++;
        // Where any one will do, every pair of addresses counts whole.
        const enough =
          part && !part.some
            ? good
            : good.filter((b) => !b.services.intersect(all).isEmpty).map((b) => ({ ...b, services: all }));
        const missing = withoutLoneSelf(
          cutAll(
            [wanted],
            enough.filter((b) => !b.services.isEmpty),
          ),
        );
        const lost = missing.map(pointOf).find((x) => x.source !== x.destination);
        if (lost)
          return whyLost(
            reach,
            lost,
            origin,
            q,
            ways.map((w) => w.x),
            family,
          );
      }
  }
  if (!sources) return { why: { why: 'no-source' } };
  if (!targets) return { why: { why: 'no-target' } };
  return pairs ? undefined : { why: { why: 'no-pair' } };
}

/**
 * Of answers that come back over the box as flows of their own, those of a host that takes the datagram: its refusal is
 * an error about a flow that the box does not know.
 */
function takenOnly(flows: Block, to: Place | undefined, family: Family): Block {
  if (!to?.station) return flows;
  return { ...flows, services: flows.services.intersect(acceptedBy(to, family)) };
}

/** What of a passing the target takes. */
function accepted(
  flows: Block,
  to: Place | undefined,
  shift: number,
  family: Family,
  strict: boolean,
  named: boolean,
): Block {
  if (!strict || !to) return flows;
  const takes = named ? acceptedBy(to, family) : repliedBy(to);
  return { ...flows, services: inside(flows.services, shift, takes) };
}

/** Of services that a door moves by `shift`, those that are some of `set` inside. */
const inside = (services: ServiceSet, shift: number, set: ServiceSet): ServiceSet =>
  services.shifted(shift).intersect(set).shifted(-shift);

const isSame = (a: Place, b: Place): boolean =>
  (!!a.station && a.station === b.station) || (!!a.far && a.far === b.far);

/** Where a door leads: whoever has its inside address, or would. */
export function doorPlaces(reach: Reach, door: DoorRule, family: Family): Place[] {
  if (familyOf(door.inside) !== family) return [];
  return onSegments(reach.model, IpSet.ofAddresses([door.inside]), family).filter(
    (p) => !p.at.uplink || !p.beyond,
  );
}

function whyLost(
  reach: Reach,
  point: Point,
  origins: readonly Place[],
  to: Place | undefined,
  passing: readonly Passing[],
  family: Family,
): Fault {
  const holds = (b: Block | undefined) =>
    !!b &&
    b.sources.has(point.source) &&
    b.destinations.has(point.destination) &&
    b.services.has(point.service);
  const arrived = passing.find((x) => holds(x.flows));
  const first = origins[0]!;
  if (arrived) {
    const witness = { ...point, arrival: arrived.outcome?.arrival ?? first.at };
    const target = to?.station?.name ?? to?.far?.name;
    if (holds(arrived.answered) && target !== undefined)
      return { why: { why: 'not-accepted', target }, witness };
    return {
      why: {
        why: 'no-answer',
        shown: arrived.outcome ? shownOf(arrived.outcome, point.source) : point.source,
      },
      witness,
    };
  }
  for (const origin of origins) {
    if (!reach.delivery.sendsToBox(origin, family, 'routed').destinations.has(point.destination)) continue;
    const outcome = reach.outcomeOf(origin.at, point);
    if (!outcome) continue;
    const witness = { ...point, arrival: origin.at };
    if (outcome.end === 'departed')
      return { why: { why: 'not-carried', shown: shownOf(outcome, point.source) }, witness };
    return { why: { why: 'box', end: outcome.end, statement: outcome.statement }, witness };
  }
  return { why: { why: 'never-sent' }, witness: { ...point, arrival: first.at } };
}

function neverReaches(reach: Reach, from: Who, to: Who, services: Services | undefined): Fault | undefined {
  const door = doorOf(reach, to);
  let sources = 0;
  let targets = 0;
  let pairs = 0;
  for (const family of FAMILIES) {
    const wanted = services ? ServiceSet.of(services, family) : ServiceSet.all;
    const origins = reach.places(from, family);
    const goals = door ? doorPlaces(reach, door, family) : reach.places(to, family);
    const at = spotOf(reach, to);
    const here = at && familyOf(at.address) === family ? at : undefined;
    sources += origins.length;
    targets += goals.length + (here?.own || here?.doors.length ? 1 : 0);
    const leak = (x: Passing, by: Place): Fault | undefined => {
      // A promise about a zone or host speaks of the service inside, one about a door of the service asked for.
      const asked = door ?? here?.doors.find((rule) => rule === x.outcome?.door);
      const shift = asked ? 0 : (x.outcome?.shift ?? 0);
      const flows = withoutLoneSelf([{ ...x.flows, services: inside(x.flows.services, shift, wanted) }]);
      const open = flows
        .filter((b) => !b.services.isEmpty)
        .map(pointOf)
        .find((p) => p.source !== p.destination);
      return (
        open && {
          why: {
            why: 'arrives',
            statement: x.outcome?.statement,
            door: x.outcome?.door?.name,
          },
          witness: { ...open, arrival: by.at },
        }
      );
    };
    for (const p of origins) {
      // Nobody asks for a door at an address of their own.
      if (door && familyOf(door.outside) === family && !p.addresses.within(IpSet.ofAddresses([door.outside])))
        pairs++;
      const spot = here && IpSet.ofAddresses([here.address]);
      if (spot && (here.own || here.doors.length) && !p.addresses.within(spot)) {
        pairs++;
        const ways = [
          ...reach.answers(p, spot, family, 'anything'),
          ...here.doors.flatMap((rule) =>
            doorPlaces(reach, rule, family).flatMap((q) => reach.through(rule, p, q, family, 'anything')),
          ),
        ];
        for (const x of ways) {
          const found = leak(x, p);
          if (found) return found;
        }
      }
      for (const q of goals) {
        if (!door && (isSame(p, q) || outside(p, q))) continue;
        const all = { sources: p.addresses, destinations: q.addresses, services: wanted };
        const ways = door ? [door] : reach.model.rules.doors.filter((rule) => q.addresses.has(rule.inside));
        // With one address in two tables, a door that has the service is the one way to ask the other.
        const led = ways.some((rule) => ServiceSet.of(rule.insideServices, family).meets(wanted));
        if (!door && ((led && p.at !== q.at) || withoutLoneSelf([all]).length)) pairs++;
        for (const x of door ? [] : reach.passings(p, q, family, 'anything')) {
          const found = leak(x, p);
          if (found) return found;
        }
        for (const rule of ways)
          for (const x of reach.through(rule, p, q, family, 'anything')) {
            const found = leak(x, p);
            if (found) return found;
          }
      }
    }
  }
  if (!sources) return { why: { why: 'no-source' } };
  // A door that leads nowhere lets nobody in.
  if (!targets && !door) return { why: { why: 'no-target' } };
  return pairs ? undefined : { why: { why: 'no-pair' } };
}

/**
 * An address of the internet for each place that a promise about leaving speaks of, to which something gets out: the
 * far hosts that are there may be just those that the rules forbid.
 */
export function exitsOf(reach: Reach, promise: { readonly from: Who; readonly address: Ip }): Ip[] {
  const family = familyOf(promise.address);
  const goals = reach.places(INTERNET, family);
  return groupsOf(reach.places(promise.from, family)).flatMap(([p]) => {
    if (!p || p.at.uplink) return [];
    const out = goals
      .flatMap((q) => reach.passings(p, q, family, 'routed').map((x) => ({ x, q })))
      .filter(({ x }) => !x.flows.services.intersect(ServiceSet.askable).isEmpty);
    // Where some take the active uplink, those count, and somebody must be there for them.
    const usual = out.filter(({ x }) => usualPart(reach, p, x, family));
    const counting = usual.length ? usual : out;
    const met = counting.some(({ q }) => q.far && !q.far.silent);
    return met || !counting.length ? [] : [counting[0]!.x.flows.destinations.ranges[0]!.first];
  });
}

function leavesAs(reach: Reach, from: Who, address: Ip): Fault | undefined {
  const family = familyOf(address);
  const origins = reach.places(from, family);
  if (!origins.length) return { why: { why: 'no-source' } };
  const goals = reach.places(INTERNET, family);
  const insiders = groupsOf(origins).filter((group) => !group[0]!.at.uplink);
  if (!insiders.length) return { why: { why: 'no-pair' } };
  for (const group of insiders) {
    const p = group[0]!;
    const passing = goals.flatMap((q) => reach.passings(p, q, family, 'routed'));
    const askable = passing.filter((x) => !x.flows.services.intersect(ServiceSet.askable).isEmpty);
    const out = askable.reduce((set, x) => set.union(x.flows.sources), IpSet.empty);
    const stuck = p.addresses.minus(out);
    if (!stuck.isEmpty) {
      const destinations = goals[0]?.addresses ?? IpSet.empty;
      if (destinations.isEmpty) return { why: { why: 'no-target' } };
      const point = pointOf({ sources: stuck, destinations, services: ServiceSet.askable });
      return whyLost(reach, point, group, goals[0], passing, family);
    }
    // The active uplink counts before one that a statement of sending chose.
    const usual = askable.flatMap((x) => usualPart(reach, p, x, family) ?? []);
    const chosen = askable.filter((x) => !isMet(x, usual));
    for (const x of [...usual, ...chosen]) {
      const via = x.outcome?.route?.via;
      const out = x.outcome?.departure;
      const line = out && via !== undefined ? reach.delivery.lineTo(out, family, via) : undefined;
      // A router in front that translates once more is what the internet sees.
      const beyond = family === 4 ? line?.circuit.translatesTo : undefined;
      if (beyond === address) continue;
      const good = x.outcome
        ? showing(x.outcome, x.flows.sources, IpSet.ofAddresses([address]))
        : IpSet.empty;
      const sources = beyond === undefined ? x.flows.sources.minus(good) : x.flows.sources;
      if (sources.isEmpty) continue;
      const point = pointOf({
        ...x.flows,
        sources,
        services: x.flows.services.intersect(ServiceSet.askable),
      });
      const shown = beyond ?? (x.outcome ? shownOf(x.outcome, point.source) : point.source);
      return { why: { why: 'shows', shown }, witness: { ...point, arrival: p.at } };
    }
  }
  return undefined;
}

/** What of some flows leaves by the uplink that they take where no statement of sending speaks of them. */
function usualPart(reach: Reach, from: Place, x: Passing, family: Family): Passing | undefined {
  const { ways, onward } = reach.follower;
  const by = x.outcome?.departure?.name;
  if (by === undefined) return undefined;
  const first = x.flows.destinations.ranges[0]!.first;
  const way = ways.waysOf(from.at.table, family).find((w) => w.destinations.has(first));
  const shared = onward.sharedBy(from.at, way?.route, by, first);
  if (!shared) return way?.route?.interface === by ? x : undefined;
  const sources = x.flows.sources.intersect(shared);
  return sources.isEmpty ? undefined : { ...x, flows: { ...x.flows, sources } };
}

/** Whether all sources of some flows also have others. */
const isMet = (x: Passing, others: readonly Passing[]): boolean =>
  x.flows.sources.within(others.reduce((set, o) => set.union(o.flows.sources), IpSet.empty));

function answersPing(reach: Reach, from: Who, name: string): Fault | undefined {
  const { site, prospects } = reach.model;
  const iface = interfaceNamed(site, name);
  const own =
    iface && !iface.off
      ? IpSet.ofAddresses(addressesOf(iface, prospects).map((a) => a.address)).only(4)
      : IpSet.empty;
  if (own.isEmpty) return { why: { why: 'no-target' } };
  const origins = asked(reach.places(from, 4));
  if (!origins.length) return { why: { why: 'no-source' } };
  const services = ServiceSet.of([{ kind: 'ping' }], 4);
  for (const group of groupsOf(origins)) {
    // The same address in another table is another interface's.
    const passing = group.flatMap((p) =>
      p.at.table === iface?.table ? reach.answers(p, own, 4, 'routed') : [],
    );
    const wanted: Block = { sources: group[0]!.addresses, destinations: own, services };
    const missing = cutAll(
      [wanted],
      passing.flatMap((x) => x.answered ?? []),
    )[0];
    if (missing) return whyLost(reach, pointOf(missing), group, group[0], passing, 4);
  }
  return undefined;
}
