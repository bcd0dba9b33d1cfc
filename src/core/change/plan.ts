/**
 * The crossing: from what runs to the draft in small steps, each of them a configuration that stands by itself, in an
 * order that keeps the administrator's way into the box; where no order does, where it is lost and what to do at the
 * desk. The order is searched; what a step does to the seat is asked of the reach.
 */
import { formatIp, isIpv4 } from '#core/addr';
import { memo } from '#core/base';
import type { Day } from '#core/base';
import { contextOf, findAll } from '#core/findings';
import type { Document } from '#core/notation';
import { modelOf } from '#core/model';
import type { Model } from '#core/model';
import { Reach, ReachMemory } from '#core/reach';
import { applyEdits, isOfBox, parseDocument, printStatement, rewriteStatement } from '#core/notation';
import { answerServices } from '#core/semantics';
import { buildSite } from '#core/site';
import { byRank, changeOf, reorderings } from './diff';
import type { Change } from './diff';
import { pairStatements } from './pairs';
import type { Pair } from './pairs';
import { SeatWorld, contactKey, seatKey, seatedAt } from './seat';
import type { Contact, Counts, DeskMove, Seat } from './seat';

/** What a step does to the seat: the same way in goes on, another one is there, or none. */
export type SeatFate = 'kept' | 'moved' | 'cut';

/** One step of the crossing. */
export interface PlanStep {
  /** Statements are told to the box; an address is held beside for the crossing, or released; the desk does something. */
  readonly what: 'apply' | 'hold' | 'release' | 'desk';
  readonly changes: readonly Change[];
  /** With hold and release, and with statements that are told together with a hold. */
  readonly beside?: Beside;
  readonly desk?: DeskMove;
  /** The box's text after the step. */
  readonly box: string;
  readonly fate: SeatFate;
  /** The seat after the step, and its way in. */
  readonly seat?: Seat;
  readonly contact?: Contact;
  /** Where the way in is lost: what to do at the desk to have one again. */
  readonly todo?: DeskMove;
}

/** What is written for the crossing only. */
export interface Beside {
  readonly interface: string;
  readonly clauses: readonly string[];
}

/** The crossing, and whose way in it keeps. */
export interface Plan {
  readonly changes: readonly Change[];
  readonly steps: readonly PlanStep[];
  /** Whether a way in is lost, and nothing at the desk brings it back in the end. */
  readonly lockout: boolean;
  /** Absent where nobody sits anywhere. */
  readonly seat?: { readonly name: string; readonly supposed: boolean; readonly before?: Contact };
}

/** What is told to the box at once: a change, or many of those that cannot touch the way in. */
interface Unit {
  readonly changes: readonly Change[];
  /** Indices of their pairs; none for a new order. */
  readonly pairs: readonly number[];
}

/** Where the search stands: what is told so far, whether an address is held beside, and how the desk sits. */
interface State {
  readonly told: ReadonlySet<number>;
  readonly beside: boolean;
  /** Index among the ways to sit. */
  readonly seat: number;
  /** The ways in that worked all along since the desk last had to change its own. */
  readonly alive: readonly Contact[];
}

interface Judged {
  readonly box: string;
  readonly beside?: Beside;
  /** It has no error that neither end has. */
  readonly sound: boolean;
}

/** 0: the way in never changes; 1: another address may do; 2: one may be held beside, and the desk may do something. */
type Freedom = 0 | 1 | 2;

/** How far a search goes. */
interface Bounds {
  readonly freedom: Freedom;
  /** Judgements that are to be left over. */
  readonly until: number;
  readonly seen: Set<string>;
}

/** Errors that the crossing judges by itself. */
const OWN = new Set(['seat-cut', 'no-way-in', 'expectation-failed', 'first-password']);
/** The order in which changes are tried: what others refer to first, what nobody refers to any more last. */
const RANK = [
  'box',
  'port',
  'table',
  'zone',
  'known',
  'record',
  'interface',
  'leave',
  'passage',
  'door',
  'send',
];

