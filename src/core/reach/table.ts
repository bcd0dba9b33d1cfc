/** The reach table: who gets to whom, for every zone, interface, known host, station, the internet, the box and each door. */
import { IpSet, ServiceSet } from '#core/addr';
import type { Family, Ip } from '#core/addr';
import type { Statement, Who } from '#core/notation';
import type { DoorRule } from '#core/semantics';
import { addressesOf } from '#core/site';
import { FAMILIES, cutAll, pointOf, tidy } from './block';
import type { Block, Point, Region } from './block';
import { doorPlaces } from './promise';
import type { Place } from './places';
import { groupsOf, withoutSelf } from './reach';
import type { Reach } from './reach';
import type { Passing } from './reach';

/** One row or column of the table. */
export interface ReachEnd {
  readonly kind: 'zone' | 'interface' | 'known' | 'station' | 'internet' | 'box' | 'door';
  readonly name: string;
}

/** What passes from one end to another. */
export interface Cell {
  /** All services between all addresses, some, or nothing. */
  readonly verdict: 'all' | 'some' | 'none';
  /** Services that at least one address gets through to at least one other with. */
  readonly services: ServiceSet;
  /** Services that every address gets through to every other with. */
  readonly everywhere: ServiceSet;
  /** The statements that let it pass. */
  readonly by: readonly Statement[];
  /** The one source address that is shown outside, where there is one. */
  readonly leavesAs?: Ip;
  /** The flows, for comparing; of each family. */
  readonly flows: Region;
}

const NOTHING: Cell = {
  verdict: 'none',
  services: ServiceSet.empty,
  everywhere: ServiceSet.empty,
  by: [],
  flows: [],
};

/** A part of an end: one interface or the internet, or what is one by itself. */
type Atom =
  | { readonly atom: 'interface'; readonly name: string }
  | { readonly atom: 'internet' }
  | { readonly atom: 'who'; readonly who: Who; readonly key: string };

const AT = { start: 0, end: 0, line: 1, column: 1 };

/** What was worked out about one pair of atoms. */
interface Part {
  readonly cell: Cell;
  /** There was somebody on both sides. */
  readonly asked: boolean;
}

export class ReachTable {
  readonly sources: readonly ReachEnd[];
  readonly destinations: readonly ReachEnd[];
  private readonly parts = new Map<string, Part>();
  private readonly placesOf = new Map<string, readonly (readonly Place[])[]>();
  private readonly atoms = new WeakMap<ReachEnd, readonly Atom[]>();
  private readonly peopled = new Map<string, boolean>();
  private readonly doors: ReadonlyMap<string, DoorRule>;

  constructor(readonly reach: Reach) {
    const { site } = reach.ground;
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
    this.doors = new Map(reach.rules.doors.map((d) => [d.statement.name, d]));
    this.sources = common;
    this.destinations = [
      ...common,
      { kind: 'box', name: site.box?.name ?? 'box' },
      ...named(
        'door',
        reach.rules.doors.map((d) => d.statement),
      ),
    ];
  }

  /** What passes from one end to another. Its parts are worked out once. */
  cell(from: ReachEnd, to: ReachEnd): Cell {
    // Most pairs of a large site have no way to each other, which costs less to see again than to remember.
    if (from.kind === 'interface' && to.kind === 'interface' && !this.meets(from.name, to.name))
      return NOTHING;
    const sources = this.atomsOf(from);
    if (to.kind === 'box') return joined(sources.map((a) => this.boxPart(a)));
    if (to.kind === 'door') return joined(sources.map((a) => this.doorPart(a, to.name)));
    const goals = this.atomsOf(to);
    if (sources.length === 1 && goals.length === 1) return this.part(sources[0]!, goals[0]!).cell;
    const parts: Part[] = [];
    for (const a of sources) for (const b of goals) parts.push(this.part(a, b));
    return joined(parts);
  }

  /** Whether anything may get from one interface to another. */
  private meets(from: string, to: string): boolean {
    return from === to || FAMILIES.some((f) => this.reach.follower.departures(from, f).has(to));
  }

