/** The reach table: who gets to whom, for every zone, interface, known host, station, the internet, the box and each door. */
import { IpSet, ServiceSet } from '#core/addr';
import type { Family } from '#core/addr';
import { Pairs, memo } from '#core/base';
import type { Statement, Who } from '#core/notation';
import type { DoorRule } from '#core/semantics';
import { addressesOf, zoneNamed } from '#core/site';
import type { Interface } from '#core/site';
import { FAMILIES, cutAll, pointOf, tidy } from './block';
import type { Block, Point } from './block';
import type { Atom, Cell, Columns, Kind, Mark, Part, Sides, ReachEnd, Side } from './cells';
import { contentFor } from './content';
import type { Content } from './content';
import type { Follower } from './follow';
import type { Outcome } from './outcome';
import { ReachMemory } from './memory';
import { doorPlaces } from './promise';
import type { Place } from './places';
import { groupsOf, withoutLoneSelf } from './reach';
import type { Reach } from './reach';
import type { Passing } from './reach';

const NOTHING: Cell = {
  verdict: 'none',
  services: ServiceSet.empty,
  everywhere: ServiceSet.empty,
  by: [],
  flows: [],
};

const AT = { start: 0, end: 0, line: 1, column: 1 };

/** What is asked about one group of places. */
interface Question {
  /** Names all that the answer is made from, but the group that asks. */
  readonly key: string;
  readonly destinations: IpSet;
  readonly passing: () => readonly Passing[];
  /** What counts as everything; all services where absent. */
  readonly services?: ServiceSet;
}

export class ReachTable {
  readonly sources: readonly ReachEnd[];
  readonly destinations: readonly ReachEnd[];
  private readonly content: Content;
  private readonly parts = new Pairs<Atom, Atom, Part>();
  private readonly made = new Map<Side, readonly Cell[]>();
  private readonly atomRows = new Map<Atom, readonly Part[]>();
  private columned?: Columns;
  /** Where each destination stands. */
  private readonly places: ReadonlyMap<Side, number>;
  private readonly groupsBy = {
    4: new Map<Atom, readonly (readonly Place[])[]>(),
    6: new Map<Atom, readonly (readonly Place[])[]>(),
  };
  private readonly sides = new Map<string, Side>();
  private readonly kinds = new Map<Atom, Kind>();
  private readonly held = new Map<Atom, boolean>();
  private readonly atoms = new Map<string, Atom>();
  private readonly behind = {
    4: new Map<DoorRule, readonly Place[]>(),
    6: new Map<DoorRule, readonly Place[]>(),
  };
  private readonly seats = new Map<Atom, readonly Interface[]>();
  private readonly goalIds = new Map<Atom, number>();
  private readonly askers = {
    core: new Map<Atom, number>(),
    leaving: new Map<Atom, number>(),
    whole: new Map<Atom, number>(),
    byDoor: new Map<Atom, number>(),
  };
  private readonly doors: ReadonlyMap<string, DoorRule>;

  /** With the memory of earlier tables, only what is made from something new is reckoned. */
  constructor(
    readonly reach: Reach,
    private readonly memory = new ReachMemory(),
  ) {
    const { site } = reach.model;
    this.content = contentFor(reach, memory);
    const named = (kind: ReachEnd['kind'], list: readonly { readonly name: string }[]): ReachEnd[] =>
      list.map(({ name }) => ({ kind, name }));
    const common: ReachEnd[] = [
      { kind: 'internet', name: 'internet' },
      ...named('zone', site.zones),
      ...named(
        'interface',
        site.interfaces.filter((i) => !i.off),
      ),
      ...named('known', site.knowns),
      ...named(
        'station',
        site.stations.filter((s) => !s.off),
      ),
    ];
    this.doors = new Map(reach.model.rules.doors.map((d) => [d.name, d]));
    this.sources = common;
    this.destinations = [
      ...common,
      { kind: 'box', name: site.box?.name ?? 'box' },
      ...named(
        'door',
        reach.model.rules.doors.map((d) => d.statement),
      ),
    ];
    this.places = new Map(this.destinations.map((to, i) => [this.sideOf(to), i]));
  }

