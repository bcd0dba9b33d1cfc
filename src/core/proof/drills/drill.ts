/**
 * A drill with a clock: somebody pings the internet without pause while lines are cut, deadened, restored. What is lost,
 * for how long, what the box noticed and when, and as whom the world saw the pings. Virtual time, real frames.
 */
import { formatIp, isIpv4, parseIp } from '#core/addr';
import type { Ip } from '#core/addr';
import type { Attempt, Bench, BenchOptions, DeadBecause, EndedFlow, Happening } from '#core/bench';
import type { Reach } from '#core/reach';
import { bootBench } from '../prove';
import { targetBeyond } from '../targets';

/** What is done to a line, and when. */
export interface DrillAct {
  /** Milliseconds after the first ping. */
  readonly at: number;
  readonly what: DrillDeed;
  /** A port, a circuit, a switch or a station. */
  readonly on: string;
  /** Milliseconds one way (`slow`, 0 to 10,000) or percent lost (`lossy`, 0 to 100). */
  readonly by?: number;
}

export const DRILL_DEEDS = ['cut', 'deaden', 'restore', 'replug', 'slow', 'lossy', 'renumber'] as const;
export type DrillDeed = (typeof DRILL_DEEDS)[number];

export interface DrillScript {
  /** The station that pings, or the box by its name or as `box`. */
  readonly from: string;
  /** A far host's name or an address; the first far host that answers where absent. */
  readonly to?: string;
  /** How long it goes on, seconds, 1 to `MOST_SECONDS`. */
  readonly seconds: number;
  readonly acts: readonly DrillAct[];
}

/** The longest drill, seconds. */
export const MOST_SECONDS = 600;
/** Between two pings of the row, milliseconds. */
export const BEAT = 100;
/** Between two pings that are flows of their own, milliseconds. */
export const FRESH = 1000;
/** How long a cable is out when it is put in again, milliseconds. */
const REPLUG = 3000;
/** Pings in a row that must fail before it counts as an outage and not as loss. */
const OUTAGE = 10;

/** One ping. */
export interface Beat {
  /** When it was sent, milliseconds after the first. */
  readonly at: number;
  /** Round trip, milliseconds; absent where no answer came within a second. */
  readonly trip?: number;
  /** The source address that the far side saw; absent where it did not get there. */
  readonly seen?: string;
}

/** A stretch in which nothing was answered. */
export interface Outage {
  /** The first ping that was lost. */
  readonly from: number;
  /** The first that was answered again; absent where none was. */
  readonly to?: number;
  readonly lost: number;
}

/** What the box noticed of an uplink. */
export interface Noticed {
  readonly at: number;
  readonly interface: string;
  /** Why it counts as dead; absent where it is used again, or called. */
  readonly dead?: DeadBecause;
  /** It was on demand, and asks for its addresses now. */
  readonly called?: true;
  /** Of two boxes this one has what they share on it now, or no more; nothing of an uplink then. */
  readonly shared?: { readonly box: string; readonly isActive: boolean };
  /** Flows that ended with it. */
  readonly ended: readonly EndedFlow[];
  /** Where it is used again: flows that began elsewhere meanwhile, and go on there until they end. */
  readonly staying?: readonly EndedFlow[];
}

export interface DrillRun {
  readonly from: string;
  readonly to: string;
  readonly seconds: number;
  readonly acts: readonly DrillAct[];
  /** One flow, ten a second, as an ordinary ping sends them. */
  readonly row: readonly Beat[];
  /** Each a flow of its own, one a second: what somebody who begins anew gets. */
  readonly fresh: readonly Beat[];
  readonly lost: number;
  readonly outages: readonly Outage[];
  readonly noticed: readonly Noticed[];
  /** The bench was stopped, since something on it went on and on. */
  readonly spent: boolean;
}

/** Why a drill cannot be run. */
export type DrillFault =
  | { readonly fault: 'no-such-place'; readonly name: string }
  | { readonly fault: 'no-such-target'; readonly name: string }
  | { readonly fault: 'nobody-to-ping' }
  | { readonly fault: 'bad-time' }
  | { readonly fault: 'no-such-line'; readonly name: string };

/** Runs a drill on a bench of its own. */
export function runDrill(
  reach: Reach,
  script: DrillScript,
  options: Pick<BenchOptions, 'seed' | 'tap'> = {},
): DrillRun | DrillFault {
  const { seconds } = script;
  const measured = [seconds, ...script.acts.flatMap((a) => [a.at, a.by ?? 0])];
  if (!measured.every(Number.isFinite) || seconds < 1 || seconds > MOST_SECONDS) return { fault: 'bad-time' };
  const heard: Happening[] = [];
  const { bench } = bootBench(reach, {}, { ...options, tell: (h) => heard.push(h) });
  const ends =
    script.from === 'box' || script.from === bench.box.name
      ? bench.box.endpoints
      : bench.hosts.get(script.from)?.endpoints;
  if (!ends) return { fault: 'no-such-place', name: script.from };
  const to = targetOf(bench, script.to);
  if (to === undefined)
    return script.to === undefined
      ? { fault: 'nobody-to-ping' }
      : { fault: 'no-such-target', name: script.to };
  const wrong = script.acts.find((act) => !isLine(bench, act));
  if (wrong) return { fault: 'no-such-line', name: wrong.on };

  const { scheduler } = bench;
  const begin = scheduler.now;
  heard.length = 0;
  const end = begin + script.seconds * 1000;
  for (const act of script.acts) scheduler.after(act.at, () => doIt(bench, act));
  const row = new Row(bench, ends.newIdentifier());
  const fresh = new Row(bench);
  const every = (row: Row, span: number): void => {
    if (scheduler.now >= end) return;
    row.beat(ends, to);
    scheduler.after(span, () => every(row, span));
  };
  every(row, BEAT);
  every(fresh, FRESH);
  // The last ping has its second, too.
  scheduler.pass(script.seconds * 1000 + 1100);
  const sent = row.beats(begin);
  return {
    from: script.from,
    to: formatIp(to),
    seconds: script.seconds,
    acts: script.acts,
    row: sent,
    fresh: fresh.beats(begin),
    lost: sent.filter((b) => b.trip === undefined).length,
    outages: outagesOf(sent),
    noticed: noticedOf(heard, begin, end),
    spent: scheduler.isSpent,
  };
}

