/** Questions about doors that several checks ask. */
import { contains, formatIp, formatServices } from '#core/addr';
import type { Ip, Prefix } from '#core/addr';
import { memo } from '#core/base';
import { addStatement } from '#core/edits';
import type { DoorStatement, FileChange } from '#core/notation';
import type { DoorRule } from '#core/semantics';
import { freeName, networksOf, stationsOf } from '#core/site';
import type { Interface, Station } from '#core/site';
import type { Context } from './finding';
import { live, owns, uplinks } from './queries';

/** The interfaces on whose segment an address may be. */
export function homesOf(c: Context, address: Ip): readonly Interface[] {
  const nets = memo(networks, c, () => live(c.site).map((i) => [i, networksOf(i, c.prospects)] as const));
  return memo(
    memo(homes, c, () => new Map<Ip, readonly Interface[]>()),
    address,
    () => nets.flatMap(([i, own]) => (own.some((n) => contains(n, address)) ? [i] : [])),
  );
}
const networks = new WeakMap<Context, readonly (readonly [Interface, readonly Prefix[]])[]>();
/** Every check of doors asks for the same few. */
const homes = new WeakMap<Context, Map<Ip, readonly Interface[]>>();

/** The interface that a door's inside address is behind: in the table of `on`, else in the one table that has it. */
export function homeOfDoor(c: Context, rule: DoorRule): Interface | undefined {
  const homes = homesOf(c, rule.inside);
  const table = live(c.site).find((i) => i.name === rule.on)?.table;
  return homes.find((i) => table === undefined || i.table === table);
}

/** The station that has an address on the segment of an interface, as it is foreseen. */
export const stationAt = (c: Context, iface: Interface, address: Ip): Station | undefined =>
  stationsOf(c.wiring, iface).find(
    (s) =>
      !s.off &&
      (c.prospects.stations.get(s.name)?.address === address ||
        c.prospects.stations6.get(s.name)?.address === address),
  );

/** The uplinks that own the public address of a door. */
export const ownersOf = (c: Context, rule: DoorRule): Interface[] =>
  uplinks(c.site).filter((i) => owns(c, i, rule.outside));

/** Replaces the public address of a door. */
export const withOutside = (s: DoorStatement, text: string): FileChange[] => [
  { file: s.file, edits: [{ start: s.outside!.at.start, end: s.outside!.at.end, text }] },
];

/** A door as a statement. */
export function doorText(name: string, outside: string, rule: DoorRule): string {
  const services = (s: DoorRule['services']) =>
    s.some((i) => i.kind === 'any') ? '' : ` ${formatServices(s)}`;
  const moved = formatServices(rule.insideServices) === formatServices(rule.services);
  const inner = moved ? '' : services(rule.insideServices);
  return `door ${name}: ${outside}${services(rule.services)} > ${formatIp(rule.inside)}${inner}`;
}

/** A second door to the same service, at another address. */
export const doorBeside = (
  c: Context,
  rule: DoorRule,
  outside: string,
): { text: string; changes: FileChange[] } => {
  const text = doorText(freeName(c.site, 'door', rule.statement.name), outside, rule);
  return { text, changes: addStatement(c.site, 'door', text, { after: rule.statement }) };
};