  /** What passes from one end to another. With it the whole row is worked out, once. */
  cell(from: ReachEnd, to: ReachEnd): Cell {
    const column = this.places.get(this.sideOf(to));
    if (column === undefined) return NOTHING;
    return this.rowOf(from)[column]!;
  }

  /** Every source with what passes from it to each destination, in their order; a row that stays is the very same. */
  *rows(): Generator<{ readonly from: ReachEnd; readonly cells: readonly Cell[] }> {
    for (const from of this.sources) yield { from, cells: this.rowOf(from) };
  }

  private rowOf(from: ReachEnd): readonly Cell[] {
    const side = this.sideOf(from);
    return memo(this.made, side, () => {
      const columns = this.columns();
      const own = side.atoms.map((atom) => memo(this.atomRows, atom, () => this.atomRow(atom, columns)));
      return this.row(side, own, columns);
    });
  }

  /** Every pair of ends with what passes between them, or those from some sources. */
  *all(
    sources = this.sources,
  ): Generator<{ readonly from: ReachEnd; readonly to: ReachEnd; readonly cell: Cell }> {
    for (const from of sources)
      for (const [i, cell] of this.rowOf(from).entries()) yield { from, to: this.destinations[i]!, cell };
  }

  /** How many questions the rows of some sources are: from each of their parts to everything. */
  questions(sources = this.sources): number {
    const asking = new Set(sources.flatMap((from) => this.sideOf(from).atoms));
    return asking.size * this.columns().atoms.length;
  }

  private columns(): Columns {
    return (this.columned ??= this.gatherColumns());
  }

  private gatherColumns(): Columns {
    const place = new Map<Atom, number>();
    const sides = this.destinations.map((to) => this.sideOf(to));
    const members = sides.map((side) => side.atoms.map((atom) => memo(place, atom, () => place.size)));
    const atoms = [...place.keys()];
    const kinds = atoms.map((atom) => this.kindOf(atom));
    return {
      atoms,
      ids: atoms.map((atom) => this.goalId(atom)),
      kinds,
      used: new Set(kinds),
      key: this.memory.id(atoms.map((atom) => atom.key).join()),
      members,
      shape: this.memory.id(sides.map((side, i) => `${side.key}:${members[i]!.join(' ')}`).join()),
    };
  }

  /** What passes from one atom to each; those of the last row of that name whose keys are the same stay. */
  private atomRow(from: Atom, columns: Columns): readonly Part[] {
    const { atoms, kinds, used } = columns;
    const askers = {
      core: this.askerId(from, 'core'),
      leaving: this.askerId(from, 'leaving'),
      byDoor: this.askerId(from, 'byDoor'),
      whole: this.askerId(from, 'whole'),
      box: this.memory.id(`${this.goalId(from)} ${this.boxId(from)}`),
    };
    const last = this.memory.atomRows.get(from.key);
    const places = last && this.placesIn(last.columns, columns);
    const stays = new Set([...used].filter((kind) => last?.askers[kind] === askers[kind]));
    let parts: readonly Part[];
    if (last && places && places.same && stays.size === used.size) {
      const fresh: Part[] = [...last.parts];
      for (const i of places.changed) fresh[i] = this.part(from, atoms[i]!);
      parts = places.changed.every((i) => fresh[i] === last.parts[i]) ? last.parts : fresh;
    } else {
      parts = atoms.map((atom, i) => {
        const at = stays.has(kinds[i]!) ? places?.of[i] : undefined;
        return at === undefined ? this.part(from, atom) : last!.parts[at]!;
      });
      if (last && places?.same && parts.every((part, i) => part === last.parts[i])) parts = last.parts;
    }
    this.memory.atomRows.set(from.key, { columns, askers, parts });
    return parts;
  }

  private readonly known = new Map<Columns, Sides>();
  /** Where these columns stood among earlier ones. */
  private placesIn(last: Columns, { atoms, ids, kinds, key }: Columns): Sides {
    return memo(this.known, last, () => {
      const same = last.key === key;
      const places = same ? undefined : new Map(last.ids.map((id, i) => [id, i]));
      const of = atoms.map((_, i) => {
        const at = places ? places.get(ids[i]!) : i;
        return at !== undefined && last.ids[at] === ids[i] && last.kinds[at] === kinds[i] ? at : undefined;
      });
      return { same, of, changed: of.flatMap((at, i) => (at === undefined ? [i] : [])) };
    });
  }

