/** Rows of an address plan, written into a site. */
import {
  formatIp,
  formatMac,
  formatPrefix,
  formatRangeShort,
  isIpv4,
  networkOf,
  prefixEquals,
} from '#core/addr';
import type { Ip, Ipv4, Prefix, Range } from '#core/addr';
import { freeName } from '#core/model';
import type { Compared, ComparedReservation, PlanNetwork } from '#core/model';
import { POOL_WORDS, clausesOf, printString } from '#core/notation';
import type { ClauseOp, FileChange } from '#core/notation';
import { documentOf, primaryAddress, zoneNamed } from '#core/site';
import type { Interface, Site } from '#core/site';
import { addStatement, changeClauses, changesTo, siteAfter } from './change';
import { carriageOf, trunkOf } from './making/network';
import { moveSubnet } from './renumber';
import { rename } from './references';

/** How what a plan does not say is written. */
export interface PlanTerms {
  /** The port that new networks are tagged on; where the site's VLANs are when absent. */
  readonly port?: string;
}

/**
 * Writes rows that differ or are new: zones that lack, interfaces with their tags, what the switch carries. A row that
 * is the same changes nothing. One change, so that one undo takes it back.
 */
export function takePlan(
  site: Site,
  rows: readonly Compared<PlanNetwork>[],
  terms: PlanTerms = {},
): FileChange[] {
  const port = terms.port ?? trunkOf(site) ?? [...site.ports.keys()][0] ?? 'p1';
  let now = site;
  const zones = new Set<string>();
  for (const { planned, iface } of rows) {
    const zone = planned.zone ?? (iface ? undefined : nameOf(planned, site));
    if (zone !== undefined && !zoneNamed(site, zone)) zones.add(zone);
  }
  if (zones.size)
    now = siteAfter(now, addStatement(now, 'zone', [...zones].map((z) => `zone ${z}:`).join('\n')));
  for (const row of rows)
    if (row.iface && row.differs.length) now = siteAfter(now, adjust(now, row.iface.name, row));
  const fresh = rows.filter((r) => !r.iface && r.planned.own);
  const used = new Set<string>();
  const bodies = fresh.map(({ planned }) => {
    const name = unused(nameOf(planned, now), now, used);
    used.add(name);
    return interfaceText(planned, name, port, now);
  });
  if (bodies.length) now = siteAfter(now, addStatement(now, 'interface', bodies.join('\n')));
  const tagged = new Map<string, number[]>();
  for (const { planned, iface } of rows) {
    const at = iface?.ports[0] ?? port;
    if (planned.tag !== undefined) tagged.set(at, [...(tagged.get(at) ?? []), planned.tag]);
  }
  for (const [at, tags] of tagged) now = siteAfter(now, carriageOf(now, at, tags));
  return changesTo(site, now);
}

/** What a network is called where its plan does not say. */
const nameOf = ({ name, tag }: PlanNetwork, site: Site): string =>
  name ?? (tag === undefined ? freeName(site, 'interface', 'net') : `vlan${tag}`);

function unused(name: string, site: Site, used: ReadonlySet<string>): string {
  const taken = (n: string) => used.has(n) || site.interfaces.some((i) => i.name === n);
  if (!taken(name)) return name;
  for (let i = 2; ; i++) {
    const next = `${name.slice(0, 15 - String(i).length - 1)}-${i}`;
    if (!taken(next)) return next;
  }
}

function interfaceText(planned: PlanNetwork, name: string, port: string, site: Site): string {
  const { own, tag, pool, note } = planned;
  const answers = site.box?.servesNames ? 'ping dns' : 'ping';
  return `interface ${name}: ${[
    `on ${port}${tag === undefined ? '' : ` tag ${tag}`}`,
    `zone ${planned.zone ?? nameOf(planned, site)}`,
    `address ${formatPrefix(own!)}`,
    ...(pool?.length ? [`lends ${pool.map((r) => rangeBeside(r, own)).join(' ')}`] : []),
    `answers ${answers}`,
    ...(note ? [`note ${printString(note)}`] : []),
  ].join(', ')}`;
}