  /** Every pair of ends with what passes between them. */
  *all(): Generator<{ readonly from: ReachEnd; readonly to: ReachEnd; readonly cell: Cell }> {
    for (const from of this.sources)
      for (const to of this.destinations) yield { from, to, cell: this.cell(from, to) };
  }

  private atomsOf(end: ReachEnd): readonly Atom[] {
    let known = this.atoms.get(end);
    if (!known) this.atoms.set(end, (known = this.gatherAtoms(end)));
    return known;
  }

  /** Whether anybody may sit at an interface. */
  private holds(name: string): boolean {
    let known = this.peopled.get(name);
    if (known === undefined) {
      known = FAMILIES.some((f) => this.groups({ atom: 'interface', name }, f).length > 0);
      this.peopled.set(name, known);
    }
    return known;
  }

  private gatherAtoms(end: ReachEnd): Atom[] {
    const { site } = this.reach.ground;
    switch (end.kind) {
      case 'internet':
        return [{ atom: 'internet' }];
      case 'interface':
        return [{ atom: 'interface', name: end.name }];
      case 'zone': {
        const own = site.interfaces
          .filter((i) => !i.off && i.zone?.name === end.name)
          .map((i): Atom => ({ atom: 'interface', name: i.name }));
        return site.zones.find((z) => z.name === end.name)?.upstream ? [...own, { atom: 'internet' }] : own;
      }
      case 'known':
      case 'station':
        return [
          {
            atom: 'who',
            who: { type: 'name', kind: end.kind, name: end.name, at: AT },
            key: `${end.kind} ${end.name}`,
          },
        ];
      case 'box':
      case 'door':
        return [];
    }
  }

  private groups(atom: Atom, family: Family): readonly (readonly Place[])[] {
    const key = `${family} ${keyOf(atom)}`;
    const known = this.placesOf.get(key);
    if (known) return known;
    const who: Who =
      atom.atom === 'internet'
        ? { type: 'internet', at: AT }
        : atom.atom === 'interface'
          ? { type: 'name', kind: 'interface', name: atom.name, at: AT }
          : atom.who;
    const made = groupsOf(this.reach.places(who, family));
    this.placesOf.set(key, made);
    return made;
  }

  private part(from: Atom, to: Atom): Part {
    if (from.atom === 'interface' && to.atom === 'interface' && !this.meets(from.name, to.name))
      return this.holds(from.name) && this.holds(to.name) ? NONE : UNASKED;
    const key = `${keyOf(from)}>${keyOf(to)}`;
    return this.remember(key, () =>
      this.joinGroups(from, (family, origin) =>
        this.groups(to, family).map((goal) => ({
          destinations: goal[0]!.addresses,
          outside: origin[0]!.at.uplink && goal[0]!.at.uplink,
          passing: () =>
            origin.flatMap((p) => goal.flatMap((q) => this.reach.passings(p, q, family, 'anything'))),
        })),
      ),
    );
  }

  private doorPart(from: Atom, name: string): Part {
    const door = this.doors.get(name);
    // The door of another draft.
    if (!door) return UNASKED;
    const { follower } = this.reach;
    if (
      from.atom === 'interface' &&
      !FAMILIES.some((f) => follower.departures(from.name, f).has(`door ${name}`))
    )
      return NONE;
    const services = ServiceSet.of(door.services, 4);
    return this.remember(`${keyOf(from)}>door ${name}`, () =>
      this.joinGroups(from, (family, origin) =>
        this.doorGoals(door, family).map((goal) => ({
          destinations: IpSet.ofAddresses([door.outside]),
          outside: false,
          // A door is for who is led to its address: what somebody on the line might send is not that.
          passing: () => origin.flatMap((p) => this.reach.through(door, p, goal, family, 'routed')),
          services,
        })),
      ),
    );
  }

  private doorGoals(door: DoorRule, family: Family): readonly Place[] {
    const key = `${family} door ${door.statement.name}`;
    const known = this.placesOf.get(key);
    if (known) return known[0]!;
    const made = doorPlaces(this.reach, door, family);
    this.placesOf.set(key, [made]);
    return made;
  }