  /** The cells of one source; those whose parts are the very same as last time stay the very same. */
  private row(from: Side, rows: readonly (readonly Part[])[], { members, shape }: Columns): readonly Cell[] {
    const last = this.memory.rows.get(from.key);
    const like = last?.shape === shape && last.rows.length === rows.length ? last : undefined;
    if (like && rows.every((row, k) => row === like.rows[k])) return like.cells;
    const others = rows.flatMap((row, k) => (like && row === like.rows[k] ? [] : [k]));
    const cells = members.map((list, j) => {
      if (like && others.every((k) => list.every((m) => rows[k]![m] === like.rows[k]![m])))
        return like.cells[j]!;
      if (rows.length === 1 && list.length === 1) return rows[0]![list[0]!]!.cell;
      const parts: Part[] = [];
      for (const row of rows) for (const m of list) parts.push(row[m]!);
      return joined(parts).cell;
    });
    this.memory.rows.set(from.key, { shape, rows, cells });
    return cells;
  }

  /** The statements that let pass what a cell holds, as they stand in the text of this table. */
  statementsOf(cell: Cell): Statement[] {
    const { site } = this.reach.model;
    return cell.by.flatMap((mark) => {
      const [kind, name = '', nth] = mark.split(' ');
      const named = (list: readonly { readonly name: string; readonly statement: Statement }[]) =>
        list.find((x) => x.name === name)?.statement;
      if (kind === 'passage') {
        const [from = '', to = ''] = name.split('>');
        return this.follower.policy.rulesBetween(from, to)[Number(nth)]?.statement ?? [];
      }
      if (kind === 'door') return this.doors.get(name)?.statement ?? [];
      return named(kind === 'zone' ? site.zones : site.interfaces) ?? [];
    });
  }

  private markOf(outcome: Outcome): Mark[] {
    const { statement, arrival, departure, door } = outcome;
    if (door) return [`door ${door.name}`];
    if (statement?.kind === 'zone') return [`zone ${statement.name}`];
    if (statement?.kind === 'interface') return [`interface ${statement.name}`];
    const [from, to] = [arrival.zone, departure?.zone];
    if (statement?.kind !== 'passage' || !from || !to) return [];
    const nth = this.reach.follower.policy
      .rulesBetween(from.name, to.name)
      .findIndex((rule) => rule.statement === statement);
    return [`passage ${from.name}>${to.name} ${nth}`];
  }

  private get follower(): Follower {
    return this.reach.follower;
  }

  /** How much of who asks matters to a goal. */
  private kindOf(to: Atom): Kind {
    return memo(this.kinds, to, () => {
      if (to.goal) return to.goal === 'box' ? 'box' : 'byDoor';
      if (this.besideDoors(to)) return 'whole';
      return this.interfacesOf(to).every((at) => this.content.isPlain(at)) ? 'core' : 'leaving';
    });
  }

  /** Whether the address of a door is among those of an atom. */
  private besideDoors(atom: Atom): boolean {
    return FAMILIES.some((f) =>
      this.groups(atom, f).some((g) => g.some((p) => this.follower.doors.doorsIn(p.addresses).length > 0)),
    );
  }

  private askerId(from: Atom, kind: Exclude<Kind, 'box'>): number {
    return memo(this.askers[kind], from, () => {
      // Answers may take a way of their own, to where doors are.
      const read = kind !== 'byDoor' && this.besideDoors(from) ? 'whole' : kind;
      const arrivals = this.interfacesOf(from).map((at) => this.content[read](at));
      return this.memory.id(`${arrivals.join()}/${this.goalId(from)}`);
    });
  }

  /** Names what the box answers to an atom. */
  private boxId(from: Atom): number {
    return this.memory.id(
      FAMILIES.map((f) =>
        this.groups(from, f)
          .map((origin) =>
            this.askBox(f, origin)
              .map((q) => q.key)
              .join(),
          )
          .join('|'),
      ).join('/'),
    );
  }

