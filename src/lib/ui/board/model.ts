/** The board as data: columns of ports, rows of zones, slabs where they meet. No markup here. */
import { formatIp, formatPrefix, isIpv4, networkOf } from '#core/addr';
import type { Ipv6, Prefix } from '#core/addr';
import { patchOf } from '#core/base';
import type { Change } from '#core/change';
import { uplinksInOrder } from '#core/edits';
import { LOGINS, portionOf, shareTogether } from '#core/semantics';
import type { Interface, Prospects, Site, Station, Wiring, Zone } from '#core/site';
import { lookOf } from '../looks';
import {
  addressesOf,
  circuitsOf,
  claimantAt,
  interfaceFor,
  routingSwitch,
  describedPorts,
  interfaceMac,
  poolSize,
  primaryOf,
  slaacAddress,
} from '#core/site';
import type { FindingView } from '../../session/index';

/** One thing that is plugged into a port: a circuit, a switch, a station. */
export interface Plugged {
  /** `circuit/northmoor`. */
  readonly subject: string;
  readonly text: string;
  /** The tag that a circuit arrives with. */
  readonly tag?: number;
}

export interface Column {
  readonly port: string;
  readonly label: string;
  readonly off: boolean;
  /** `none`: no cable that the wiring tells of. */
  readonly light: 'up' | 'down' | 'off' | 'none';
  readonly speed: string;
  readonly farEnd: string;
  readonly plugged: readonly Plugged[];
  /** No slab hangs here: it shrinks to a sliver. */
  readonly sliver: boolean;
  readonly width: number;
  /** How many single lines stand side by side. */
  readonly abreast: number;
  readonly tags: readonly number[];
}

/** How much of each slab is drawn. Fewer slabs in a cell have more room. */
export type Density = 'full' | 'short' | 'line' | 'folded';
export const DENSITIES: readonly Density[] = ['full', 'short', 'line', 'folded'];

export interface Row {
  readonly name: string;
  /** Absent in the row of what is in no zone yet, and in a group of zones. */
  readonly zone?: Zone;
  /** The zones of a group. */
  readonly group: readonly string[];
  readonly tint: number;
  readonly texture: number;
  readonly about: string;
  /** Which logins of the box answer to this zone: `ssh https 8443`, with * where only some may. */
  readonly logins: string;
  readonly density: Density;
  readonly total: number;
  /** How many a filter leaves. */
  readonly shown: number;
}

export type DraftWord = '' | 'new' | 'changed' | 'removed';

export interface Slab {
  readonly subject: string;
  readonly name: string;
  readonly row: string;
  /** Its zone, said where a row holds several. */
  readonly zone: string;
  readonly port: string;
  /** Further ports of a bridge. */
  readonly stubs: readonly string[];
  readonly draft: DraftWord;
  readonly tag: string;
  readonly off: boolean;
  readonly dark: boolean;
  readonly address: string;
  /** How the address was got. */
  readonly how: 'written' | 'learned' | 'supposed' | 'none';
  /** `lease`, `session`: what a learned address rests on. */
  readonly learnedBy: string;
  readonly oldAddress: string;
  /** Other clauses as the box runs them, where they differ. */
  readonly was: readonly string[];
  readonly also: string;
  readonly alsoCount: number;
  /** IPv6 addresses, each with how it was got. */
  readonly six: readonly { readonly text: string; readonly how: string; readonly whole: string }[];
  readonly facts: readonly string[];
  readonly findings: readonly FindingView[];
  readonly held: boolean;
  /** What somebody changed of it on the live box by hand, in sentences. */
  readonly byHand: readonly string[];
  readonly texture: number;
  readonly tint: number;
}

/** A slab that reaches over several columns, on a lane of its own above the cells of its row. */
export interface Lane {
  readonly slab: Slab;
  /** Columns of its members, in order. */
  readonly columns: readonly number[];
  /** Whether the members are neighbours, so that one slab lies over all of them. */
  readonly across: boolean;
  /** Its line above the cells, or -1 where it lies in theirs, since nothing else is there. */
  readonly level: number;
}

