/** An address plan, or a list of reservations, from a table as a spreadsheet saves it (RFC 4180 and its kin). */
import Papa from 'papaparse';
import {
  contains,
  formatIp,
  formatPrefix,
  hostRange,
  isIpv4,
  lengthOfMask,
  networkOf,
  overlaps,
  parseAnyMac,
  parseIpv4,
} from '#core/addr';
import type { Ipv4, Mac, Prefix, Range } from '#core/addr';
import type { PlanNetwork, PlanReservation } from '#core/model';
import { isName, isReserved, nameLike } from '#core/notation';
import { columnsByContent, columnsByHead } from './columns';
import type { Columns, PlanColumn } from './columns';

/** What is wrong with a row; it is told, and the row is not taken. */
export type PlanFault =
  | { readonly what: 'no-length'; readonly text: string }
  | { readonly what: 'not-a-subnet'; readonly text: string }
  | { readonly what: 'not-a-mask'; readonly text: string }
  | { readonly what: 'not-an-address'; readonly text: string }
  | { readonly what: 'not-a-tag'; readonly text: string }
  | { readonly what: 'not-a-pool'; readonly text: string }
  | { readonly what: 'not-a-mac'; readonly text: string }
  | { readonly what: 'not-a-name'; readonly text: string }
  | { readonly what: 'gateway-outside'; readonly text: string; readonly net: string }
  | { readonly what: 'pool-outside'; readonly text: string; readonly net: string }
  | { readonly what: 'no-subnet' }
  | { readonly what: 'no-address' }
  | { readonly what: 'tag-twice'; readonly text: string; readonly line: number }
  | { readonly what: 'name-twice'; readonly text: string; readonly line: number }
  | { readonly what: 'subnet-twice'; readonly text: string; readonly line: number }
  | { readonly what: 'mac-twice'; readonly text: string; readonly line: number }
  | { readonly what: 'address-twice'; readonly text: string; readonly line: number };

export interface PlanRow<T> {
  /** Line of the sheet, 1 the first; blank lines count. */
  readonly line: number;
  readonly cells: readonly string[];
  readonly value: T;
  readonly faults: readonly PlanFault[];
}

export interface Plan {
  /** The cells of the head, or none where the sheet has no heads. */
  readonly heads: readonly string[];
  readonly width: number;
  readonly delimiter: string;
  readonly columns: Columns;
  readonly networks: readonly PlanRow<PlanNetwork>[];
  /** Instead of networks, where the sheet has MAC addresses. */
  readonly reservations: readonly PlanRow<Partial<PlanReservation>>[];
}

/** How many rows may stand above the heads, as titles and dates do. */
const ABOVE = 10;
/** The most rows that are read; a plan of more is none. */
export const MOST_ROWS = 10_000;

/** Reads a sheet. `chosen` says what a column is where its head does not. */
export function readPlan(text: string, chosen: Columns = {}): Plan {
  // Some spreadsheets say their delimiter in a line of its own.
  const said = /^\ufeff?sep=(.)\r?\n/.exec(text);
  const body = said ? text.slice(said[0].length) : text.replace(/^\ufeff/, '');
  const { data, meta } = Papa.parse<string[]>(body, {
    delimiter: said?.[1] ?? '',
    delimitersToGuess: [',', ';', '\t', '|'],
    preview: MOST_ROWS,
  });
  const skipped = said ? 1 : 0;
  const lines = data
    .map((cells, i) => ({ line: i + 1 + skipped, cells: cells.map((c) => c.trim()) }))
    .filter(({ cells }) => cells.some((c) => c !== ''));
  const headAt = lines
    .slice(0, ABOVE)
    .findIndex(({ cells }) => Object.keys(columnsByHead(cells)).length >= 2);
  const heads = headAt < 0 ? [] : lines[headAt]!.cells;
  const rows = lines.slice(headAt + 1);
  const found = headAt < 0 ? columnsByContent(rows.map((r) => r.cells)) : columnsByHead(heads);
  const columns = withChosen(found, chosen);
  const cell = (cells: readonly string[], column: PlanColumn): string | undefined => {
    const at = columns[column];
    return at === undefined ? undefined : (cells[at] ?? '');
  };
  const isDevices = columns.mac !== undefined;
  return {
    heads,
    width: lines.reduce((most, { cells }) => Math.max(most, cells.length), 0),
    delimiter: said?.[1] ?? meta.delimiter,
    columns,
    networks: isDevices
      ? []
      : withoutTwice(rows.map(({ line, cells }) => ({ line, cells, ...networkIn((c) => cell(cells, c)) }))),
    reservations: isDevices
      ? withoutTwins(rows.map(({ line, cells }) => ({ line, cells, ...deviceIn((c) => cell(cells, c)) })))
      : [],
  };
}

