/** Where new statements belong: zones by their trust, what is said of few before what is said of many. */
import { contains } from '#core/addr';
import type { Ip } from '#core/addr';
import { staticNetworks, zoneNamed } from '#core/site';
import type { Interface, Site, Zone } from '#core/site';
import { outInterfaces } from '#core/semantics';
import type { StatementOf } from '#core/notation';
import type { Role } from './gesture';

type At<K extends 'zone' | 'leave' | 'passage'> = {
  readonly before?: StatementOf<K>;
  readonly after?: StatementOf<K>;
};

export const roleOf = (zone: Zone): Role =>
  zone.upstream ? 'upstream' : zone.dmz ? 'dmz' : zone.management ? 'management' : 'inside';

/** Outermost first. */
const ORDER: readonly Role[] = ['upstream', 'dmz', 'inside', 'management'];

/** Where a zone of a role stands in the order of trust: a dmz between upstream and inside, management innermost. */
export function zonePlace(site: Site, role: Role): At<'zone'> {
  const rank = ORDER.indexOf(role);
  const before = [...site.zones].reverse().find((z) => ORDER.indexOf(roleOf(z)) <= rank);
  if (before) return { after: before.statement };
  const first = site.zones[0];
  return first ? { before: first.statement } : {};
}

/** The text of a zone of a role. */
export const zoneText = (name: string, role: Role): string =>
  `zone ${name}:${role === 'inside' ? '' : ` ${role}`}`;

/** A leave of somebody stands before the first one by the same way that would take them with others. */
export function leavePlace(site: Site, who: string, via: string): At<'leave'> {
  const out = new Set(outInterfaces(site, via).map((i) => i.name));
  const zoneOf = site.interfaces.find((i) => i.name === who)?.zone?.name;
  const general = site.leaves.find((l) => {
    const ways = outInterfaces(site, l.via.name, l.via.kind);
    if (!ways.some((i) => out.has(i.name))) return false;
    if (l.who.type === 'any') return true;
    if (l.who.type !== 'name') return false;
    return l.who.name === who || l.who.name === zoneOf;
  });
  return general ? { before: general } : {};
}

/** A passage stands before the first one between the two that takes every service or turns some away. */
export function passagePlace(site: Site, from: string, to: string): At<'passage'> {
  const meets = (said: string, own: string) => said === 'any' || own === 'any' || said === own;
  const general = site.passages.find(
    (p) =>
      meets(p.from.name, from) &&
      meets(p.to.name, to) &&
      (p.verdict !== 'allow' || p.from.name === 'any' || p.to.name === 'any'),
  );
  return general ? { before: general } : {};
}

/** The uplink in whose own networks or block a public address lies. */
export const uplinkOf = (site: Site, address: Ip): Interface | undefined =>
  site.interfaces.find(
    (i) =>
      i.uplink &&
      (staticNetworks(i).some((n) => contains(n, address)) || (i.block && contains(i.block.prefix, address))),
  );

/** The zone that faces the internet: of an uplink, else the first upstream one. */
export const outerZone = (site: Site): Zone | undefined =>
  site.interfaces.find((i) => i.uplink && i.zone)?.zone ?? site.zones.find((z) => z.upstream);

/** Whether somebody's leaving by the outer zone is said already. */
export const leavesAlready = (site: Site, who: string, via: string): boolean =>
  site.leaves.some(
    (l) =>
      (l.who.type === 'any' || (l.who.type === 'name' && l.who.name === who)) &&
      (l.via.name === via || zoneNamed(site, l.via.name)?.name === via),
  );

/** Ports that nothing uses and no cable is in, in order, then those that are only cabled; a new one comes last. */
export function freePorts(site: Site): string[] {
  const used = new Set(site.interfaces.flatMap((i) => i.ports));
  const cabled = new Set(
    [...site.circuits, ...site.switches, ...site.stations].flatMap((s) =>
      s.plug?.to === 'port' ? [s.plug.port] : [],
    ),
  );
  const free = [...site.ports.values()].filter((p) => !used.has(p.name)).map((p) => p.name);
  const off = new Set([...site.ports.values()].filter((p) => p.statement?.off).map((p) => p.name));
  const rank = (port: string) => (off.has(port) ? 2 : 0) + (cabled.has(port) ? 1 : 0);
  return [...free.sort((a, b) => rank(a) - rank(b)), nextPort(site)];
}

/** A port that nobody has spoken of yet: a site may name none, or use all that it names. */
function nextPort(site: Site): string {
  let n = 1;
  while (site.ports.has(`p${n}`)) n++;
  return `p${n}`;
}

/** Every port that can be chosen, and one that nobody has spoken of yet. */
export const portOffers = (site: Site): string[] => [...site.ports.keys(), nextPort(site)];