export interface Board {
  readonly columns: readonly Column[];
  readonly rows: readonly Row[];
  readonly slabs: readonly Slab[];
  /** Slabs by row and port, those of bridges left out. */
  readonly cells: ReadonlyMap<string, readonly Slab[]>;
  readonly lanes: ReadonlyMap<string, readonly Lane[]>;
  /** What a filter hides that is wrong. */
  readonly hidden: { readonly slabs: number; readonly errors: number; readonly warnings: number };
  /** Runs of small zones that could be drawn as one row each. */
  readonly groupable: number;
}

/** A board on which nothing is drawn yet. */
export const NOTHING: Board = {
  columns: [],
  rows: [],
  slabs: [],
  cells: new Map(),
  lanes: new Map(),
  hidden: { slabs: 0, errors: 0, warnings: 0 },
  groupable: 0,
};

/** The row of interfaces without a zone, and the column of those without a port. */
export const NO_ZONE = '';
export const NO_PORT = '';

const STEPS = [168, 200, 232] as const;
/** Width of a column over which only bridges lie: they share what one slab needs. */
const UNDER_BRIDGE = 116;
/** Width of a single line with its gap, and how many stand side by side at most. */
const LINE_WIDTH = 240;
const MOST_ABREAST = 4;
/** Zones in a run that are worth drawing as one row. */
const LEAST_GROUP = 4;

export const cellKey = (row: string, port: string): string => `${row}|${port}`;

export interface BoardInput {
  readonly site: Site;
  readonly running: Site;
  readonly wiring: Wiring;
  readonly prospects: Prospects;
  readonly changes: readonly Change[];
  readonly findings: readonly FindingView[];
  readonly held: readonly string[];
  /** What is not on the live box as it was told, by the name of an interface. */
  readonly byHand?: ReadonlyMap<string, readonly string[]>;
  /** Ports whose cable a drill has pulled. */
  readonly cut: readonly string[];
  /** Words that a slab must hold to be drawn. */
  readonly filter?: string;
  /** Rows that are drawn denser or looser than their count says. */
  readonly densities?: Readonly<Record<string, Density>>;
  /** Whether runs of small zones are drawn as one row. */
  readonly grouped?: boolean;
  /** Hands back what was drawn last time where nothing about it changed. */
  readonly steady?: Steady;
}

export interface Steady {
  slab(slab: Slab): Slab;
  board(board: Board): Board;
}

/** Remembers a board from drawing to drawing, so that what is equal stays the same value and is not drawn anew. */
export function steadyBoard(): Steady {
  const slabs = new Map<string, { readonly key: string; readonly slab: Slab }>();
  let last: Board | undefined;
  return {
    slab(slab) {
      const findings = slab.findings.map((f) => [f.code, f.severity, f.values]);
      const key = JSON.stringify({ ...slab, findings });
      const known = slabs.get(slab.subject);
      if (known?.key === key) return known.slab;
      slabs.set(slab.subject, { key, slab });
      return slab;
    },
    board(board) {
      const alike = <T>(a: T, b: T) => patchOf(a, b) === undefined;
      return (last = {
        ...board,
        rows: keptList(last?.rows, board.rows, alike),
        columns: keptList(last?.columns, board.columns, alike),
        cells: keptMap(last?.cells, board.cells, Object.is),
        lanes: keptMap(
          last?.lanes,
          board.lanes,
          (a, b) => a.slab === b.slab && alike({ ...a, slab: 0 }, { ...b, slab: 0 }),
        ),
      });
    },
  };
}

/** A list with the items of last time where they are the same; the list of last time where all are. */
export function keptList<T>(
  last: readonly T[] | undefined,
  list: readonly T[],
  same: (a: T, b: T) => boolean = Object.is,
): readonly T[] {
  if (!last) return list;
  const kept = list.map((item, i) => (i < last.length && same(last[i]!, item) ? last[i]! : item));
  return kept.length === last.length && kept.every((item, i) => item === last[i]) ? last : kept;
}

function keptMap<T>(
  last: ReadonlyMap<string, readonly T[]> | undefined,
  map: ReadonlyMap<string, readonly T[]>,
  same: (a: T, b: T) => boolean,
): ReadonlyMap<string, readonly T[]> {
  return new Map([...map].map(([key, list]) => [key, keptList(last?.get(key), list, same)]));
}

