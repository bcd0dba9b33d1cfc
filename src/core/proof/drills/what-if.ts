/**
 * What each single fault would do: every line cut, every provider dead behind its gateway, against every desk and door.
 * One bench for each fault, so that nothing is left of the one before.
 */
import { PROTO, formatIp, isIpv4, serviceTakes } from '#core/addr';
import type { FlowService, Ip } from '#core/addr';
import type { Attempt, Bench, Step } from '#core/bench';
import type { Model } from '#core/model';
import type { Reach } from '#core/reach';
import type { DoorRule } from '#core/semantics';
import { boxNames } from '#core/site';
import { askFor } from '../asking';
import { desksOf } from '../desks';
import { endOf } from '../explain';
import { bootBench } from '../prove';
import { listeningFar, targetBeyond } from '../targets';
import { endValues } from '../told';
import type { Ending } from '../told';

/** Lines that are cut and providers that are dead at once, by their names. */
export interface Fault {
  readonly cut: readonly string[];
  readonly dead: readonly string[];
}

/** Who goes on or not: a desk, or a door for somebody outside. */
export interface Bearer {
  readonly kind: 'desk' | 'door';
  readonly name: string;
  /** The interface that a desk is behind. */
  readonly behind?: string;
}

/** What becomes of one of them under a fault. */
export type Outcome =
  /** It does not work without the fault either. */
  | { readonly is: 'never' }
  | {
      readonly is: 'on';
      /** Seconds from the fault to the first answer after which all came. */
      readonly after: number;
      /** The interface that the box sends it out by; for a door, where it came in. */
      readonly by?: string;
      /** The address that the other side saw; for a door, the one that was asked. */
      readonly seen?: string;
    }
  | { readonly is: 'dead'; readonly why?: Ending };

export interface WhatIfRow {
  readonly fault: Fault;
  /** In the order of the bearers. */
  readonly outcomes: readonly Outcome[];
  readonly spent: boolean;
}

export interface WhatIf {
  readonly bearers: readonly Bearer[];
  readonly rows: readonly WhatIfRow[];
}

/** Between two tries of one bearer, milliseconds. */
const STEP = 1000;
/** Virtual time between two breaks, milliseconds. */
const SLICE = 4000;
/** How long a try may take, milliseconds. */
const TRY = 1100;

export const faultKey = ({ cut, dead }: Fault): string =>
  [...cut.map((c) => `cut ${c}`), ...dead.map((d) => `dead ${d}`)].join(' and ');

/**
 * Every single fault of a site: each cable of the box that leads somewhere, each circuit whose cable is another than a
 * port's, each circuit dead behind its gateway.
 */
export function faultsOf({ site, wiring }: Pick<Model, 'site' | 'wiring'>): Fault[] {
  const { circuits } = wiring;
  const on = (port: string) => circuits.filter((c) => 'port' in c.landing && c.landing.port === port);
  const stands = [...site.ports.values()].filter(
    (p) =>
      !p.off &&
      (on(p.name).length > 0 ||
        site.switches.some((s) => s.plug?.to === 'port' && s.plug.port === p.name) ||
        wiring.stations.some((s) => 'port' in s.landing && s.landing.port === p.name) ||
        wiring.routers.some((r) => r.legs.some((l) => 'port' in l.landing && l.landing.port === p.name))),
  );
  // Of an aggregation each cable may fail by itself.
  const parts = stands.flatMap((p) => p.over?.ports ?? []);
  const shared = circuits.filter(
    (c) => c.plug?.to === 'jack' || ('port' in c.landing && on(c.landing.port).length > 1),
  );
  return [
    ...boxNames(site).map((name) => ({ cut: [name], dead: [] })),
    ...stands.map((p) => ({ cut: [p.name], dead: [] })),
    ...parts.map((name) => ({ cut: [name], dead: [] })),
    ...shared.filter((c) => !c.down).map((c) => ({ cut: [c.name], dead: [] })),
    ...circuits.filter((c) => !c.down && !c.deadBeyond).map((c) => ({ cut: [], dead: [c.name] })),
  ];
}

