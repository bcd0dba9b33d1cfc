/** Bridges by their members, zones by their order, cables by their plugs. */
import { clausesOf } from '#core/notation';
import type { FileChange, Statement } from '#core/notation';
import type { Interface, Site } from '#core/site';
import { documentOf } from '#core/site';
import { addStatement, changeClauses, dropStatement, joinChanges } from './change';
import { textOf } from './renumber';

/**
 * Puts a port into the bridge of an interface, or takes it out where it is in; a plain interface becomes a bridge, and
 * a bridge of one port a plain interface again. No change for sessions, loopbacks and the last port.
 */
export function toggleMember(site: Site, iface: Interface, port: string): FileChange[] {
  const { carrier } = iface.statement;
  if (carrier?.by !== 'on' && carrier?.by !== 'bridge') return [];
  const ports = iface.ports.includes(port) ? iface.ports.filter((p) => p !== port) : [...iface.ports, port];
  if (!ports.length) return [];
  const clause = clausesOf(iface.statement, carrier.by)[0]!;
  const tag = carrier.tag ? ` tag ${carrier.tag.value}` : '';
  const pcp = carrier.pcp && ports.length === 1 ? ` pcp ${carrier.pcp.value}` : '';
  const text = ports.length > 1 ? `bridge ${ports.join(' ')}${tag}` : `on ${ports[0]}${tag}${pcp}`;
  return changeClauses(site, iface.statement, [
    { do: 'replace', start: clause.start, end: clause.end, text },
  ]);
}

/** Moves a zone to a place in the order of trust, 0 the outermost. Its lines move, with nothing else. */
export function moveZone(site: Site, name: string, to: number): FileChange[] {
  const i = site.zones.findIndex((z) => z.name === name);
  const [zone, other] = [site.zones[i]?.statement, site.zones[to]?.statement];
  if (!zone || !other || to === i || zone.file !== other.file) return [];
  const whole = documentOf(site, zone).text;
  const end = whole.indexOf('\n', zone.end);
  const text = whole.slice(zone.start, end < 0 ? whole.length : end).replace(/\r$/, '');
  const place = to < i ? { before: other } : { after: other };
  return joinChanges(dropStatement(site, zone), addStatement(site, 'zone', text, place));
}

/** Puts a statement before or behind another of its kind; its words move, comments beside it stay. */
export const moveStatement = (
  site: Site,
  statement: Statement,
  place: { readonly before: Statement } | { readonly after: Statement },
): FileChange[] =>
  joinChanges(
    dropStatement(site, statement),
    addStatement(site, statement.kind, textOf(site, statement), place),
  );

/** Plugs a circuit, switch or station in somewhere else: `p3`, `p3 tag 40` or `core/2`. */
export function replug(site: Site, statement: Statement, to: string): FileChange[] {
  const op = { do: 'set', name: 'at', text: `at ${to}` } as const;
  return changeClauses(site, statement, [op]);
}