/** Pings that were sent, of one flow or each of its own. */
class Row {
  private readonly sent: { at: number; mark: number; attempt: Attempt; done?: number }[] = [];

  constructor(
    private readonly bench: Bench,
    private readonly identifier?: number,
  ) {}

  beat(ends: Bench['box']['endpoints'], to: Ip): void {
    const { scheduler } = this.bench;
    const mark = this.bench.newMark();
    const sequence = (this.sent.length + 1) & 0xffff;
    const as = this.identifier === undefined ? undefined : { identifier: this.identifier, sequence };
    const one: (typeof this.sent)[number] = {
      at: scheduler.now,
      mark,
      attempt: ends.ping(to, { mark }, undefined, as),
    };
    one.attempt.then = () => (one.done = scheduler.now);
    this.sent.push(one);
  }

  beats(begin: number): Beat[] {
    const seen = new Map<number, Ip>();
    for (const far of this.bench.fars.values())
      for (const s of far.seen) if (s.mark !== undefined && !seen.has(s.mark)) seen.set(s.mark, s.source);
    return this.sent.map(({ at, mark, attempt, done }) => {
      const source = seen.get(mark);
      return {
        at: exact(at - begin),
        trip: attempt.result === 'answered' && done !== undefined ? exact(done - at) : undefined,
        seen: source === undefined ? undefined : formatIp(source),
      };
    });
  }
}

/** Milliseconds as they are meant: a sum of many tenths is off by a little. */
const exact = (ms: number): number => Math.round(ms * 1000) / 1000;

function targetOf(bench: Bench, to: string | undefined): Ip | undefined {
  if (to === undefined) return targetBeyond(bench) ?? targetBeyond(bench, undefined, 6);
  const address = parseIp(to);
  if (address !== undefined) return address;
  const far = bench.wiring.fars.find((f) => f.name === to);
  return far?.addresses.find((a) => isIpv4(a)) ?? far?.addresses[0];
}

const isLine = (bench: Bench, { what, on }: DrillAct): boolean =>
  what === 'cut' || what === 'replug' || what === 'restore'
    ? bench.hasLine(on)
    : what === 'renumber'
      ? !!bench.providers.get(on)?.circuit.delegates6
      : bench.providers.has(on);

function doIt(bench: Bench, { what, on, by }: DrillAct): void {
  switch (what) {
    case 'cut':
      bench.cut(on);
      break;
    case 'deaden':
      bench.deaden(on);
      break;
    case 'replug':
      bench.cut(on);
      bench.scheduler.after(REPLUG, () => bench.restore(on));
      break;
    case 'renumber':
      bench.renumber(on);
      break;
    case 'slow':
      bench.trouble(on, { delay: by });
      break;
    case 'lossy':
      bench.trouble(on, { loss: by });
      break;
    case 'restore':
      bench.restore(on);
      bench.deaden(on, false);
      bench.trouble(on, {});
  }
}

/** Stretches of pings that were lost, each of a second at least. */
export function outagesOf(row: readonly Beat[]): Outage[] {
  const out: Outage[] = [];
  let first: Beat | undefined;
  let lost = 0;
  const close = (to?: number) => {
    if (first && lost >= OUTAGE) out.push({ from: first.at, to, lost });
    first = undefined;
    lost = 0;
  };
  for (const beat of row)
    if (beat.trip !== undefined) close(beat.at);
    else {
      first ??= beat;
      lost++;
    }
  close();
  return out;
}

function noticedOf(heard: readonly Happening[], begin: number, end: number): Noticed[] {
  const out: Noticed[] = [];
  for (const h of heard) {
    if (h.time > end) continue;
    const at = exact(h.time - begin);
    if (h.what === 'called') out.push({ at, interface: h.interface, called: true, ended: [] });
    // That whoever is called has no address yet says nothing.
    else if (h.what === 'uplink' && h.dead === 'address' && isCalled(out.at(-1), h)) continue;
    else if (h.what === 'took-over' || h.what === 'stood-by')
      out.push({
        at,
        interface: h.interface,
        shared: { box: h.box, isActive: h.what === 'took-over' },
        ended: [],
      });
    else if (h.what === 'uplink') out.push({ at, interface: h.interface, dead: h.dead, ended: [] });
    else if ('flows' in h) {
      // Flows end or stay with the uplink that was told just before; one of before the drill is none of its business.
      const told = out.pop();
      if (told)
        out.push({ ...told, ...(h.what === 'flows-stay' ? { staying: h.flows } : { ended: h.flows }) });
    }
  }
  return out;
}

const isCalled = (last: Noticed | undefined, h: Happening): boolean =>
  !!last?.called && last.interface === h.interface;