/** Every two single faults at once; a circuit whose cable is cut is not dead as well. */
export function pairsOf(model: Pick<Model, 'site' | 'wiring'>): Fault[] {
  const faults = faultsOf(model);
  const isCut = (circuit: string, cut: readonly string[]): boolean =>
    cut.includes(circuit) ||
    model.wiring.circuits.some(
      (c) => c.name === circuit && 'port' in c.landing && cut.includes(c.landing.port),
    );
  return faults.flatMap((a, i) =>
    faults.slice(i + 1).flatMap((b) => {
      const cut = [...a.cut, ...b.cut];
      const dead = [...a.dead, ...b.dead];
      return dead.some((d) => isCut(d, cut)) ? [] : [{ cut, dead }];
    }),
  );
}

/** Whom the what-if board asks: desks that are written or supposed, and doors. */
export function bearersOf(bench: Bench): Bearer[] {
  return [
    ...desksOf(bench).map(({ station, iface }) => ({
      kind: 'desk' as const,
      name: station.name,
      behind: iface.name,
    })),
    ...bench.box.rules().doors.map((d) => ({ kind: 'door' as const, name: d.name })),
  ];
}

/**
 * Tries every fault: a step is a row of the board once it is known, or nothing, so that whoever waits hears what else is
 * wanted. Tells at the end whom the outcomes are of.
 */
export function* tryFaults(
  reach: Reach,
  faults: readonly Fault[],
): Generator<WhatIfRow | undefined, readonly Bearer[]> {
  const calm = bootBench(reach).bench;
  const bearers = bearersOf(calm);
  yield;
  const works = (yield* attemptAll(calm, bearers, 0)).map((tries) => tries.at(-1)?.answered === true);
  for (const fault of faults) yield yield* tryFault(reach, fault, bearers, works);
  return bearers;
}

function* tryFault(
  reach: Reach,
  fault: Fault,
  bearers: readonly Bearer[],
  works: readonly boolean[],
): Generator<undefined, WhatIfRow> {
  const { bench } = bootBench(reach);
  yield;
  for (const name of fault.cut) bench.cut(name);
  for (const name of fault.dead) bench.deaden(name);
  const tried = yield* attemptAll(
    bench,
    bearers.map((b, i) => (works[i] ? b : undefined)),
    horizon(bench, fault),
  );
  const outcomes = tried.map((tries, i): Outcome => {
    if (!works[i]) return { is: 'never' };
    let first = tries.length;
    while (first > 0 && tries[first - 1]!.answered) first--;
    const good = tries[first];
    if (good) return { is: 'on', after: first === 0 ? 0 : good.at / 1000, by: good.by, seen: good.seen };
    const mark = tries.at(-1)?.mark;
    const end = mark === undefined ? undefined : endOf(bench, mark);
    return { is: 'dead', why: end && endValues(end) };
  });
  return { fault, outcomes, spent: bench.scheduler.isSpent };
}

/** What the box sees by itself has happened within this, milliseconds. */
const AT_ONCE = 4000;

/** How long until everybody has had their say, milliseconds: a port without light is seen at once, the rest by watches,
 * and another box takes its time. */
const horizon = (bench: Bench, { cut, dead }: Fault): number =>
  !bench.twin && !dead.length && cut.every((name) => bench.box.ports.has(name))
    ? AT_ONCE
    : bench.settling + 2000;

interface Try {
  /** Milliseconds since the fault. */
  readonly at: number;
  readonly mark: number;
  readonly answered: boolean;
  readonly by?: string;
  readonly seen?: string;
}

interface Attempted {
  readonly at: number;
  readonly mark: number;
  readonly attempt: Attempt;
  done?: number;
}

/** Each bearer tries again and again, all at once, for a span of virtual time; a bearer that is left out does not. */
function* attemptAll(
  bench: Bench,
  bearers: readonly (Bearer | undefined)[],
  span: number,
): Generator<undefined, Try[][]> {
  const { scheduler } = bench;
  const begin = scheduler.now;
  const far = targetBeyond(bench) ?? targetBeyond(bench, undefined, 6);
  const asks = bearers.map((b) => b && askerOf(bench, b, far));
  const running = asks.map((): Attempted[] => []);
  const round = (): void => {
    for (const [i, ask] of asks.entries()) {
      if (!ask) continue;
      const mark = bench.newMark();
      const one: Attempted = { at: scheduler.now - begin, mark, attempt: ask(mark) };
      one.attempt.then = () => (one.done = scheduler.now - begin);
      running[i]!.push(one);
    }
    if (scheduler.now + STEP <= begin + span) scheduler.after(STEP, round);
  };
  round();
  for (let left = span + TRY; left > 0; left -= SLICE) {
    scheduler.pass(Math.min(SLICE, left));
    yield;
  }
  return running.map((list) =>
    list.map(({ at, mark, attempt, done }) => ({
      at,
      mark,
      // What was tried again on the way and came late is somebody else's second.
      answered: attempt.result === 'answered' && done !== undefined && done - at < STEP,
      ...wayOf(bench, mark),
    })),
  );
}

