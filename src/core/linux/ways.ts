/**
 * Wanted addresses, routes and rules of routing, a line each, as `ip` itself prints them: so that what is there can be
 * held against what is wanted line by line, and nothing that is there already is told again.
 *
 * - `addresses`: `DEVICE ADDRESS/LENGTH`
 * - `routes`: `FAMILY UPLINK ROUTE`, the uplink `-` where its being alive or dead does not matter, `@UPLINK` where only
 *   its resting does
 * - `rules`: `FAMILY PREFERENCE RULE`
 * - `learned`: `FAMILY UPLINK DEVICE FROM TO CONNECTED DEFAULT DEFAULTS`: what turns up in table FROM is copied to table
 *   TO under these two metrics; DEFAULTS says whether default routes are
 */
import { formatIp, formatPrefix, isIpv4, networkOf } from '#core/addr';
import type { Family, Prefix } from '#core/addr';
import type { Route } from '#core/semantics';
import { interfaceNamed } from '#core/site';
import type { Interface } from '#core/site';
import { NO_DEFAULT, hex } from './numbers';
import { comesAndGoes } from './sharing';
import { answeredFor, isDark, isOnCall, isTold } from './told';
import type { Told } from './told';

/** Places in the order of rules (ip-rule(8)), before main at 32766. */
const PREF = {
  exact: 95,
  inexact: 96,
  way: 100,
  table: 110,
  nowhere: 120,
  bound: 150,
  arrived: 200,
  alone: 201,
  answers: 205,
} as const;

/** The lines of `addresses`: in order, so that the first of a subnet is the one that the box speaks with. */
export function wantedAddresses(told: Told): string[] {
  return told.live.flatMap((i) => {
    // What networkd learns on, it holds alone: it would take away what others put there.
    if (isLearner(i)) return [];
    return heldOn(told, i).map((a) => `${told.dev(i)} ${formatPrefix(a)}`);
  });
}

/** What an interface holds itself, whichever of two boxes is active. */
export function heldOn(told: Told, i: Interface): readonly Prefix[] {
  const comes = new Set(comesAndGoes(told, i).map((a) => a.address));
  // What it answers for it need not have: the rules turn away what no door takes.
  return [...told.addresses(i), ...answeredFor(told, i)].filter((a) => !comes.has(a.address));
}

/** Whether systemd-networkd is told this interface: it learns there, or hands on what is delegated. */
export const isLearner = (i: Interface): boolean =>
  i.dynamic === 'dhcp' || i.auto6.slaac || i.auto6.dhcpv6 || i.auto6.from.length > 0;

/** A prefix as `ip route` prints it. */
const destination = (p: Prefix): string => {
  const { address, length } = networkOf(p);
  if (length === 0) return 'default';
  return length === (isIpv4(address) ? 32 : 128) ? formatIp(address) : formatPrefix({ address, length });
};

const family = (p: Prefix): Family => (isIpv4(p.address) ? 4 : 6);

/** Distance first, then priority; the last two digits are left for the order in the file. */
const metricOf = (distance: number, priority: number, tie: number): number =>
  Math.max(1, distance * 10_000_000 + Math.min(priority, 99_999) * 100 + Math.min(tie, 99));

/** Static routes have distances from 1 on. */
const DEFAULT_DISTANCE = 1;

/** The lines of `routes`. */
export function wantedRoutes(told: Told): string[] {
  const { site, numbers, dev } = told;
  const out: string[] = [];
  const ties = new Map<string, number>();
  /** The place among routes that are alike but for it; of default routes as uplinks stand in the file. */
  const tieOf = (r: Route, by: Interface | undefined) => {
    if (by && r.prefix.length === 0 && r.priority > 0) return tieOfUplink(told, by, family(r.prefix));
    const key = `${r.table} ${destination(r.prefix)} ${family(r.prefix)} ${r.distance} ${r.priority}`;
    const tie = ties.get(key) ?? 0;
    ties.set(key, tie + 1);
    return tie;
  };
  for (const r of told.routes) {
    if (!isTold(told, r)) continue;
    const by = interfaceNamed(site, r.interface);
    const said =
      by && r.prefix.length === 0 ? (isIpv4(r.prefix.address) ? by.gateway : by.gateway6) : undefined;
    const metric = metricOf(r.distance, r.priority, tieOf(r, by));
    const line = (table: number): string =>
      [
        ...(by ? [] : ['unreachable']),
        destination(r.prefix),
        ...(r.via === undefined || by?.carrier === 'pppoe' ? [] : [`via ${formatIp(r.via)}`]),
        ...(by ? [`dev ${dev(by)}`] : []),
        ...(table === 254 ? [] : [`table ${table}`]),
        `metric ${metric}`,
        // Only where the text says so: a kernel refuses a next hop on none of the subnets, and is right.
        ...(said?.by === 'address' && said.onlink ? ['onlink'] : []),
      ].join(' ');
    const f = family(r.prefix);
    out.push(`${f} ${by?.uplink ? by.name : '-'} ${line(numbers.kernelTable(r.table))}`);
    // By its own table an uplink is asked whether it lives, also while it counts as dead.
    if (by) out.push(`${f} ${isOnCall(told, by) ? `@${by.name}` : '-'} ${line(numbers.tableBy(by.name))}`);
  }
  return out;
}

