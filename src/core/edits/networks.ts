/** Inside networks as wholes: another subnet, another length, a second one like it. */
import {
  contains,
  formatIp,
  formatPrefix,
  isIpv4,
  networkOf,
  overlaps,
  prefixEquals,
  withLength,
} from '#core/addr';
import type { Ipv4, Prefix } from '#core/addr';
import { clausesOf, written } from '#core/notation';
import type { ClauseOp, FileChange, Statement } from '#core/notation';
import { documentOf, primaryAddress, staticNetworks, stationsOf } from '#core/site';
import type { Interface, Site, Wiring } from '#core/site';
import { addStatement, changeClauses, changesTo, siteAfter } from './change';
import { carriageOf } from './making/network';
import { poolTerms, rangeBeside } from './plan';
import { moveSubnet, textOf } from './renumber';

/** Stations that have an address of a network written at themselves: what is changed here does not change it there. */
export const fixedIn = (wiring: Wiring, iface: Interface, network: Prefix): string[] =>
  stationsOf(wiring, iface).flatMap((s) =>
    s.address && !s.dhcp && contains(network, s.address.address) ? [s.name] : [],
  );

/** What is known of a change that is only thought of. */
export interface Thought {
  readonly changes: readonly FileChange[];
  /** Stations that need the new address or mask by hand. */
  readonly byHand: readonly string[];
  /** What of the old network does not come along, in words of the notation. */
  readonly left: readonly string[];
}

const interfaceOf = (site: Site, name: string): Interface => site.interfaces.find((i) => i.name === name)!;

/**
 * Gives a network of an interface another subnet: with the same length everything that names an address of it follows;
 * another length is written first, so that what follows fits. Nothing where the new one overlaps another network.
 */
export function renumberNetwork(
  site: Site,
  wiring: Wiring,
  iface: Interface,
  from: Prefix<Ipv4>,
  to: Prefix<Ipv4>,
): Thought | { readonly overlaps: string } {
  const clash = clashing(site, iface, to, from);
  if (clash !== undefined) return { overlaps: clash };
  const byHand = fixedIn(wiring, iface, from);
  const base = networkOf({ address: to.address, length: from.length });
  let now = site;
  if (!prefixEquals(base, from)) now = siteAfter(now, moveSubnet(now, iface, from, base));
  if (to.length !== from.length)
    now = siteAfter(now, lengthChanges(now, interfaceOf(now, iface.name), base, to.length));
  return { changes: changesTo(site, now), byHand, left: [] };
}

/** Another length for a network of an interface; its addresses stay. */
export function resizeNetwork(
  site: Site,
  wiring: Wiring,
  iface: Interface,
  network: Prefix<Ipv4>,
  length: number,
): Thought | { readonly overlaps: string } {
  const wide = networkOf(withLength(network, length));
  const clash = clashing(site, iface, wide, network);
  if (clash !== undefined) return { overlaps: clash };
  return {
    changes: lengthChanges(site, iface, network, length),
    byHand: fixedIn(wiring, iface, network),
    left: [],
  };
}

/** Another inside network that a prefix would share addresses with. */
function clashing(site: Site, iface: Interface, net: Prefix<Ipv4>, but: Prefix<Ipv4>): string | undefined {
  const other = site.interfaces.find(
    (i) =>
      i.table === iface.table &&
      staticNetworks(i).some((n) => overlaps(n, net) && !(i === iface && prefixEquals(n, but))),
  );
  return other?.name;
}

/** The own addresses of an interface in a network, with another length. */
function lengthChanges(site: Site, iface: Interface, network: Prefix<Ipv4>, length: number): FileChange[] {
  const { statement } = iface;
  const inside = iface.addresses.filter(
    (a) => isIpv4(a.prefix.address) && contains(network, a.prefix.address),
  );
  const ops: ClauseOp[] = [];
  const primary = inside.find((a) => a.primary);
  if (primary)
    ops.push({
      do: 'set',
      name: 'address',
      text: `address ${formatIp(primary.prefix.address)}/${length}`,
    });
  const others = inside.filter((a) => !a.primary && a.prefix.length === network.length);
  const seen = new Set<number>();
  for (const a of others) {
    const text = textOf(site, statement).slice(a.at.start - statement.start, a.at.end - statement.start);
    // One that leans on the primary address has its length; so has each of a range.
    if (seen.has(a.at.start) || (!text.includes('/') && primary)) continue;
    seen.add(a.at.start);
    ops.push({
      do: 'replace',
      start: a.at.start,
      end: a.at.end,
      text: text.includes('/') ? text.replace(/\/\d+/, `/${length}`) : `${text}/${length}`,
    });
  }
  return ops.length ? changeClauses(site, statement, ops, { follow: true }) : [];
}

export interface CloneTerms {
  readonly name: string;
  /** Absent: untagged. */
  readonly tag?: number;
  /** The subnet of the new network; of the same length as the old one's first. */
  readonly net: Prefix<Ipv4>;
}