/** By which interface of the box, or of its twin, a try went, or came, and as whom the other side saw it. */
function wayOf(bench: Bench, mark: number): { by?: string; seen?: string } {
  const steps = bench.stepsOf(mark);
  const other = bench.twin?.name;
  const isBox = (s: Step) => s.node === bench.box.name || s.node === other;
  const nameOf = (s: Step | undefined) =>
    s && s.node === other ? `${s.interface} of ${other}` : s?.interface;
  const door = steps.find((s) => s.code === 'door-opens');
  if (door) {
    const arrived = steps.find((s) => isBox(s) && s.code === 'arrived');
    return { by: nameOf(arrived), seen: arrived && formatIp(arrived.packet.destination) };
  }
  const routed = steps.findLast((s) => isBox(s) && s.code === 'routed');
  const got = steps.findLast((s) => s.code === 'received' && bench.fars.has(s.node));
  return { by: nameOf(routed), seen: got && formatIp(got.packet.source) };
}

/** How a bearer is tried: a desk pings the internet or opens a page, a stranger knocks at a door. */
function askerOf(
  bench: Bench,
  { kind, name }: Bearer,
  far: Ip | undefined,
): ((mark: number) => Attempt) | undefined {
  if (kind === 'desk') return deskAsker(bench, name, far);
  const door = bench.box.rules().doors.find((d) => d.name === name);
  const service = door && knockOf(door);
  const stranger = [...bench.fars.values()].find((f) =>
    f.setup.addresses.some((a) => door && isIpv4(a) === isIpv4(door.outside)),
  );
  if (!door || !service || !stranger) return undefined;
  return (mark) => {
    // A door at a learned address is at the address of the moment.
    const now = bench.box.rules().doors.find((d) => d.name === name) ?? door;
    return askFor(bench, stranger.endpoints, now.outside, service, { mark });
  };
}

/** A desk opens a page where one is there to be opened, as most of what people do; else it pings. */
function deskAsker(bench: Bench, name: string, far: Ip | undefined): ((mark: number) => Attempt) | undefined {
  const host = bench.hosts.get(name);
  if (!host) return undefined;
  const page = listeningFar(bench, far === undefined || isIpv4(far) ? 4 : 6);
  if (page)
    return (mark) =>
      askFor(bench, host.endpoints, page.address, { proto: PROTO.tcp, port: page.port }, { mark });
  return far === undefined ? undefined : (mark) => host.endpoints.ping(far, { mark });
}

/** A service of a door to knock with. */
function knockOf(door: DoorRule): FlowService | undefined {
  const [first] = door.services;
  switch (first?.kind) {
    case 'ports':
      return { proto: first.proto, port: first.first };
    case 'ping':
    case 'icmp':
      return { proto: PROTO.icmp, echo: true };
    case 'proto':
      return { proto: first.proto };
    default:
      return [443, 80, 22]
        .map((port) => ({ proto: PROTO.tcp, port }))
        .find((s) => serviceTakes(door.services, s));
  }
}

/** What a fault kills now that went on under it before. */
export interface WeakPoint {
  readonly fault: Fault;
  readonly bearers: readonly Bearer[];
}

/** The weak points of one board that another has not; faults and bearers that only one of them knows are left out. */
export function newWeakPoints(now: WhatIf, before: WhatIf): WeakPoint[] {
  const was = new Map(before.rows.map((r) => [faultKey(r.fault), r.outcomes]));
  const place = new Map(before.bearers.map((b, i) => [`${b.kind} ${b.name}`, i]));
  return now.rows.flatMap(({ fault, outcomes }) => {
    const old = was.get(faultKey(fault));
    const bearers = now.bearers.filter((b, i) => {
      const at = place.get(`${b.kind} ${b.name}`);
      return outcomes[i]!.is === 'dead' && at !== undefined && old?.[at]?.is === 'on';
    });
    return bearers.length ? [{ fault, bearers }] : [];
  });
}
