/** Questions about doors that several checks ask. */
import { familyOf, formatIp, formatServices, networkOf } from '#core/addr';
import type { Family, Ip } from '#core/addr';
import { memo } from '#core/base';
import { addStatement } from '#core/edits';
import type { FileChange, StatementOf } from '#core/notation';
import type { DoorRule } from '#core/semantics';
import { freeName } from '#core/model';
import { interfaceNamed, networksOf, stationsOf } from '#core/site';
import type { Interface, Station } from '#core/site';
import type { Context } from './finding';
import { live, owns, uplinks } from './queries';

/** Interfaces by their networks: by length, then by first address. */
type Homes = Record<Family, Map<number, Map<Ip, Interface[]>>>;
const networks = new WeakMap<Context, Homes>();

function networksIn(c: Context): Homes {
  const out: Homes = { 4: new Map(), 6: new Map() };
  for (const iface of live(c.site))
    for (const { address, length } of networksOf(iface, c.prospects)) {
      const alike = memo(out[familyOf(address)], length, () => new Map<Ip, Interface[]>());
      memo(alike, address, (): Interface[] => []).push(iface);
    }
  return out;
}

/** The interfaces on whose segment an address may be, in file order. */
export function homesOf(c: Context, address: Ip): readonly Interface[] {
  const found = new Set<Interface>();
  for (const [length, nets] of memo(networks, c, () => networksIn(c))[familyOf(address)])
    for (const iface of nets.get(networkOf({ address, length }).address) ?? []) found.add(iface);
  return found.size < 2 ? [...found] : live(c.site).filter((i) => found.has(i));
}

/** The table of the interface that a door says its inside is behind; absent where it does not say. */
export const tableOnDoor = (c: Context, rule: DoorRule): string | undefined =>
  interfaceNamed(c.site, rule.on)?.table;

/** The interface that a door's inside address is behind: in the table of `on`, else in the one table that has it. */
export function homeOfDoor(c: Context, rule: DoorRule): Interface | undefined {
  const homes = homesOf(c, rule.inside);
  const table = tableOnDoor(c, rule);
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
export const ownersOf = (c: Context, rule: DoorRule): readonly Interface[] =>
  memo(
    memo(owners, c, () => new Map<Ip, readonly Interface[]>()),
    rule.outside,
    () => uplinks(c.site).filter((i) => owns(c, i, rule.outside)),
  );
/** Every check of doors asks for the same few. */
const owners = new WeakMap<Context, Map<Ip, readonly Interface[]>>();

/** Replaces the public address of a door. */
export const withOutside = (s: StatementOf<'door'>, text: string): FileChange[] => [
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
  const text = doorText(freeName(c.site, 'door', rule.name), outside, rule);
  return { text, changes: addStatement(c.site, 'door', text, { after: rule.statement }) };
};

/** The doors, each once: of networks that are mapped one to one the first pair stands for all. */
export const eachDoor = (c: Context): DoorRule[] =>
  [...new Map([...c.rules.doors].reverse().map((d) => [d.statement, d] as const)).values()].reverse();