/** Of so many changes nobody reads each as a step: those that say what passes between others are told together. */
const MANY = 40;
/** Kinds that say nothing of the box's own addresses, services and ways. */
const BETWEEN = new Set(['known', 'record', 'leave', 'passage']);
/** Those that are told together as one, in the place of the last of them; what is removed by itself, as it comes last. */
function together(units: readonly Unit[]): readonly Unit[] {
  if (units.length <= MANY) return units;
  const isBetween = ({ changes, pairs }: Unit) =>
    pairs.length > 0 && BETWEEN.has(kindOf(changes[0]!.subject));
  const isGone = ({ changes }: Unit) => changes[0]!.kind === 'removed';
  const groups = new Map<boolean, Unit[]>();
  for (const u of units) if (isBetween(u)) memo(groups, isGone(u), () => []).push(u);
  return units.flatMap((u) => {
    const group = isBetween(u) ? groups.get(isGone(u))! : [u];
    if (u !== group.at(-1)) return [];
    return [{ changes: group.flatMap((g) => g.changes), pairs: group.flatMap((g) => g.pairs) }];
  });
}

/** What bounds the search. */
export interface PlanOptions {
  /** The station where the administrator sits; the wiring's own where absent. */
  readonly seat?: string;
  /** Where the seat's PC is and what it speaks with, if that is not what the running box would have it be. */
  readonly at?: Seat;
  /** Which ways in count; all where absent. */
  readonly counts?: Counts;
  /** How many configurations the search may look at. */
  readonly judgements?: number;
  /** Asked between two of them: whether there is no more time. */
  readonly enough?: () => boolean;
}

/** The plan from what runs to a draft. */
export function planCrossing(running: Model, draft: Model, options: PlanOptions = {}): Plan {
  const looking = lookForCrossing(running, draft, options);
  for (;;) {
    const got = looking.next();
    if (got.done) return got.value;
  }
}

/**
 * Looks for the plan little by little: gives a first one that takes the changes as they come, then after each step of
 * the search how many configurations were looked at, and returns the best that it finds.
 */
export function lookForCrossing(
  running: Model,
  draft: Model,
  options: PlanOptions = {},
): Generator<Plan | number, Plan> {
  return new Crossing(running, draft, options).plan();
}

const kindOf = (subject: string): string => subject.split('/')[0]!;
/** The kind that a unit only puts into its new order. */
const newOrder = ({ changes, pairs }: Unit): string[] =>
  pairs.length ? [] : changes.map((c) => kindOf(c.subject));
/** Of the ways in that were there, those that still are, at the address in use: to browse to another is to move. */
const kept = (now: readonly Contact[], before: readonly Contact[]): Contact[] =>
  before.filter((c) => c.address === before[0]!.address && now.some((o) => contactKey(o) === contactKey(c)));

class Crossing {
  private readonly pairs: readonly Pair[];
  private readonly units: readonly Unit[];
  private readonly changes: readonly Change[];
  private readonly world?: SeatWorld;
  private readonly around: string;
  private readonly today?: Day;
  private readonly allowed: ReadonlySet<string>;
  private readonly judged = new Map<string, Judged>();
  private readonly reached = new Map<string, readonly Contact[]>();
  /** Pairs that a change is told of. */
  private readonly changed: ReadonlySet<number>;
  /** All pairs in the order of each end, those that are only in the other behind what they follow there. */
  private readonly sequences: Readonly<Record<'was' | 'now', readonly number[]>>;
  /** How the desk may sit: as it does first, then what it can do in the end. */
  private readonly seats: { readonly seat: Seat; readonly move?: DeskMove }[] = [];
  private left: number;
  private last?: Document;
  private wired?: Document;
  private memory = new ReachMemory();
  private readonly enough: () => boolean;
  private first?: Contact;

  constructor(from: Model, to: Model, options: PlanOptions) {
    const [running, draft] = [from.site, to.site];
    this.today = draft.today;
    this.left = options.judgements ?? 600;
    this.enough = options.enough ?? (() => false);
    const old = running.statements.filter(isOfBox);
    this.pairs = pairStatements(old, draft.statements.filter(isOfBox));
    const units = [
      ...this.pairs.flatMap((pair, i): Unit[] => {
        const change = changeOf(running, draft, pair);
        return change ? [{ changes: [change], pairs: [i] }] : [];
      }),
      ...reorderings(this.pairs, old).map((change): Unit => ({ changes: [change], pairs: [] })),
    ];
    const rank = ({ changes: [change] }: Unit) => {
      const at = RANK.indexOf(kindOf(change!.subject));
      return change!.kind === 'removed' ? 100 - at : at < 0 ? RANK.length : at;
    };
    this.changes = byRank(units.flatMap((u) => u.changes));
    this.units = together([...units].sort((a, b) => rank(a) - rank(b)));
    this.changed = new Set(this.units.flatMap((u) => u.pairs));
    const place = new Map(old.map((s, i) => [s, i]));
    const placeOf = (i: number) => place.get(this.pairs[i]!.was!)!;
    const all = this.pairs.map((_, i) => i);
    const was = all.filter((i) => this.pairs[i]!.was).sort((a, b) => placeOf(a) - placeOf(b));
    const now = all.filter((i) => this.pairs[i]!.now);
    this.sequences = { was: weave(was, now), now: weave(now, was) };
    const wired = draft.wired ? draft : running;
    this.around = wired.statements
      .filter((s) => !isOfBox(s))
      .map((s) => printStatement(s))
      .join('\n');
    this.world = SeatWorld.of(from, options.seat, options.counts);
    if (this.world) this.seats.push({ seat: options.at ?? this.world.start });
    this.allowed = new Set([...this.errorsOf(this.text(new Set())), ...this.errorsOf(this.text(this.all()))]);
  }