/** Ports in the order of their numbers, then of their names. */
export const portOrder = (a: string, b: string): number => a.localeCompare(b, 'en', { numeric: true });

/** How dense a row is drawn whose fullest cell holds so many slabs. */
export const densityOf = (count: number): Density =>
  count <= 4 ? 'full' : count <= 10 ? 'short' : count <= 24 ? 'line' : 'folded';

export function boardOf(input: BoardInput): Board {
  const { site, running } = input;
  const named = new Set(site.interfaces.map((i) => i.name));
  const removed = running.interfaces.filter((i) => !named.has(i.name));
  const lookup = lookupsOf(input);
  const groups = runsOfSmallZones(site);
  const rowOf = new Map<string, string>();
  if (input.grouped) for (const g of groups) for (const z of g) rowOf.set(z, `${g[0]}–${g[g.length - 1]}`);
  const slabs = [
    ...site.interfaces.map((i) => slabOf(input, lookup, rowOf, i, false)),
    ...removed.map((i) => slabOf(input, lookup, rowOf, i, true)),
  ].map((slab) => input.steady?.slab(slab) ?? slab);
  const words = (input.filter ?? '').toLowerCase().split(/\s+/).filter(Boolean);
  const shown = words.length ? slabs.filter((s) => words.every((w) => haystack(s).includes(w))) : slabs;
  const kept = new Set(shown);
  const gone = slabs.filter((s) => !kept.has(s));
  const cells = new Map<string, Slab[]>();
  for (const s of shown) {
    if (s.stubs.length) continue;
    const key = cellKey(s.row, s.port);
    const cell = cells.get(key);
    if (cell) cell.push(s);
    else cells.set(key, [s]);
  }
  for (const cell of cells.values()) cell.sort((a, b) => tagNumber(a) - tagNumber(b));
  const rows = rowsOf(input, slabs, shown, cells, rowOf);
  const loose = slabs.some((s) => s.port === NO_PORT);
  // A port that is part of an aggregation is drawn with that, unless something is still on it.
  const apart = (port: string) =>
    site.ports.get(port)?.within === undefined || shown.some((s) => s.port === port);
  const ports = [...new Set([...site.ports.keys(), ...removed.flatMap((i) => i.ports)])]
    .filter(apart)
    // An aggregation stands where its first port would.
    .sort((a, b) =>
      portOrder(site.ports.get(a)?.over?.ports[0] ?? a, site.ports.get(b)?.over?.ports[0] ?? b),
    );
  if (loose) ports.push(NO_PORT);
  const described = describedPorts(site);
  const columns = ports.map((port) => columnOf(input, port, slabs, rows, cells, described));
  const place = new Map(ports.map((p, i) => [p, i]));
  const lanes = new Map<string, Lane[]>();
  for (const slab of shown) {
    if (!slab.stubs.length) continue;
    const at = [...new Set([slab.port, ...slab.stubs])].map((p) => place.get(p)!).sort((a, b) => a - b);
    const across = at[at.length - 1]! - at[0]! === at.length - 1;
    const others = lanes.get(slab.row) ?? [];
    const [from, till] = [at[0]!, at[at.length - 1]!];
    const taken =
      ports.slice(from, till + 1).some((p) => cells.has(cellKey(slab.row, p))) ||
      others.some((l) => l.columns[0]! <= till && l.columns[l.columns.length - 1]! >= from);
    const level = taken ? others.filter((l) => l.level >= 0).length : -1;
    lanes.set(slab.row, [...others, { slab, columns: at, across, level }]);
  }
  const count = (s: 'error' | 'warning') =>
    gone.reduce((n, slab) => n + slab.findings.filter((f) => f.severity === s).length, 0);
  const board: Board = {
    columns,
    rows,
    slabs: shown,
    cells,
    lanes,
    hidden: { slabs: gone.length, errors: count('error'), warnings: count('warning') },
    groupable: groups.reduce((n, g) => n + g.length, 0),
  };
  return input.steady?.board(board) ?? board;
}

