/** What the view State shows, as rows: of the bench, by the text and its proof, and of a live box, by what it answered. */
import { formatIp, formatMac, formatPrefix } from '#core/addr';
import type { Sight } from '#core/box';
import { interfaceOfDevice, numbersOf, subjectCounted } from '#core/linux';
import type { Model } from '#core/model';
import type { ProofView } from '../../session/index';

/** One row: a text for each column, and the statement that it came from. */
export interface Row {
  readonly cells: readonly string[];
  readonly subject?: string;
  readonly bad?: boolean;
}

export type Section = 'routes' | 'neighbours' | 'leases' | 'names' | 'ports' | 'flows' | 'hits';

export const HEADS: Readonly<Record<Section, readonly string[]>> = {
  routes: ['table', 'to', 'next hop', 'out by', 'how it came', 'state'],
  neighbours: ['address', 'behind', 'MAC', 'state'],
  leases: ['address', 'MAC', 'who', 'ends'],
  names: ['name', 'known as', 'leads to', 'answered by', 'asked'],
  ports: ['device', 'cable', 'addresses', 'MTU', 'received', 'sent', 'lost'],
  flows: ['zones', 'from', 'to', 'service', 'shown as', 'end'],
  hits: ['statement', 'packets', 'bytes'],
};

const sized = (bytes: number): string =>
  bytes < 10_000
    ? `${bytes} B`
    : bytes < 10_000_000
      ? `${(bytes / 1e3).toFixed(1)} kB`
      : `${(bytes / 1e6).toFixed(1)} MB`;

/** What is foreseen of a model and seen on its bench. */
export function benchRows(model: Model, proof: ProofView | undefined): Record<Section, Row[]> {
  const { site, routes, wiring, states } = model;
  return {
    routes: routes.map((r): Row => {
      const why = r.usable
        ? 'active'
        : r.interface !== undefined && !states.get(r.interface)?.up
          ? 'its interface is down'
          : 'its uplink does not live';
      return {
        cells: [
          r.table,
          formatPrefix(r.prefix),
          r.via === undefined ? (r.interface === undefined ? 'dropped' : 'direct') : formatIp(r.via),
          r.interface ?? '–',
          r.origin,
          why,
        ],
        subject: r.statement?.subject,
      };
    }),
    // The bench forgets who answered whom; who sits there is known.
    neighbours: wiring.stations.flatMap((s): Row[] => {
      const at = model.prospects.stations.get(s.name) ?? model.prospects.stations6.get(s.name);
      return at
        ? [
            {
              cells: [formatIp(at.address), s.name, formatMac(s.mac), s.off ? 'off' : 'there'],
              subject: s.statement?.subject,
            },
          ]
        : [];
    }),
    leases: (proof?.leases ?? []).map((l): Row => {
      const s = wiring.stations.find((x) => x.name === l.station);
      return {
        cells: [l.address, s ? formatMac(s.mac) : '', l.station, 'on the bench'],
        subject: s?.statement?.subject,
      };
    }),
    names: (proof?.names ?? []).map((n): Row => nameRow(n, 'on the bench')),
    ports: [...site.ports.entries()].map(([name, port]): Row => {
      const own = site.interfaces.filter((i) => i.ports.includes(name));
      return {
        cells: [
          name,
          port.off
            ? 'off'
            : port.within !== undefined
              ? `in ${port.within}`
              : own.some((i) => states.get(i.name)?.up)
                ? 'up'
                : 'no cable',
          own.flatMap((i) => (states.get(i.name)?.addresses ?? []).map(formatPrefix)).join(' '),
          String(port.mtu ?? 1500),
          '–',
          '–',
          '–',
        ],
        subject: `port/${name}`,
      };
    }),
    flows: (proof?.log ?? []).map((r): Row => ({
      cells: [r.zones, r.source, r.destination, r.service, r.shown, r.end],
      subject: r.subject,
      bad: !r.good,
    })),
    hits: Object.entries(
      (proof?.log ?? []).reduce<Record<string, number>>((sum, r) => {
        if (r.subject) sum[r.subject] = (sum[r.subject] ?? 0) + 1;
        return sum;
      }, {}),
    ).map(([subject, n]): Row => ({ cells: [subject.replace('/', ' '), `${n} flows`, '–'], subject })),
  };
}