  private boxPart(from: Atom): Part {
    return this.remember(`${keyOf(from)}>box`, () =>
      this.joinGroups(from, (family, origin) => {
        const { site, prospects } = this.reach.ground;
        // Asked by the address that the asker would take for the box: that of its own interface.
        const own = IpSet.ofAddresses(
          origin.flatMap((p) =>
            (site.interfaces.includes(p.at) ? addressesOf(p.at, prospects) : []).map((a) => a.address),
          ),
        ).only(family);
        if (own.isEmpty) return [];
        return [
          {
            destinations: own,
            outside: false,
            passing: () => origin.flatMap((p) => this.reach.answers(p, own, family, 'routed')),
          },
        ];
      }),
    );
  }

  private remember(key: string, make: () => Part): Part {
    const known = this.parts.get(key);
    if (known) return known;
    const made = make();
    this.parts.set(key, made);
    return made;
  }

  private joinGroups(
    from: Atom,
    goals: (
      family: Family,
      origin: readonly Place[],
    ) => readonly {
      readonly destinations: IpSet;
      readonly outside: boolean;
      readonly passing: () => readonly Passing[];
      /** What counts as everything; all services where absent. */
      readonly services?: ServiceSet;
    }[],
  ): Part {
    const parts: Part[] = [];
    let nothing = false;
    for (const family of FAMILIES)
      for (const origin of this.groups(from, family))
        for (const goal of goals(family, origin)) {
          if (goal.outside) continue;
          const services = goal.services ?? ServiceSet.all;
          const wanted: Block = {
            sources: origin[0]!.addresses,
            destinations: goal.destinations,
            services,
          };
          const passing = goal.passing();
          if (!passing.length) nothing = true;
          else if (withoutSelf([wanted]).length) parts.push({ cell: cellOf(wanted, passing), asked: true });
        }
    if (nothing) parts.push(NONE);
    return parts.length ? { cell: joined(parts), asked: true } : UNASKED;
  }
}

const NONE: Part = { cell: NOTHING, asked: true };
const UNASKED: Part = { cell: NOTHING, asked: false };

const keyOf = (atom: Atom): string =>
  atom.atom === 'interface' ? `interface ${atom.name}` : atom.atom === 'internet' ? 'internet' : atom.key;

function cellOf(wanted: Block, passing: readonly Passing[]): Cell {
  const good = passing.filter((x) => x.answered);
  if (!good.length) return NOTHING;
  const flows = tidy(good.map((x) => x.answered!));
  const missing = withoutSelf(cutAll([wanted], flows));
  const services = flows.reduce((set, b) => set.union(b.services), ServiceSet.empty);
  const everywhere = missing.reduce((set, b) => set.minus(b.services), wanted.services);
  const shown = new Set(good.flatMap((x) => (x.outcome?.departure?.uplink ? [x.outcome.shown] : [])));
  const [only] = shown;
  return {
    verdict: missing.length ? 'some' : 'all',
    services,
    everywhere,
    by: [...new Set(good.flatMap((x) => x.outcome?.statement ?? []))],
    leavesAs: shown.size === 1 ? only : undefined,
    flows,
  };
}

function joined(parts: readonly Part[]): Cell {
  const asked = parts.filter((p) => p.asked);
  if (!asked.length) return NOTHING;
  if (asked.every((p) => p === asked[0])) return asked[0]!.cell;
  const cells = asked.map((p) => p.cell);
  const some = cells.filter((c) => c.verdict !== 'none');
  if (!some.length) return NOTHING;
  const shown = new Set(some.map((c) => c.leavesAs));
  const [only] = shown;
  return {
    verdict: cells.every((c) => c.verdict === 'all') ? 'all' : 'some',
    services: some.reduce((set, c) => set.union(c.services), ServiceSet.empty),
    everywhere: cells.reduce((set, c) => set.intersect(c.everywhere), ServiceSet.all),
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
        const flows = cutAll(here.flows, there.flows);
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