  *plan(): Generator<Plan | number, Plan> {
    const { world, changes } = this;
    if (!world) return { changes, steps: this.steps(this.straight()), lockout: false };
    const lost = this.regained();
    const start = this.start();
    [this.first] = start.alive;
    const seat = { name: world.name, supposed: world.supposed, before: this.first };
    const goal = this.judge({ ...start, told: this.all() }).box;
    const now = this.seated;
    for (const move of world.desk(goal, now)) this.seats.push({ seat: move.seat, move });
    const stays = world.contacts(goal, now).length > 0;
    const lockout = !!this.first && !stays && this.seats.length < 2;
    if (!this.first) return { changes, steps: this.steps(this.straight()), lockout, seat };
    const size = this.units.length + lost.length;
    // What this looks at the search need not look at again, so it costs it nothing.
    const budget = this.left;
    const whole = (states: readonly State[]) => [...lost, ...this.steps(states)];
    const first: Plan = { changes, steps: whole(this.straight()), lockout, seat };
    this.left = budget;
    // Each change by itself, and the way in stays: nothing can be better.
    if (first.steps.length === size && first.steps.every((s) => s.fate === 'kept' || lost.includes(s)))
      return first;
    yield first;
    const found =
      (stays
        ? ((yield* this.search(0, 60 + 4 * size)) ?? (yield* this.search(1, 40 + 2 * size)))
        : undefined) ?? (lockout ? undefined : yield* this.search(2, 120 + 6 * size));
    return found ? { ...first, steps: whole(found) } : first;
  }

  /** How the desk sits before the first step. */
  private get seated(): Seat {
    return this.seats[0]!.seat;
  }

  /**
   * A seat that has no way in where it is now, and by something at the desk has one: that comes first, as where the
   * renewing of a lease was left open by what stayed before.
   */
  private regained(): PlanStep[] {
    const { world } = this;
    if (!world) return [];
    const seat = this.seated;
    const box = this.text(new Set());
    if (seatKey(seat) === seatKey(world.start) || world.contacts(box, seat).length) return [];
    const [move] = world.desk(box, seat);
    if (!move) return [];
    this.seats[0] = { seat: move.seat };
    const [contact] = world.contacts(box, move.seat);
    return [{ what: 'desk', changes: [], desk: move, box, fate: 'moved', seat: move.seat, contact }];
  }

  private all(): ReadonlySet<number> {
    return new Set(this.units.keys());
  }

  private start(): State {
    const state: State = { told: new Set(), beside: false, seat: 0, alive: [] };
    return { ...state, alive: this.world ? this.contacts(state) : [] };
  }

  // ---- configurations

  /** The box's statements with some of the changes told; its promises, which say nothing to the box, only where asked. */
  private text(told: ReadonlySet<number>, promises = false): string {
    const units = [...told].map((i) => this.units[i]!);
    const done = new Set(units.flatMap((u) => u.pairs));
    const ordered = new Set(units.flatMap(newOrder));
    const lines: string[] = [];
    for (const i of this.merged(ordered)) {
      const { was, now } = this.pairs[i]!;
      const s = done.has(i) || !this.changed.has(i) ? now : was;
      if (s && (promises || s.kind !== 'expect')) lines.push(printStatement(s));
    }
    return `${lines.join('\n')}\n`;
  }

  /** All pairs in one order: kinds whose new order is not told yet as they were, all others as they are now. */
  private merged(ordered: ReadonlySet<string>): readonly number[] {
    const late = new Set(this.units.flatMap((u) => newOrder(u).filter((kind) => !ordered.has(kind))));
    const isLate = (i: number) => late.has((this.pairs[i]!.now ?? this.pairs[i]!.was)!.kind);
    const { was, now } = this.sequences;
    return late.size ? [...now.filter((i) => !isLate(i)), ...was.filter(isLate)] : now;
  }