const tagNumber = (s: Slab): number => (/^\d+$/.test(s.tag) ? Number(s.tag) : -1);

/** What a filter looks in. */
const haystack = (s: Slab): string =>
  [
    s.name,
    s.zone,
    s.port,
    ...s.stubs,
    `tag ${s.tag}`,
    s.address,
    s.also,
    ...s.six.map((x) => x.whole),
    ...s.facts,
  ]
    .join(' ')
    .toLowerCase();

/** What is asked of every slab, gathered once. */
interface Lookups {
  readonly changes: ReadonlyMap<string, Change>;
  readonly findings: ReadonlyMap<string, readonly FindingView[]>;
  readonly rank: ReadonlyMap<string, number>;
}

function lookupsOf(input: BoardInput): Lookups {
  const findings = new Map<string, FindingView[]>();
  for (const f of input.findings) findings.set(f.subject, [...(findings.get(f.subject) ?? []), f]);
  const rank = new Map<string, number>();
  const tables = new Map<string, Interface[]>();
  for (const i of uplinksInOrder(input.site)) tables.set(i.table, [...(tables.get(i.table) ?? []), i]);
  for (const uplinks of tables.values())
    for (const [n, i] of uplinks.entries()) {
      // Of those that share each is as much the first as the others.
      const like = uplinks.find((o) => shareTogether(o, i));
      rank.set(i.name, (like && rank.get(like.name)) ?? n);
    }
  return { changes: new Map(input.changes.map((c) => [c.subject, c])), findings, rank };
}

/** Runs of neighbouring zones with at most one interface each, which say little by themselves. */
function runsOfSmallZones(site: Site): string[][] {
  const count = new Map<string, number>();
  for (const i of site.interfaces) if (i.zone) count.set(i.zone.name, (count.get(i.zone.name) ?? 0) + 1);
  const runs: string[][] = [];
  let run: string[] = [];
  for (const z of site.zones) {
    const small = !z.upstream && !z.dmz && !z.management && (count.get(z.name) ?? 0) <= 1;
    if (small) run.push(z.name);
    if (!small) run = [];
    if (run.length === LEAST_GROUP) runs.push(run);
  }
  return runs;
}

function rowsOf(
  input: BoardInput,
  slabs: readonly Slab[],
  shown: readonly Slab[],
  cells: ReadonlyMap<string, readonly Slab[]>,
  rowOf: ReadonlyMap<string, string>,
): Row[] {
  const total = countBy(slabs);
  const left = countBy(shown);
  const fullest = new Map<string, number>();
  for (const [key, cell] of cells) {
    const row = key.slice(0, key.lastIndexOf('|'));
    fullest.set(row, Math.max(fullest.get(row) ?? 0, cell.length));
  }
  const common = (name: string) => ({
    total: total.get(name) ?? 0,
    shown: left.get(name) ?? 0,
    density: input.densities?.[name] ?? densityOf(fullest.get(name) ?? 0),
  });
  const stations = stationsByZone(input);
  const rows: Row[] = [];
  const done = new Set<string>();
  for (const zone of input.site.zones) {
    const group = rowOf.get(zone.name);
    const look = lookOf(zone);
    if (group === undefined)
      rows.push({
        name: zone.name,
        zone,
        group: [],
        ...look,
        about: aboutZone(zone, stations.get(zone.name) ?? 0),
        logins: loginsOf(input.site, zone),
        ...common(zone.name),
      });
    else if (!done.has(group)) {
      done.add(group);
      const members = [...rowOf].filter(([, g]) => g === group).map(([z]) => z);
      const grouped = common(group);
      rows.push({
        name: group,
        group: members,
        ...look,
        about: `${members.length} zones`,
        logins: '',
        ...grouped,
        // Its slabs must say their zone, which only a line or less does.
        density: input.densities?.[group] === 'folded' ? 'folded' : 'line',
      });
    }
  }
  if (slabs.some((s) => s.row === NO_ZONE))
    rows.push({
      name: NO_ZONE,
      group: [],
      tint: 6,
      texture: 1,
      about: 'nothing passes',
      logins: '',
      ...common(NO_ZONE),
    });
  return rows;
}