/** A column that was chosen for something is nothing else; one chosen as -1 is not there. */
function withChosen(found: Columns, chosen: Columns): Columns {
  const taken = new Set(Object.values(chosen));
  const kept = Object.entries(found).filter(([, at]) => !taken.has(at));
  return Object.fromEntries([...kept, ...Object.entries(chosen).filter(([, at]) => at >= 0)]);
}

type Cell = (column: PlanColumn) => string | undefined;

function networkIn(cell: Cell): { readonly value: PlanNetwork; readonly faults: readonly PlanFault[] } {
  const faults: PlanFault[] = [];
  const own = ownIn(cell, faults);
  const pool = poolIn(cell, own, faults);
  const tag = tagIn(cell('tag'), faults);
  const name = nameIn(cell('name'), faults);
  const zone = cell('zone') ? nameIn(cell('zone'), faults) : undefined;
  if (!own && !faults.length) faults.push({ what: 'no-subnet' });
  return { value: { name, tag, own, pool, zone, note: cell('note') || undefined }, faults };
}

const GERMAN: Readonly<Record<string, string>> = { ä: 'ae', ö: 'oe', ü: 'ue', ß: 'ss' };

/** A name as the notation takes it; spaces and capitals are turned, what is left over is a fault. */
function nameIn(text: string | undefined, faults: PlanFault[]): string | undefined {
  if (!text) return undefined;
  const plain = text
    .replace(/[äöüÄÖÜß]/g, (c) => GERMAN[c.toLowerCase()]!)
    .normalize('NFKD')
    .replace(/\p{M}/gu, '');
  const name = nameLike(plain).slice(0, 15).replace(/-+$/, '');
  if (isName(name) && !isReserved(name)) return name;
  faults.push({ what: 'not-a-name', text });
  return undefined;
}

/** `20`, `VLAN 20`, `20,0` as some spreadsheets write numbers; empty and `-` are untagged. */
function tagIn(text: string | undefined, faults: PlanFault[]): number | undefined {
  if (!text || /^(-|–|none|untagged|native)$/i.test(text)) return undefined;
  const match = /^(?:vlan|vid|tag)?\s*(\d+)(?:[.,]0+)?$/i.exec(text);
  const tag = Number(match?.[1]);
  if (match && tag >= 1 && tag <= 4094) return tag;
  faults.push({ what: 'not-a-tag', text });
  return undefined;
}

/** The box's own address: the gateway's in the subnet, else the one that stands in the subnet itself, else the first. */
function ownIn(cell: Cell, faults: PlanFault[]): Prefix<Ipv4> | undefined {
  const text = cell('subnet') || cell('gateway') || '';
  if (text === '') return undefined;
  const match = /^([\d.]+)\s*(?:\/\s*([\d.]+)|\s(?:mask\s*)?([\d.]+))?$/.exec(text);
  const address = match ? parseIpv4(match[1]!) : undefined;
  if (!match || address === undefined) {
    faults.push({ what: 'not-a-subnet', text });
    return undefined;
  }
  const said = match[2] ?? match[3] ?? (cell('mask') || undefined);
  if (said === undefined) {
    faults.push({ what: 'no-length', text });
    return undefined;
  }
  const length = lengthIn(said);
  if (length === undefined) {
    faults.push({ what: 'not-a-mask', text: said });
    return undefined;
  }
  const net = networkOf({ address, length });
  const gateway = cell('gateway');
  if (gateway) {
    const at = addressIn(gateway, net.address);
    if (at === undefined) {
      faults.push({ what: 'not-an-address', text: gateway });
      return undefined;
    }
    if (!contains(net, at)) {
      faults.push({ what: 'gateway-outside', text: gateway, net: formatPrefix(net) });
      return undefined;
    }
    return { address: at, length };
  }
  // A subnet with host bits is how many write the router's own address.
  return { address: address === net.address ? hostRange(net).first : address, length };
}

/** `24`, `/24`, `255.255.255.0`. */
function lengthIn(text: string): number | undefined {
  const bits = /^\/?(\d{1,2})$/.exec(text.trim());
  if (bits) return Number(bits[1]) >= 1 && Number(bits[1]) <= 32 ? Number(bits[1]) : undefined;
  const mask = parseIpv4(text.trim());
  return mask === undefined ? undefined : lengthOfMask(mask);
}