/** Makes an interface what its row says. */
function adjust(
  site: Site,
  name: string,
  { planned, differs }: Pick<Compared<PlanNetwork>, 'planned' | 'differs'>,
): FileChange[] {
  let now = site;
  const iface = (): Interface => now.interfaces.find((i) => i.name === name)!;
  const change = (ops: readonly ClauseOp[]) =>
    (now = siteAfter(now, changeClauses(now, iface().statement, ops, { follow: true })));
  const own = primaryAddress(iface());
  if (differs.includes('own') && planned.own) {
    const to = planned.own;
    if (own && isIpv4(own.address)) {
      const from = networkOf(own) as Prefix<Ipv4>;
      const base = networkOf({ address: to.address, length: own.length });
      if (!prefixEquals(base, from)) now = siteAfter(now, moveSubnet(now, iface(), from, base));
    }
    change([{ do: 'set', name: 'address', text: `address ${formatPrefix(to)}` }]);
  }
  if (differs.includes('tag') && planned.tag !== undefined) {
    const { carrier } = iface().statement;
    const clause = carrier && clausesOf(iface().statement, carrier.by)[0];
    const text = clause && documentOf(now, iface().statement).text.slice(clause.start, clause.end);
    if (clause && text !== undefined)
      change([
        {
          do: 'replace',
          start: clause.start,
          end: clause.end,
          text: `${text.replace(/\s+tag\s+\d+/, '')} tag ${planned.tag}`,
        },
      ]);
  }
  if (differs.includes('zone') && planned.zone !== undefined)
    change([{ do: 'set', name: 'zone', text: `zone ${planned.zone}` }]);
  if (differs.includes('pool') && planned.pool) change(poolOps(now, iface(), planned.pool));
  if (
    differs.includes('name') &&
    planned.name !== undefined &&
    !now.interfaces.some((i) => i.name === planned.name)
  )
    now = siteAfter(now, rename(now, 'interface', name, planned.name));
  return changesTo(site, now);
}

/** A range as people write it beside an address: by last octets where those are all that differs. */
export function rangeBeside(range: Range, own: Prefix | undefined): string {
  const octets = (a: Ip) => formatIp(a).split('.');
  if (!own || !isIpv4(own.address) || !isIpv4(range.first)) return formatRangeShort(range);
  const [base, first, last] = [octets(own.address), octets(range.first), octets(range.last)];
  const alike = (o: readonly string[]) => o.slice(0, 3).join('.') === base.slice(0, 3).join('.');
  if (!alike(first) || !alike(last)) return formatRangeShort(range);
  return range.first === range.last ? `.${first[3]}` : `.${first[3]}-.${last[3]}`;
}

/** The words of a `lends` clause behind its ranges: how long, and with what gateway and names. */
export function poolTerms(clause: string): string[] {
  const words = clause.split(/\s+/);
  const first = words.findIndex((w) => POOL_WORDS.includes(w));
  return first < 0 ? [] : words.slice(first);
}

/** Other ranges for the pools of an interface; how long and with what the first lends stays. */
export function poolOps(site: Site, iface: Interface, ranges: NonNullable<PlanNetwork['pool']>): ClauseOp[] {
  const clauses = clausesOf(iface.statement, 'lends');
  const [first] = clauses;
  const without: ClauseOp[] = clauses.slice(ranges.length ? 1 : 0).map(() => ({
    do: 'remove',
    name: 'lends',
    nth: ranges.length ? 1 : 0,
  }));
  if (!ranges.length) return without;
  const rest = first ? poolTerms(documentOf(site, iface.statement).text.slice(first.start, first.end)) : [];
  const own = primaryAddress(iface);
  const text = ['lends', ...ranges.map((r) => rangeBeside(r, own)), ...rest].join(' ');
  return [...without, first ? { do: 'set', name: 'lends', nth: 0, text } : { do: 'add', text }];
}

/** Writes reservations of a sheet: new ones are added to the network of their address, others changed or moved there. */
export function takeReservations(site: Site, rows: readonly ComparedReservation[]): FileChange[] {
  let now = site;
  for (const { planned, iface, kept, is } of rows) {
    if (!iface || is === 'same') continue;
    const label = planned.label ?? kept?.label ?? '';
    const text = `keeps ${formatIp(planned.address)} for ${formatMac(planned.mac)}${label ? ` ${printString(label)}` : ''}`;
    const at = (name: string) => now.interfaces.find((i) => i.name === name)!;
    if (kept) {
      const from = at(kept.iface.name);
      const nth = from.statement.keeps.findIndex((k) => k.mac === planned.mac);
      const same = kept.iface.name === iface.name;
      const op: ClauseOp = same
        ? { do: 'set', name: 'keeps', nth, text }
        : { do: 'remove', name: 'keeps', nth };
      now = siteAfter(now, changeClauses(now, from.statement, [op]));
      if (same) continue;
    }
    now = siteAfter(now, changeClauses(now, at(iface.name).statement, [{ do: 'add', text }]));
  }
  return changesTo(site, now);
}