const countBy = (slabs: readonly Slab[]): Map<string, number> => {
  const out = new Map<string, number>();
  for (const s of slabs) out.set(s.row, (out.get(s.row) ?? 0) + 1);
  return out;
};

function stationsByZone({ site, wiring }: BoardInput): Map<string, number> {
  const out = new Map<string, number>();
  const seated = wiring.stations.filter((s: Station) => !s.supposed && !s.off);
  for (const s of seated) {
    const zone = (interfaceFor(site, wiring, s) ?? claimantAt(site, s.landing))?.zone?.name;
    if (zone !== undefined) out.set(zone, (out.get(zone) ?? 0) + 1);
  }
  return out;
}

function aboutZone(zone: Zone, stations: number): string {
  return [
    ...(zone.upstream ? ['upstream'] : []),
    ...(zone.dmz ? ['dmz'] : []),
    ...(zone.management ? ['management'] : []),
    ...(zone.within === 'drop' && !zone.upstream ? ['within drop'] : []),
    ...(stations ? [`${stations} station${stations > 1 ? 's' : ''}`] : []),
  ].join(' · ');
}

/** The login services that the box answers on a zone's interfaces; * where only some sources may. */
export function loginsOf(site: Site, zone: Zone): string {
  const found = new Map<string, boolean>();
  for (const i of site.interfaces) {
    if (i.off || i.zone !== zone) continue;
    for (const a of i.answers)
      for (const s of a.services) {
        if (!LOGINS.has(s.name)) continue;
        const text = s.port === undefined ? s.name : `${s.name} ${s.port}`;
        found.set(text, (found.get(text) ?? true) && !!a.from);
      }
  }
  return [...found].map(([text, some]) => (some ? `${text}*` : text)).join(' ');
}

function columnOf(
  input: BoardInput,
  port: string,
  slabs: readonly Slab[],
  rows: readonly Row[],
  cells: ReadonlyMap<string, readonly Slab[]>,
  described: ReadonlySet<string>,
): Column {
  const { site } = input;
  const stated = site.ports.get(port);
  const here = slabs.filter((s) => s.port === port || s.stubs.includes(port));
  const plugged = port === NO_PORT ? [] : pluggedInto(input, port);
  const down = site.circuits.some((c) => c.plug?.to === 'port' && c.plug.port === port && c.down);
  const supposed = port !== NO_PORT && !described.has(port) && here.length > 0;
  const light = stated?.off
    ? 'off'
    : input.cut.includes(port) || (down && plugged.length === 1)
      ? 'down'
      : plugged.length || supposed
        ? 'up'
        : 'none';
  const longest = Math.max(0, ...here.map((s) => s.address.length + (s.learnedBy ? 2 : 0)));
  const bridged = here.length > 0 && here.every((s) => s.stubs.length > 0);
  const speed = stated?.speed;
  const lines = Math.max(
    0,
    ...rows.filter((r) => r.density === 'line').map((r) => cells.get(cellKey(r.name, port))?.length ?? 0),
  );
  const abreast = Math.min(MOST_ABREAST, Math.max(1, Math.ceil(lines / 6)));
  const fitted = bridged ? UNDER_BRIDGE : longest <= 16 ? STEPS[0] : longest <= 20 ? STEPS[1] : STEPS[2];
  return {
    port,
    label: [stated?.over ? `${stated.over.ports.join(' + ')}, ${stated.over.mode}` : '', stated?.label ?? '']
      .filter(Boolean)
      .join(' · '),
    off: !!stated?.off,
    light,
    speed: speed === undefined ? '' : speed >= 1000 ? `${speed / 1000}G` : `${speed}M`,
    farEnd: plugged.length ? plugged.map((p) => p.text).join(', ') : supposed ? 'supposed' : 'no cable',
    plugged,
    sliver: here.length === 0,
    width: here.length === 0 ? 28 : lines ? Math.max(fitted, abreast * LINE_WIDTH) : fitted,
    abreast,
    tags: [...new Set(here.flatMap((s) => (tagNumber(s) < 0 ? [] : [tagNumber(s)])))].sort((a, b) => a - b),
  };
}