  private sideOf(end: ReachEnd): Side {
    const key = `${end.kind} ${end.name}`;
    return memo(this.sides, key, () => ({ key, atoms: this.gatherAtoms(end) }));
  }

  private atom(key: string, who: Who, at?: Interface): Atom {
    return memo(this.atoms, key, () => ({ key, who, at }));
  }

  private gatherAtoms(end: ReachEnd): readonly Atom[] {
    const { site } = this.reach.model;
    const internet = () => this.atom('internet', { type: 'internet', at: AT });
    const named = (kind: 'interface' | 'known' | 'station', name: string, at?: Interface) =>
      this.atom(`${kind} ${name}`, { type: 'name', kind, name, at: AT }, at);
    switch (end.kind) {
      case 'internet':
        return [internet()];
      case 'interface':
        return [named('interface', end.name, this.follower.ways.interfaces.get(end.name))];
      case 'zone': {
        const own = site.interfaces
          .filter((i) => !i.off && i.zone?.name === end.name)
          .map((i) => named('interface', i.name, i));
        return zoneNamed(site, end.name)?.upstream ? [...own, internet()] : own;
      }
      case 'known':
      case 'station':
        return [named(end.kind, end.name)];
      case 'box':
        return [memo(this.atoms, 'box', (): Atom => ({ key: 'box', goal: 'box' }))];
      case 'door':
        return [
          memo(this.atoms, `door ${end.name}`, (): Atom => ({
            key: `door ${end.name}`,
            goal: 'door',
            name: end.name,
          })),
        ];
    }
  }

  private groups(atom: Atom, family: Family): readonly (readonly Place[])[] {
    return memo(this.groupsBy[family], atom, () =>
      groupsOf(this.merged(this.placesOf(atom, family), family)),
    );
  }

  private placesOf(atom: Atom, family: Family): readonly Place[] {
    if (atom.at) return this.reach.placesAt(atom.at, family);
    return atom.who ? this.reach.places(atom.who, family) : [];
  }

  /** Places on one segment that send alike are one: what passes to a host of it passes to every host. */
  private merged(places: readonly Place[], family: Family): readonly Place[] {
    if (places.length < 2) return places;
    const out = new Map<string, Place>();
    for (const [i, place] of places.entries()) {
      const alone = place.at.uplink || place.beyond;
      const sent = alone ? undefined : this.reach.delivery.sendsToBox(place, family, 'anything');
      const key = sent ? `${place.at.name} ${sent.destinations.key} ${sent.onLink.key}` : String(i);
      const same = out.get(key);
      out.set(
        key,
        same ? { at: place.at, beyond: false, addresses: same.addresses.union(place.addresses) } : place,
      );
    }
    return [...out.values()];
  }

  /** Whether anybody may sit at an atom. */
  private holds(atom: Atom): boolean {
    return memo(this.held, atom, () => FAMILIES.some((f) => this.groups(atom, f).length > 0));
  }

  private part(from: Atom, to: Atom): Part {
    // Most pairs of a large site have no way to each other, which costs less to see again than to remember.
    if (from.at && to.goal === 'door' && !this.isOpen(from.at, to.name!)) return NONE;
    if (from.at && to.at && from !== to && !this.follower.waysOut(from.at.table).has(to.at.name))
      return this.holds(from) && this.holds(to) ? NONE : UNASKED;
    return this.parts.of(from, to, () => {
      const kind = this.kindOf(to);
      if (kind === 'box') return this.ask(from, to);
      const pair = this.memory.pair(this.askerId(from, kind), this.goalId(to));
      return this.memory.whole.of(pair, () => this.ask(from, to));
    });
  }

  /** The interfaces at which an atom's places are. */
  private interfacesOf(atom: Atom): readonly Interface[] {
    return memo(this.seats, atom, () => [
      ...new Set(FAMILIES.flatMap((f) => this.groups(atom, f).flatMap((g) => g.map((p) => p.at)))),
    ]);
  }