/** The families that a box is told. */
const familiesOf = (told: Told): readonly Family[] => (told.six ? [4, 6] : [4]);

/** The lines of `rules`. */
export function wantedRules(told: Told): string[] {
  const { live, numbers, dev } = told;
  const out: string[] = [];
  const shared = new Set(told.rules.shares.map((s) => s.table));
  for (const t of shared) {
    const table = t === 'main' ? 'main' : numbers.kernelTable(t);
    const mark = hex(NO_DEFAULT + numbers.ofTable(t));
    out.push(`4 ${PREF.exact} from all fwmark ${mark}/0x1ffff lookup ${table} suppress_prefixlength 0`);
  }
  if (shared.size)
    out.push(`4 ${PREF.inexact} from all fwmark ${hex(NO_DEFAULT)}/${hex(NO_DEFAULT)} unreachable`);
  for (const f of familiesOf(told)) {
    for (const i of live)
      out.push(
        `${f} ${PREF.way} from all fwmark ${hex(numbers.ofInterface(i.name))}/0xffff lookup ${numbers.tableBy(i.name)}`,
      );
    for (const t of numbers.tables) {
      const table = t === 'main' ? 'main' : numbers.kernelTable(t);
      out.push(`${f} ${PREF.table} from all fwmark ${hex(numbers.ofTable(t))}/0xffff lookup ${table}`);
    }
    // Who is told a way that leads nowhere does not take another.
    out.push(`${f} ${PREF.nowhere} not from all fwmark 0/0xffff unreachable`);
    for (const i of live) {
      if (i.carrier === 'loopback') continue;
      if (i.uplink || i.table !== 'main')
        out.push(`${f} ${PREF.bound} from all oif ${dev(i)} lookup ${numbers.tableBy(i.name)}`);
      if (i.table === 'main') continue;
      out.push(`${f} ${PREF.arrived} from all iif ${dev(i)} lookup ${numbers.kernelTable(i.table)}`);
      // A table of its own does not fall through to another.
      out.push(`${f} ${PREF.alone} from all iif ${dev(i)} unreachable`);
      // What the box answers there finds its way, whatever main has; which of two tables, its flow says then.
      for (const { address } of told.addresses(i, f))
        out.push(`${f} ${PREF.answers} from ${formatIp(address)} lookup ${numbers.kernelTable(i.table)}`);
    }
  }
  return [...new Set(out)];
}

/** The lines of `learned`. */
export function learnedWays(told: Told): string[] {
  const { live, numbers, dev } = told;
  const out: string[] = [];
  for (const i of live) {
    if (isDark(told, i)) continue;
    const line = (f: Family) =>
      [
        f,
        i.uplink ? i.name : '-',
        dev(i),
        numbers.tableBy(i.name),
        numbers.kernelTable(i.table),
        metricOf(0, 0, 0),
        metricOf(DEFAULT_DISTANCE, i.priority, tieOfUplink(told, i, f)),
        wayOf(i, f).by === 'learned' ? 'yes' : 'no',
      ].join(' ');
    if (told.learns4(i)) out.push(line(4));
    if (told.learns6(i)) out.push(line(6));
  }
  return out;
}

/** How many uplinks of the same table and priority have a default route and stand before this one. */
const tieOfUplink = ({ live }: Told, i: Interface, f: Family): number =>
  live
    .slice(0, live.indexOf(i))
    .filter((o) => o.table === i.table && o.priority === i.priority && wayOf(o, f).by !== 'none').length;

/** The default route of an interface, by family. */
const wayOf = (i: Interface, f: Family): Interface['gateway'] => (f === 4 ? i.gateway : i.gateway6);