  private errorsOf(box: string): string[] {
    // Each configuration differs from the one before by little: what they have in common is read and reckoned once.
    this.last = parseDocument(box, 'box', this.last);
    const wired = (this.wired ??= parseDocument(`${this.around}\n`, 'wiring'));
    const site = buildSite([this.last, wired], this.today);
    if (this.memory.isWorn) this.memory = new ReachMemory();
    return findAll(contextOf(new Reach(modelOf(site)), {}, this.memory))
      .filter((f) => f.severity === 'error' && !OWN.has(f.code))
      .map((f) => `${f.code} ${f.subject.replace(/#\d+$/, '')}`);
  }

  private judge(state: State): Judged {
    return memo(this.judged, keyOf(state), () => {
      this.left = this.enough() ? 0 : this.left - 1;
      const plain = this.text(state.told);
      const beside = state.beside ? this.besideOn(plain) : undefined;
      const box = beside?.box ?? plain;
      const isEnd = !state.beside && (state.told.size === 0 || state.told.size === this.units.length);
      const sound =
        isEnd || (state.beside === !!beside && this.errorsOf(box).every((e) => this.allowed.has(e)));
      return { box, beside: beside?.what, sound };
    });
  }

  /** The text with the address that the seat uses held beside those of the interface where it is plugged in. */
  private besideOn(box: string): { readonly box: string; readonly what: Beside } | undefined {
    const { world, first } = this;
    if (!world || !first) return undefined;
    const model = world.model(box, this.seated);
    const at = seatedAt(model, world.name)?.at;
    if (!at || at.uplink) return undefined;
    const held = at.addresses.some((a) => a.prefix.address === first.address);
    const [clause, length] = isIpv4(first.address)
      ? ['also', this.seated.address?.length ?? 32]
      : ['address6', this.seated.address6?.length ?? 64];
    const address = held ? [] : [`${clause} ${formatIp(first.address)}/${length}`];
    const [usual] = answerServices(first.service);
    const port = usual?.kind === 'ports' && usual.first === first.port ? '' : ` ${first.port}`;
    const document = model.site.documents[0]!;
    const withClauses = (clauses: readonly string[]) => {
      const ops = clauses.map((text) => ({ do: 'add' as const, text }));
      const text = applyEdits(document.text, rewriteStatement(document, at.statement, ops));
      return { box: text, what: { interface: at.name, clauses } };
    };
    const plain = withClauses(address);
    if (world.contacts(plain.box, this.seated).some((c) => contactKey(c) === contactKey(first)))
      return address.length ? plain : undefined;
    return withClauses([...address, `answers ${first.service}${port}`]);
  }

  /** The ways in of a state, the likeliest first. */
  private contacts(state: State): readonly Contact[] {
    const { box } = this.judge(state);
    const { seat } = this.seats[state.seat]!;
    return memo(this.reached, `${seatKey(seat)} ${box}`, () => this.world!.contacts(box, seat));
  }

  // ---- the search

  /** A way through, or undefined where there is none or it is not found in time. */
  private search(freedom: Freedom, judgements: number): Generator<number, readonly State[] | undefined> {
    const until = Math.max(0, this.left - judgements);
    return this.onward(this.start(), { freedom, until, seen: new Set() });
  }

  /** The states from one to the draft; says between them how many configurations were looked at. */
  private *onward(state: State, bounds: Bounds): Generator<number, readonly State[] | undefined> {
    const { freedom, until, seen } = bounds;
    if (state.told.size === this.units.length && !state.beside) return [state];
    const key = `${keyOf(state)} ${state.seat} ${state.alive.map(contactKey).join()}`;
    if (seen.has(key) || this.left <= until) return undefined;
    seen.add(key);
    const later: State[] = [];
    for (const next of this.moves(state, freedom)) {
      yield this.judged.size;
      const after = this.after(state, next);
      if (!after) continue;
      // To browse elsewhere is tried when nothing that keeps the way in is left.
      if (!after.same && next.seat === state.seat) {
        if (freedom > 0) later.push(after.state);
        continue;
      }
      const rest = yield* this.onward(after.state, bounds);
      if (rest) return [state, ...rest];
    }
    for (const next of later) {
      const rest = yield* this.onward(next, bounds);
      if (rest) return [state, ...rest];
    }
    return undefined;
  }