/** What a live box answered; `flows` are its own lines, asked when they are looked at. */
export function liveRows(model: Model, sight: Sight, flows: readonly string[]): Record<Section, Row[]> {
  const { site } = model;
  const numbers = numbersOf(site);
  // Each interface has a table of its own, beside those that the text names.
  const own = new Map(site.interfaces.map((i) => [String(numbers.tableBy(i.name)), `${i.name}’s own`]));
  const named = (device: string) => interfaceOfDevice(site, device) ?? device;
  const behind = (device: string) => {
    const name = interfaceOfDevice(site, device);
    return name === undefined ? undefined : `interface/${name}`;
  };
  return {
    routes: sight.routes.map((r): Row => ({
      cells: [
        own.get(r.table) ?? r.table,
        r.to,
        r.via ?? 'direct',
        named(r.device),
        r.origin === '77' ? 'told by us' : r.origin,
        r.dead ? 'no cable' : 'active',
      ],
      subject: behind(r.device),
      bad: r.dead,
    })),
    neighbours: sight.neighbours.map((n): Row => ({
      cells: [n.address, named(n.device), n.mac ?? '–', n.state],
      subject: behind(n.device),
      bad: n.state === 'failed',
    })),
    leases: sight.leases.map((l): Row => ({
      cells: [l.address, l.mac, l.host, new Date(l.ends * 1000).toLocaleString()],
    })),
    names: sight.names.map((n): Row => nameRow(n, n.age === undefined ? '–' : `${n.age} s ago`)),
    ports: sight.ports.map((p): Row => ({
      cells: [
        p.name,
        p.carrier ? 'up' : p.up ? 'no cable' : 'off',
        p.addresses.join(' '),
        String(p.mtu),
        `${p.received.packets} (${sized(p.received.bytes)})`,
        `${p.sent.packets} (${sized(p.sent.bytes)})`,
        String(p.received.lost + p.sent.lost),
      ],
      subject: behind(p.name),
      bad: p.up && !p.carrier,
    })),
    flows: flows.map(flowRow),
    hits: sight.hits.map((h): Row => ({
      cells: [h.statement, String(h.packets), sized(h.bytes)],
      subject: subjectCounted(site, h.statement),
    })),
  };
}

/** Where a name leads to that rules speak of; who was never answered stands for nobody. */
const nameRow = (
  n: {
    readonly known: string;
    readonly name: string;
    readonly addresses: readonly string[];
    readonly by?: string;
  },
  asked: string,
): Row => ({
  cells: [
    n.name,
    n.known,
    n.addresses.join(' ') || 'nobody',
    n.by === undefined ? 'nobody answers' : n.by === 'record' ? 'a record of the box' : n.by,
    n.by === undefined ? 'again every 5 s' : asked,
  ],
  subject: `known/${n.known}`,
  bad: !n.addresses.length,
});

/** One line of conntrack(8): the flow as it began, and the address that its answers go to. */
function flowRow(line: string): Row {
  const field = (name: string, nth = 0) =>
    [...line.matchAll(new RegExp(`(?<![\\w])${name}=(\\S+)`, 'g'))][nth]?.[1] ?? '';
  const proto = /^(\w+)/.exec(line)?.[1] ?? '';
  const port = field('dport');
  const shown = field('dst', 1);
  return {
    cells: [
      '',
      field('src'),
      field('dst'),
      `${proto}${port ? ` ${port}` : ''}`,
      shown === field('src') ? '' : shown,
      /\[(UNREPLIED|ASSURED)\]/.exec(line)?.[1]?.toLowerCase() ?? 'answered',
    ],
    bad: line.includes('[UNREPLIED]'),
  };
}