function pluggedInto({ site, wiring }: BoardInput, port: string): Plugged[] {
  const behind = wiring.stations.filter(
    (x) => 'port' in x.landing && x.landing.port === port && !x.supposed,
  ).length;
  const here = (s: { plug?: { to: string; port?: string } }) => s.plug?.to === 'port' && s.plug.port === port;
  return [
    ...site.circuits.filter(here).map((c) => ({
      subject: c.subject,
      text: `circuit ${c.name}`,
      tag: c.plug?.to === 'port' ? c.plug.tag : undefined,
    })),
    ...site.switches.filter(here).map((s) => ({
      subject: s.subject,
      text: `switch ${s.name}, ${behind} station${behind === 1 ? '' : 's'}`,
    })),
    ...site.stations.filter(here).map((s) => ({ subject: s.subject, text: s.name })),
    ...site.routers
      .filter((r) => r.legs.some((l) => here(l.value) && !routingSwitch(site.switches, l.value.plug)))
      .map((r) => ({ subject: r.subject, text: `router ${r.name}` })),
  ];
}

function slabOf(
  input: BoardInput,
  lookup: Lookups,
  rowOf: ReadonlyMap<string, string>,
  iface: Interface,
  gone: boolean,
): Slab {
  const { prospects, wiring } = input;
  const subject = `interface/${iface.name}`;
  const change = lookup.changes.get(subject);
  const own = primaryOf(iface, prospects);
  const learned = prospects.uplinks.get(iface.name);
  const clauses = change?.kind === 'changed' ? change.clauses : [];
  const before = clauses.find((c) => c.name === 'address')?.was.replace(/^address /, '') ?? '';
  const circuits = circuitsOf(wiring, iface).filter((c) => !c.supposed);
  const dark =
    iface.ports.some((p) => input.cut.includes(p)) || (circuits.length > 0 && circuits.every((c) => c.down));
  const zone = iface.zone?.name ?? NO_ZONE;
  return {
    subject,
    name: iface.name,
    row: rowOf.get(zone) ?? zone,
    zone,
    ...lookOf(iface.zone),
    port: iface.ports[0] ?? NO_PORT,
    stubs: iface.ports.slice(1),
    draft: gone ? 'removed' : change?.kind === 'added' ? 'new' : change ? 'changed' : '',
    tag: tagText(iface),
    off: iface.off,
    dark,
    address: own
      ? formatPrefix(own)
      : iface.dynamic
        ? `by ${iface.dynamic}`
        : iface.speaks6
          ? ''
          : 'no address',
    how: learned ? (learned.supposed ? 'supposed' : 'learned') : own ? 'written' : 'none',
    learnedBy: learned ? (iface.dynamic === 'pppoe' ? 'session' : 'lease') : '',
    oldAddress: before,
    was: clauses.flatMap((c) => (c.name === 'address' || !c.was ? [] : [c.was])),
    also: alsoText(iface, own),
    alsoCount: iface.addresses.filter((a) => !a.primary && !a.virtual && isIpv4(a.prefix.address)).length,
    six: gone ? [] : sixOf(input, iface),
    facts: gone ? [] : factsOf(input, lookup, iface),
    findings: gone ? [] : (lookup.findings.get(subject) ?? []),
    held: input.held.includes(subject),
    byHand: input.byHand?.get(iface.name) ?? [],
  };
}

function tagText(iface: Interface): string {
  if (iface.carrier === 'loopback') return 'loopback';
  const tag = iface.tag === undefined ? '—' : String(iface.tag);
  return iface.ports.length > 1 ? `${iface.ports.join('+')}${iface.tag === undefined ? '' : ` ${tag}`}` : tag;
}

/** An IPv6 address, its middle groups left out where it is long. */
export function elide6(text: string, most = 22): string {
  if (text.length <= most) return text;
  const groups = text.split(':');
  const head = groups.slice(0, 2).join(':');
  for (let tail = 3; tail >= 1; tail--) {
    const short = `${head}:…:${groups.slice(-tail).join(':')}`;
    if (short.length <= most || tail === 1) return short;
  }
  return text;
}