  /** Names an atom's places and all that delivery to and from them reads. */
  private goalId(atom: Atom): number {
    return memo(this.goalIds, atom, () => {
      const door = atom.goal === 'door' ? this.doors.get(atom.name!) : undefined;
      if (door)
        return this.content.door(
          door,
          FAMILIES.flatMap((f) => this.behindDoor(door, f).map((p) => [p, f] as const)),
        );
      return this.memory.id(
        FAMILIES.map((f) =>
          this.groups(atom, f)
            .map((g) => g.map((p) => this.content.place(p, f)).join())
            .join(';'),
        ).join('|'),
      );
    });
  }

  private behindDoor(door: DoorRule, family: Family): readonly Place[] {
    return memo(this.behind[family], door, () => doorPlaces(this.reach, door, family));
  }

  private isOpen(from: Interface, name: string): boolean {
    const door = this.doors.get(name);
    return !door || this.follower.doors.openAt(from, door.outside).includes(door);
  }

  private ask(from: Atom, to: Atom): Part {
    if (to.goal === 'box') return this.answer(from, (family, origin) => this.askBox(family, origin));
    if (to.goal === 'door') return this.doorPart(from, to.name!);
    return this.answer(from, (family, origin) =>
      this.groups(to, family)
        .filter((goal) => !(origin[0]!.at.uplink && goal[0]!.at.uplink))
        .map((goal) => ({
          key: this.pairsOf(origin, goal, family),
          destinations: goal[0]!.addresses,
          passing: () =>
            origin.flatMap((p) => goal.flatMap((q) => this.reach.passings(p, q, family, 'anything'))),
        })),
    );
  }

  private pairsOf(origin: readonly Place[], goal: readonly Place[], family: Family): string {
    const pairs: string[] = [];
    for (const p of origin)
      for (const q of goal)
        if (p.at === q.at || this.follower.waysOut(p.at.table).has(q.at.name))
          pairs.push(this.content.passing(p, q, family));
    return pairs.join('|');
  }

  private doorPart(from: Atom, name: string): Part {
    const door = this.doors.get(name);
    // The door of another draft.
    if (!door) return UNASKED;
    const services = ServiceSet.of(door.services, 4);
    return this.answer(from, (family, origin) =>
      this.behindDoor(door, family).map((goal) => ({
        key: `${name} ${origin.map((p) => `${this.content.entry(p.at, family)} ${this.content.doorsAt(p.at, door.outside)}`).join('|')} to ${this.content.place(goal, family)}`,
        destinations: IpSet.ofAddresses([door.outside]),
        // A door is for who is led to its address: what somebody on the line might send is not that.
        passing: () => origin.flatMap((p) => this.reach.through(door, p, goal, family, 'routed')),
        services,
      })),
    );
  }

  private askBox(family: Family, origin: readonly Place[]): Question[] {
    const { prospects } = this.reach.model;
    // Asked by the address that the asker would take for the box: that of its own interface.
    const own = IpSet.ofAddresses(
      origin.flatMap((p) => addressesOf(p.at, prospects).map((a) => a.address)),
    ).only(family);
    if (own.isEmpty) return [];
    return [
      {
        key: `box ${own.key} ${origin.map((p) => this.content.answers(p.at, family)).join('|')}`,
        destinations: own,
        passing: () => origin.flatMap((p) => this.reach.answers(p, own, family, 'routed')),
      },
    ];
  }

  /** What became of the questions that each group of places asks. */
  private answer(from: Atom, ask: (family: Family, origin: readonly Place[]) => readonly Question[]): Part {
    const parts: Part[] = [];
    for (const family of FAMILIES)
      for (const origin of this.groups(from, family)) {
        const questions = ask(family, origin);
        if (!questions.length) continue;
        const asker = origin.map((p) => this.content.place(p, family)).join(',');
        for (const question of questions) {
          const key = `${family} ${asker} ${question.key}`;
          parts.push(this.memory.parts.of(key, () => this.partOf(origin, question)));
        }
      }
    return joined(parts);
  }

