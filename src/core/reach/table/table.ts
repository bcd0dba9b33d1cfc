/** The reach table: who gets to whom, for every zone, interface, known host, station, the internet, the box and each door. */
import { IpSet, ServiceSet } from '#core/addr';
import type { Family } from '#core/addr';
import { Pairs, memo } from '#core/base';
import type { Statement } from '#core/notation';
import type { DoorRule } from '#core/semantics';
import { addressesOf } from '#core/site';
import type { Interface } from '#core/site';
import { FAMILIES } from '../block';
import type { Block } from '../block';
import type { Atom, Cell, Columns, Kind, Mark, Part, Sides, ReachEnd, Side } from './parts';
import { NONE, NOTHING, UNASKED, cellOf, joined } from './cell';
import { contentFor } from './content';
import { Ends } from './ends';
import type { Content } from './content';
import type { Follower } from '../follow';
import type { Outcome } from '../outcome';
import { ReachMemory } from './memory';
import { doorPlaces } from '../promise';
import type { Place } from '../places';
import { withoutLoneSelf } from '../reach';
import type { Reach } from '../reach';
import type { Passing } from '../reach';

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
  private readonly ends: Ends;
  private readonly parts = new Pairs<Atom, Atom, Part>();
  private readonly made = new Map<Side, readonly Cell[]>();
  private readonly atomRows = new Map<Atom, readonly Part[]>();
  private columned?: Columns;
  /** Where each destination stands. */
  private readonly places: ReadonlyMap<Side, number>;
  private readonly kinds = new Map<Atom, Kind>();
  private readonly behind = {
    4: new Map<DoorRule, readonly Place[]>(),
    6: new Map<DoorRule, readonly Place[]>(),
  };
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
    this.ends = new Ends(reach);
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
    this.places = new Map(this.destinations.map((to, i) => [this.ends.sideOf(to), i]));
  }

  /** What passes from one end to another. With it the whole row is worked out, once. */
  cell(from: ReachEnd, to: ReachEnd): Cell {
    const column = this.places.get(this.ends.sideOf(to));
    if (column === undefined) return NOTHING;
    return this.rowOf(from)[column]!;
  }

  /** Every source with what passes from it to each destination, in their order; a row that stays is the very same. */
  *rows(): Generator<{ readonly from: ReachEnd; readonly cells: readonly Cell[] }> {
    for (const from of this.sources) yield { from, cells: this.rowOf(from) };
  }

  private rowOf(from: ReachEnd): readonly Cell[] {
    const side = this.ends.sideOf(from);
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
    const asking = new Set(sources.flatMap((from) => this.ends.sideOf(from).atoms));
    return asking.size * this.columns().atoms.length;
  }

  private columns(): Columns {
    return (this.columned ??= this.gatherColumns());
  }

  private gatherColumns(): Columns {
    const place = new Map<Atom, number>();
    const sides = this.destinations.map((to) => this.ends.sideOf(to));
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
      return this.ends.interfacesOf(to).every((at) => this.content.isPlain(at)) ? 'core' : 'leaving';
    });
  }

  /** Whether the address of a door is among those of an atom. */
  private besideDoors(atom: Atom): boolean {
    return FAMILIES.some((f) =>
      this.ends
        .groups(atom, f)
        .some((g) => g.some((p) => this.follower.doors.doorsIn(p.addresses).length > 0)),
    );
  }

  private askerId(from: Atom, kind: Exclude<Kind, 'box'>): number {
    return memo(this.askers[kind], from, () => {
      // Answers may take a way of their own, to where doors are.
      const read = kind !== 'byDoor' && this.besideDoors(from) ? 'whole' : kind;
      const arrivals = this.ends.interfacesOf(from).map((at) => this.content[read](at));
      return this.memory.id(`${arrivals.join()}/${this.goalId(from)}`);
    });
  }

  /** Names what the box answers to an atom. */
  private boxId(from: Atom): number {
    return this.memory.id(
      FAMILIES.map((f) =>
        this.ends
          .groups(from, f)
          .map((origin) =>
            this.askBox(f, origin)
              .map((q) => q.key)
              .join(),
          )
          .join('|'),
      ).join('/'),
    );
  }

  private part(from: Atom, to: Atom): Part {
    // Most pairs of a large site have no way to each other, which costs less to see again than to remember.
    if (from.at && to.goal === 'door' && !this.isOpen(from.at, to.name!)) return NONE;
    if (from.at && to.at && from !== to && !this.follower.waysOut(from.at.table).has(to.at.name))
      return this.ends.holds(from) && this.ends.holds(to) ? NONE : UNASKED;
    return this.parts.of(from, to, () => {
      const kind = this.kindOf(to);
      if (kind === 'box') return this.ask(from, to);
      const pair = this.memory.pair(this.askerId(from, kind), this.goalId(to));
      return this.memory.whole.of(pair, () => this.ask(from, to));
    });
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
          this.ends
            .groups(atom, f)
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
      this.ends
        .groups(to, family)
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
      for (const origin of this.ends.groups(from, family)) {
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
    return { cell: cellOf(wanted, passing, (o) => this.markOf(o)), asked: true };
  }
}