/** A whole address, its length left away, or its last octets: `.50`, `50`, `.21.50` beside another address. */
function addressIn(text: string | undefined, base: Ipv4): Ipv4 | undefined {
  if (text === undefined) return undefined;
  const whole = parseIpv4(text.replace(/\/\d+$/, ''));
  if (whole !== undefined) return whole;
  const octets = /^\.?(\d{1,3}(?:\.\d{1,3}){0,2})$/.exec(text.trim())?.[1]?.split('.');
  if (!octets) return undefined;
  const all = formatIp(base).split('.');
  return parseIpv4([...all.slice(0, 4 - octets.length), ...octets].join('.'));
}

function poolIn(cell: Cell, own: Prefix<Ipv4> | undefined, faults: PlanFault[]): Range[] | undefined {
  const [start, end] = [cell('pool-start'), cell('pool-end')];
  const text = cell('pool') ?? (start === undefined ? undefined : start && end ? `${start}-${end}` : '');
  // An empty cell says nothing; a dash says that nothing is lent.
  if (!text) return undefined;
  if (/^(-|–|no|none|off|static|nein|non|aus|kein|keiner)$/i.test(text)) return [];
  // Without its network nobody knows where it is, and that is told already.
  if (!own) return undefined;
  const out: Range[] = [];
  for (const piece of text.split(/[,;]|\s+(?=[.\d]+\s*[-–])/).map((p) => p.trim())) {
    if (piece === '') continue;
    const match = /^([.\d]+)\s*(?:-|–|\.\.|to|bis|à|a)\s*([.\d]+)$/i.exec(piece);
    // A pool of one is an address; a number alone may be a count.
    const alone = /^(?:\.\d+|\d+(?:\.\d+){3})$/.exec(piece)?.[0];
    const first = addressIn(match?.[1] ?? alone, own.address);
    const last = first === undefined ? undefined : addressIn(match?.[2] ?? alone, first);
    if (first === undefined || last === undefined || last < first) {
      faults.push({ what: 'not-a-pool', text: piece });
      return undefined;
    }
    if (!contains(own, first) || !contains(own, last)) {
      faults.push({ what: 'pool-outside', text: piece, net: formatPrefix(networkOf(own)) });
      return undefined;
    }
    out.push({ first, last });
  }
  return out;
}

function deviceIn(cell: Cell): {
  readonly value: Partial<PlanReservation>;
  readonly faults: readonly PlanFault[];
} {
  const faults: PlanFault[] = [];
  const [macText = '', addressText = ''] = [
    cell('mac'),
    cell('address') ?? cell('gateway') ?? cell('subnet'),
  ];
  const mac = parseAnyMac(macText);
  if (mac === undefined) faults.push({ what: 'not-a-mac', text: macText });
  const address = parseIpv4(addressText.replace(/\/\d+$/, ''));
  if (addressText === '') faults.push({ what: 'no-address' });
  else if (address === undefined) faults.push({ what: 'not-an-address', text: addressText });
  const label = cell('host') ?? cell('note');
  return { value: { mac, address, label: label || undefined }, faults };
}

/** Rows that contradict an earlier one say so. */
function withoutTwice(rows: readonly PlanRow<PlanNetwork>[]): PlanRow<PlanNetwork>[] {
  return rows.map((row, i) => {
    const before = rows.slice(0, i).filter((r) => !r.faults.length);
    const { tag, name, own } = row.value;
    const faults = [...row.faults];
    const tagged = before.find((r) => tag !== undefined && r.value.tag === tag);
    const named = before.find((r) => name !== undefined && r.value.name === name);
    const there = before.find((r) => own && r.value.own && overlaps(networkOf(own), networkOf(r.value.own)));
    if (tagged) faults.push({ what: 'tag-twice', text: String(tag), line: tagged.line });
    if (named) faults.push({ what: 'name-twice', text: name!, line: named.line });
    if (there) faults.push({ what: 'subnet-twice', text: formatPrefix(networkOf(own!)), line: there.line });
    return { ...row, faults };
  });
}

function withoutTwins(
  rows: readonly PlanRow<Partial<PlanReservation>>[],
): PlanRow<Partial<PlanReservation>>[] {
  const macs = new Map<Mac, number>();
  const addresses = new Map<Ipv4, number>();
  return rows.map((row) => {
    const { mac, address } = row.value;
    const faults = [...row.faults];
    const [same, there] = [
      mac !== undefined && macs.get(mac),
      address !== undefined && addresses.get(address),
    ];
    if (same) faults.push({ what: 'mac-twice', text: row.cells.join(' '), line: same });
    if (there) faults.push({ what: 'address-twice', text: formatIp(address!), line: there });
    if (mac !== undefined && !macs.has(mac)) macs.set(mac, row.line);
    if (address !== undefined && isIpv4(address) && !addresses.has(address)) addresses.set(address, row.line);
    return { ...row, faults };
  });
}