/** Clauses of an interface that are only its own. */
const OWN_CLAUSES = new Set([
  'address',
  'also',
  'virtual',
  'address6',
  'lends',
  'keeps',
  'mac',
  'note',
  'off',
]);
const CARRIERS = new Set(['on', 'bridge', 'pppoe', 'loopback']);

/**
 * A second network like one that is there: its answers, guard, MTU and table, its pool at the same places, a zone of its
 * own where the old one has its zone to itself, with every passage, leave, send and promise that names that zone or the
 * interface. Reservations are of devices, doors of public addresses: they stay where they are, and are told.
 */
export function cloneNetwork(site: Site, iface: Interface, terms: CloneTerms): Thought | undefined {
  const own = primaryAddress(iface);
  const { carrier } = iface.statement;
  if (!own || !isIpv4(own.address) || carrier?.by !== 'on') return undefined;
  const from = networkOf(own) as Prefix<Ipv4>;
  const shift = terms.net.address - from.address;
  const at = (address: Ipv4): Ipv4 => (address + shift) as Ipv4;
  const alone = !site.interfaces.some((i) => i !== iface && i.zone === iface.zone);
  const zone = alone && iface.zone ? terms.name : (iface.zone?.name ?? '');
  const text = (clause: { readonly start: number; readonly end: number }) =>
    documentOf(site, iface.statement).text.slice(clause.start, clause.end);
  const pools = iface.statement.lends.map((l, i) => {
    const ranges = l.ranges.filter((r) => contains(from, r.value.first));
    const rest = poolTerms(text(clausesOf(iface.statement, 'lends')[i]!));
    const beside = { address: at(own.address as Ipv4), length: own.length };
    const range = (r: (typeof ranges)[number]) =>
      rangeBeside({ first: at(r.value.first as Ipv4), last: at(r.value.last as Ipv4) }, beside);
    const lasting = rest[0] === 'for' ? rest.slice(0, 2) : [];
    return ranges.length ? [['lends', ...ranges.map(range), ...lasting].join(' ')] : [];
  });
  const kept = written(iface.statement).clauses.filter(
    (c) => !OWN_CLAUSES.has(c.name) && !CARRIERS.has(c.name) && c.name !== 'zone',
  );
  const clauses = [
    `on ${iface.ports[0]!}${terms.tag === undefined ? '' : ` tag ${terms.tag}`}`,
    ...(zone ? [`zone ${zone}`] : []),
    `address ${formatPrefix({ address: at(own.address), length: own.length })}`,
    ...pools.flat(),
    ...kept.map(text),
  ];
  let now = site;
  const add = (kind: Parameters<typeof addStatement>[1], body: string, after?: Statement) => {
    now = siteAfter(now, addStatement(now, kind, body, after ? { after: again(now, after) } : {}));
  };
  const names = new Map<string, string>([[iface.name, terms.name]]);
  if (alone && iface.zone) {
    names.set(iface.zone.name, zone);
    add('zone', renamedHead(textOf(site, iface.zone.statement), iface.zone.name, zone), iface.zone.statement);
  }
  add('interface', `interface ${terms.name}: ${clauses.join(', ')}`, iface.statement);
  const named = (s: Statement): boolean => written(s).header.some((t) => names.has(t.text.replace(/:$/, '')));
  for (const kind of ['passage', 'leave', 'send', 'expect'] as const)
    for (const s of site.statements.filter((x) => x.kind === kind && !x.broken && named(x)))
      add(kind, renamedWords(site, s, names), s);
  now = siteAfter(now, carriageOf(now, iface.ports[0]!, terms.tag === undefined ? [] : [terms.tag]));
  const left = [
    ...iface.statement.keeps.map((k) => `keeps ${formatIp(k.address.value)}`),
    ...iface.addresses
      .filter((a) => !a.primary)
      .map((a) => (a.virtual ? `virtual ${formatIp(a.prefix.address)}` : `also ${formatPrefix(a.prefix)}`)),
    ...site.doors
      .filter((d) => d.inside?.type === 'addresses' && contains(from, d.inside.range.first))
      .map((d) => `door ${d.name}`),
  ];
  return { changes: changesTo(site, now), byHand: [], left };
}

/** The statement of a later site that is the same as one of an earlier. */
const again = (site: Site, s: Statement): Statement =>
  site.statements.find((x) => x.file === s.file && x.kind === s.kind && x.source === s.source) ?? s;

const renamedHead = (text: string, from: string, to: string): string =>
  text.replace(new RegExp(`^(zone\\s+)${from}(?=\\s*:)`), `$1${to}`);

/** The words of a statement with some names in its header instead of others. */
function renamedWords(site: Site, s: Statement, names: ReadonlyMap<string, string>): string {
  const text = textOf(site, s);
  let out = '';
  let last = 0;
  for (const token of written(s).header) {
    const bare = token.text.replace(/:$/, '');
    const to = names.get(bare);
    if (to === undefined) continue;
    const start = token.start - s.start;
    out += text.slice(last, start) + to;
    last = start + bare.length;
  }
  return out + text.slice(last);
}
