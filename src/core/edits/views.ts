/** What the views ask for, as text changes. */
import { formatIp } from '#core/addr';
import { written } from '#core/notation';
import type { FileChange } from '#core/notation';
import { nextFreeSubnet } from '#core/model';
import type { Model } from '#core/model';
import { zoneNamed } from '#core/site';
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
  const clause = written(iface.statement).clauses.find((c) => c.name === carrier.by)!;
  const { start, end } = carrier.by === 'loopback' ? clause : carrier.ports[0]!.at;
  const text = carrier.by === 'loopback' ? `on ${port}` : port;
  return changeClauses(site, iface.statement, [{ do: 'replace', start, end, text }]);
}

/** The text of a new interface for a crossing of the board: the next free subnet inside, DHCP outside. */
export function interfaceText(model: Model, name: string, port: string, zone: string, tag?: number): string {
  const upstream = zoneNamed(model.site, zone)?.upstream;
  const on = `on ${port}${tag === undefined ? '' : ` tag ${tag}`}`;
  if (upstream) return `interface ${name}: ${on}, zone ${zone}, address by dhcp`;
  const net = nextFreeSubnet(model);
  const address = net ? `, address ${formatIp((net.address + 1) as typeof net.address)}/${net.length}` : '';
  return `interface ${name}: ${on}, zone ${zone}${address}, answers ping`;
}