  /** A state with the ways in that it has; undefined where it is unsound or has none. */
  private after(state: State, next: State): { readonly state: State; readonly same: boolean } | undefined {
    const { box, sound } = this.judge(next);
    if (!sound) return undefined;
    if (next.seat !== state.seat) {
      // What is to be leased must be what this box lends now.
      const { move } = this.seats[next.seat]!;
      if (move?.leased && !this.world!.lends(box, move)) return undefined;
    }
    const contacts = this.contacts(next);
    if (!contacts.length) return undefined;
    const same = next.seat === state.seat && state.alive.length ? kept(contacts, state.alive) : [];
    return { state: { ...next, alive: same.length ? same : contacts }, same: same.length > 0 };
  }

  private *moves(state: State, freedom: Freedom): Generator<State> {
    const open = [...this.units.keys()].filter((i) => !state.told.has(i));
    const tell = (...more: readonly number[]): State => ({
      ...state,
      told: new Set([...state.told, ...more]),
    });
    let any = false;
    for (const i of open) {
      const next = tell(i);
      any ||= this.judge(next).sound;
      yield next;
    }
    if (freedom === 2) {
      if (state.seat === 0) for (let k = 1; k < this.seats.length; k++) yield { ...state, seat: k };
      yield { ...state, beside: !state.beside };
    }
    // Some changes stand only together: two that swap a port, a name and those who use it.
    if (open.length > 1 && (!any || open.length <= 4))
      for (const [n, i] of open.entries()) for (const j of open.slice(n + 1)) yield tell(i, j);
    if (open.length > 2) yield tell(...open);
    if (freedom === 2 && !state.beside) {
      for (const i of open) yield { ...tell(i), beside: true };
      if (open.length > 1) yield { ...tell(...open), beside: true };
    }
  }

  /** Step by step as far as the sense of it and the seat go, and then the rest at once. */
  private straight(): readonly State[] {
    const out: State[] = [this.start()];
    for (;;) {
      const state = out.at(-1)!;
      if (state.told.size === this.units.length) return out;
      const next = this.nextStraight(state);
      if (!next) {
        const rest: State = { ...state, told: this.all() };
        out.push({ ...rest, alive: this.world ? this.contacts(rest) : [] });
        return out;
      }
      out.push(next);
    }
  }

  private nextStraight(state: State): State | undefined {
    for (const i of this.units.keys()) {
      if (state.told.has(i) || this.left <= 0) continue;
      const told: State = { ...state, told: new Set([...state.told, i]) };
      if (!this.judge(told).sound) continue;
      if (!state.alive.length) return told;
      const after = this.after(state, told);
      if (after?.same) return after.state;
    }
    return undefined;
  }

  // ---- telling

  private steps(states: readonly State[]): PlanStep[] {
    return states.slice(1).map((state, n): PlanStep => {
      const before = states[n]!;
      const plain = this.text(state.told, state.told.size === this.units.length);
      const held = state.beside ? this.besideOn(plain) : undefined;
      const told = [...state.told].filter((i) => !before.told.has(i)).flatMap((i) => this.units[i]!.changes);
      const common = {
        box: held?.box ?? plain,
        fate: this.fateOf(before, state),
        seat: this.seats[state.seat]?.seat,
        contact: state.alive[0],
        changes: told,
      };
      if (state.seat !== before.seat) return { ...common, what: 'desk', desk: this.seats[state.seat]!.move };
      const turned = state.beside !== before.beside;
      const beside = turned ? (held?.what ?? this.judge(before).beside) : undefined;
      if (!told.length) return { ...common, what: state.beside ? 'hold' : 'release', beside };
      const todo = common.fate === 'cut' ? this.seats[1]?.move : undefined;
      return { ...common, what: 'apply', beside, todo };
    });
  }

  private fateOf(before: State, state: State): SeatFate {
    // Where nobody had a way in, none is lost.
    if (!this.world || !before.alive.length) return 'kept';
    if (!state.alive.length) return 'cut';
    return state.seat === before.seat && kept(state.alive, before.alive).length ? 'kept' : 'moved';
  }
}

/** One order with what is only in another put behind what it follows there. */
function weave(base: readonly number[], other: readonly number[]): number[] {
  const out = [...base];
  const there = new Set(base);
  for (const [k, i] of other.entries()) {
    if (there.has(i)) continue;
    out.splice(k ? out.indexOf(other[k - 1]!) + 1 : 0, 0, i);
    there.add(i);
  }
  return out;
}

const keyOf = (state: State): string =>
  `${[...state.told].sort((a, b) => a - b).join()}${state.beside ? ' beside' : ''}`;
