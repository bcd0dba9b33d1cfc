/** What the views ask for, as text changes. */
import { clausesOf } from '#core/notation';
import type { FileChange } from '#core/notation';
import type { Interface, Site } from '#core/site';
import { changeClauses } from './change';

/** Puts an interface into a zone. */
export const moveToZone = (site: Site, iface: Interface, zone: string): FileChange[] =>
  changeClauses(site, iface.statement, [{ do: 'set', name: 'zone', text: `zone ${zone}` }]);

/** Puts an interface on a port, keeping its tag. */
export function moveToPort(site: Site, iface: Interface, port: string): FileChange[] {
  const { carrier } = iface.statement;
  if (!carrier) return changeClauses(site, iface.statement, [{ do: 'set', name: 'on', text: `on ${port}` }]);
  // A bridge is changed member by member.
  if (carrier.by === 'bridge') return [];
  const clause = clausesOf(iface.statement, carrier.by)[0]!;
  const { start, end } = carrier.by === 'loopback' ? clause : carrier.ports[0]!.at;
  const text = carrier.by === 'loopback' ? `on ${port}` : port;
  return changeClauses(site, iface.statement, [{ do: 'replace', start, end, text }]);
}

/** Puts an interface into a zone and on a port; what it already is stays. A bridge keeps its members. */
export function moveInterface(site: Site, iface: Interface, zone?: string, port?: string): FileChange[] {
  const toZone = zone !== undefined && zone !== iface.zone?.name;
  const toPort = port !== undefined && !iface.ports.includes(port);
  const { carrier } = iface.statement;
  if (toZone && toPort && carrier?.ports[0] && carrier.by !== 'bridge') {
    const { start, end } = carrier.ports[0].at;
    return changeClauses(site, iface.statement, [
      { do: 'replace', start, end, text: port },
      { do: 'set', name: 'zone', text: `zone ${zone}` },
    ]);
  }
  if (toZone) return moveToZone(site, iface, zone);
  return toPort ? moveToPort(site, iface, port) : [];
}
