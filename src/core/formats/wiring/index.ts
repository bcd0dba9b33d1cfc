/** What is plugged in where, as rows: for whoever stands before the box with a cable in hand. */
import { formatIp, formatMac, formatPrefix } from '#core/addr';
import type { Plug } from '#core/notation';
import { interfaceAt, landed, segmentOf } from '#core/site';
import type { Model } from '#core/model';
import type { Interface, Landing } from '#core/site';

/** What arrives at a port of the box on one tag. */
export interface PortRow {
  readonly port: string;
  readonly label: string;
  /** Absent: untagged. */
  readonly tag?: number;
  readonly interface: string;
  readonly zone: string;
  readonly addresses: readonly string[];
  /** `switch core`, `circuit northmoor`, `station laptop`; empty where nothing is plugged in. */
  readonly plugged: readonly string[];
  readonly off: boolean;
}

export interface JackRow {
  readonly jack: number;
  /** Of untagged frames. */
  readonly tag?: number;
  /** Travel tagged. */
  readonly carries: readonly number[];
  readonly interface: string;
  /** A station by its name, anything else with its kind. */
  readonly plugged: string;
  readonly address: string;
  readonly mac: string;
}

const EMPTY_JACK = { interface: '', plugged: '', address: '', mac: '' } as const;

export interface WiringSheet {
  readonly box: string;
  readonly ports: readonly PortRow[];
  readonly switches: readonly {
    readonly name: string;
    readonly at: string;
    readonly jacks: readonly JackRow[];
  }[];
  readonly routers: readonly {
    readonly name: string;
    readonly gateway: string;
    readonly legs: readonly LegRow[];
  }[];
}

/** One network of a router inside. */
export interface LegRow {
  readonly at: string;
  readonly address: string;
  readonly lends: string;
  /** The interface of the box that is on it, where one is. */
  readonly interface: string;
  /** Who sits there beside. */
  readonly stations: readonly string[];
}

/** The sheet of a site; what the wiring does not say is not made up. */
export function wiringSheet({ site, wiring, prospects }: Model): WiringSheet {
  const stations = wiring.stations.filter((s) => !s.supposed);
  const nameOf = (iface: Interface | undefined) => iface?.name ?? '';
  const pluggedAt = (port: string, tag: number | undefined): string[] => {
    const here = (landing: Landing) => landed(landing) && landing.port === port && landing.tag === tag;
    return [
      ...site.switches
        .filter((s) => s.plug?.to === 'port' && s.plug.port === port)
        .map((s) => `switch ${s.name}`),
      ...wiring.circuits.filter((c) => !c.supposed && here(c.landing)).map((c) => `circuit ${c.name}`),
      ...stations.filter((s) => s.plug?.to === 'port' && here(s.landing)).map((s) => `station ${s.name}`),
    ];
  };
  const ports = [...site.ports.values()].flatMap((port): PortRow[] => {
    const common = { port: port.name, label: port.label };
    const rows = site.interfaces
      .filter((i) => i.ports.includes(port.name))
      .map((i): PortRow => ({
        ...common,
        tag: i.tag,
        interface: i.name,
        zone: i.zone?.name ?? '',
        addresses: i.dynamic ? [`by ${i.dynamic}`] : i.addresses.map((a) => formatPrefix(a.prefix)),
        plugged: pluggedAt(port.name, i.tag),
        off: port.off || i.off,
      }));
    const alone: PortRow = {
      ...common,
      interface: '',
      zone: '',
      addresses: [],
      plugged: pluggedAt(port.name, undefined),
      off: port.off,
    };
    return rows.length ? rows : [alone];
  });
  const switches = site.switches.map((sw) => ({
    name: sw.name,
    at: !sw.plug ? '' : sw.plug.to === 'port' ? sw.plug.port : `${sw.plug.switch}/${sw.plug.jack}`,
    jacks: sw.jacks.flatMap(({ value: { jack, tag, carries } }) => {
      const own = { jack, tag, carries: carries.map((c) => c.value) };
      const here = (plug: Plug | undefined) =>
        plug?.to === 'jack' && plug.switch === sw.name && plug.jack === jack;
      const others = [
        ...[...site.switches, ...site.circuits].flatMap((s) => (here(s.plug) ? [`${s.kind} ${s.name}`] : [])),
        ...wiring.routers.flatMap((r) => (r.legs.some((l) => here(l.plug)) ? [`router ${r.name}`] : [])),
      ].map((plugged): JackRow => ({ ...own, ...EMPTY_JACK, plugged }));
      const rows = [
        ...others,
        ...stations
          .filter((s) => here(s.plug))
          .map((station): JackRow => {
            const address = prospects.stations.get(station.name);
            return {
              ...own,
              interface: nameOf(interfaceAt(site, station.landing)),
              plugged: station.name,
              address: address ? `${formatPrefix(address)}${station.dhcp ? ' (lease, foreseen)' : ''}` : '',
              mac: station.macStated ? formatMac(station.mac) : '',
            };
          }),
      ];
      return rows.length ? rows : [{ ...own, ...EMPTY_JACK }];
    }),
  }));
  const routers = wiring.routers.map(({ name, gateway, legs }) => ({
    name,
    gateway: gateway === undefined ? '' : formatIp(gateway),
    legs: legs.map((leg): LegRow => {
      const iface = interfaceAt(site, leg.landing);
      const here = stations.filter((s) => !iface && segmentOf(site, s.landing) === leg.segment);
      return {
        at: leg.name,
        address: formatPrefix(leg.address),
        lends: leg.pool?.ranges.map((r) => `${formatIp(r.first)}–${formatIp(r.last)}`).join(' ') ?? '',
        interface: nameOf(iface),
        stations: leg.segment === undefined ? [] : here.map((s) => s.name),
      };
    }),
  }));
  return { box: site.box?.name ?? 'box', ports, switches, routers };
}