  private partOf(origin: readonly Place[], question: Question): Part {
    const wanted: Block = {
      sources: origin[0]!.addresses,
      destinations: question.destinations,
      services: question.services ?? ServiceSet.all,
    };
    const passing = question.passing();
    if (!passing.length) return NONE;
    if (!withoutLoneSelf([wanted]).length) return UNASKED;
    return { cell: this.cellOf(wanted, passing), asked: true };
  }

  private cellOf(wanted: Block, passing: readonly Passing[]): Cell {
    const good = passing.filter((x) => x.answered);
    if (!good.length) return NOTHING;
    const flows = tidy(good.map((x) => x.answered!));
    const missing = withoutLoneSelf(cutAll([wanted], flows));
    const services = flows.reduce((set, b) => set.union(b.services), ServiceSet.empty);
    const everywhere = missing.reduce((set, b) => set.minus(b.services), wanted.services);
    const shown = new Set(good.flatMap((x) => (x.outcome?.departure?.uplink ? [x.outcome.shown] : [])));
    const [only] = shown;
    return {
      verdict: missing.length ? 'some' : 'all',
      services,
      everywhere,
      by: [...new Set(good.flatMap((x) => (x.outcome ? this.markOf(x.outcome) : [])))],
      leavesAs: shown.size === 1 ? only : undefined,
      flows,
    };
  }
}

const NONE: Part = { cell: NOTHING, asked: true };
const UNASKED: Part = { cell: NOTHING, asked: false };

/** Several parts as one. */
function joined(parts: readonly Part[]): Part {
  const first = parts.find((p) => p.asked);
  if (!first) return UNASKED;
  if (parts.every((p) => p === first || !p.asked)) return first;
  return { cell: joinedCell(parts), asked: true };
}

function joinedCell(parts: readonly Part[]): Cell {
  const some = parts.flatMap((p) => (p.asked && p.cell.verdict !== 'none' ? [p.cell] : []));
  if (!some.length) return NOTHING;
  const whole = !parts.some((p) => p.asked && p.cell.verdict === 'none');
  const shown = new Set(some.map((c) => c.leavesAs));
  const [only] = shown;
  return {
    verdict: whole && some.every((c) => c.verdict === 'all') ? 'all' : 'some',
    services: some.reduce((set, c) => set.union(c.services), ServiceSet.empty),
    everywhere: whole
      ? some.reduce((set, c) => set.intersect(c.everywhere), ServiceSet.all)
      : ServiceSet.empty,
    by: [...new Set(some.flatMap((c) => c.by))],
    leavesAs: shown.size === 1 ? only : undefined,
    flows: some.flatMap((c) => c.flows),
  };
}

/** How one pair of ends differs between two sites. */
export interface ReachChange {
  readonly from: ReachEnd;
  readonly to: ReachEnd;
  /** Flows that pass now and did not, or the other way. */
  readonly what: 'opened' | 'closed';
  readonly services: ServiceSet;
  /** Whether all of both ends take part. */
  readonly whole: boolean;
  readonly witness: Point;
}

/** What passes in one table and not in the other, by pairs of ends that both have. `kinds` are the ends looked at. */
export function compareReach(
  before: ReachTable,
  after: ReachTable,
  kinds: readonly ReachEnd['kind'][] = ['internet', 'zone', 'box', 'door'],
): ReachChange[] {
  const out: ReachChange[] = [];
  const asked = (e: ReachEnd) => kinds.includes(e.kind);
  for (const from of after.sources.filter(asked))
    for (const to of after.destinations.filter(asked)) {
      const [was, is] = [before.cell(from, to), after.cell(from, to)];
      if (was === is) continue;
      for (const [what, here, there] of [
        ['opened', is, was],
        ['closed', was, is],
      ] as const) {
        // What was taken over from table to table is the very same block on both sides.
        const known = new Set(there.flows);
        const flows = cutAll(
          here.flows.filter((b) => !known.has(b)),
          there.flows,
        );
        if (!flows.length) continue;
        const services = flows.reduce((set, b) => set.union(b.services), ServiceSet.empty);
        out.push({
          from,
          to,
          what,
          services,
          whole: there.services.intersect(services).isEmpty && services.minus(here.everywhere).isEmpty,
          witness: pointOf(flows[0]!),
        });
      }
    }
  return out;
}