function sixOf({ site, prospects }: BoardInput, iface: Interface): Slab['six'] {
  const mac = interfaceMac(site, iface);
  const written = new Set(iface.addresses.map((a) => a.prefix.address));
  const learned = prospects.uplinks6.get(iface.name);
  const all = addressesOf(iface, prospects).filter((p) => !isIpv4(p.address));
  const out = all.map((p) => {
    const whole = formatPrefix(p);
    const mine = learned?.addresses.some((a) => a.address === p.address);
    const made = p.length === 64 && slaacAddress(networkOf(p as Prefix<Ipv6>), mac).address === p.address;
    const how = written.has(p.address) ? '' : mine ? (made ? 'slaac' : 'dhcpv6') : 'delegated';
    return { text: elide6(whole), how, whole };
  });
  if (!out.length && iface.speaks6) return [{ text: 'IPv6: none yet', how: '', whole: '' }];
  return out;
}

/** The last octets where they share the primary's first three, else the whole address. */
function shortIn(primary: Prefix | undefined, prefix: Prefix): string {
  const [a, b] = [primary && formatIp(primary.address), formatIp(prefix.address)];
  if (!a || !isIpv4(prefix.address)) return formatPrefix(prefix);
  const head = a.slice(0, a.lastIndexOf('.') + 1);
  return b.startsWith(head) && prefix.length === primary!.length
    ? `.${b.slice(head.length)}`
    : formatPrefix(prefix);
}

function alsoText(iface: Interface, primary: Prefix | undefined): string {
  const rest = iface.addresses
    .filter((a) => !a.primary && !a.virtual && isIpv4(a.prefix.address))
    .map((a) => shortIn(primary, a.prefix));
  if (!rest.length) return '';
  return rest.length <= 3 ? rest.join(' ') : `${rest.length} (${rest[0]}–${rest[rest.length - 1]})`;
}

/** Facts in a fixed order: gateway, order, lends, answers, and what else was set. */
function factsOf(input: BoardInput, lookup: Lookups, iface: Interface): string[] {
  const facts: string[] = [];
  const learned = input.prospects.uplinks.get(iface.name);
  const own = primaryOf(iface, input.prospects);
  if (iface.gateway.by === 'address')
    facts.push(`gw ${shortIn(own, { address: iface.gateway.address, length: own?.length ?? 0 })}`);
  else if (iface.gateway.by === 'learned' && learned?.gateway !== undefined)
    facts.push(
      `gw ⟨${shortIn(learned.address, { address: learned.gateway, length: learned.address.length })}⟩`,
    );
  const rank = lookup.rank.get(iface.name);
  if (rank !== undefined) facts.push(['1st', '2nd', '3rd'][rank] ?? `${rank + 1}th`);
  const portion = portionOf(input.site, iface);
  if (portion) facts.push(`share ${portion.weight} of ${portion.of}`);
  if (iface.shared) {
    const shared = iface.shared.addresses.map((address) =>
      shortIn(own, { address, length: own?.length ?? 0 }),
    );
    facts.unshift(`shared ${shared.join(' ')}`);
  }
  if (iface.onDemand) facts.push('on demand');
  if (iface.table !== 'main') facts.push(`table ${iface.table}`);
  if (iface.carrier === 'pppoe') facts.push('pppoe');
  const pool = poolSize(iface);
  if (pool > 0) facts.push(`lends ${pool}`);
  if (iface.relays.length) facts.push(`relays ${iface.relays.map(formatIp).join(' ')}`);
  if (iface.advertises) facts.push('advertises');
  const answers = [...new Set(iface.answers.flatMap((a) => a.services.map((s) => s.name)))];
  if (answers.length) facts.push(answers.join(' '));
  const routers = input.wiring.routers.filter((r) =>
    r.legs.some((l) => l.segment === `interface ${iface.name}`),
  );
  if (routers.length) facts.push(`before ${routers.map((r) => r.name).join(' ')}`);
  if (iface.guard) facts.push('guard');
  if (iface.mtu !== undefined) facts.push(`mtu ${iface.mtu}`);
  if (iface.mac !== undefined) facts.push('own mac');
  return facts;
}
