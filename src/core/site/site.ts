/** From statements to the Site: what those of all files say together, with names resolved. */
import { formatIp, isIpv4, networkOf, offsetIp } from '#core/addr';
import type { Ip, Prefix } from '#core/addr';
import { extend, memo } from '#core/base';
import type { Day } from '#core/base';
import type {
  At,
  Document,
  GatewayClause,
  Kind,
  KeepsClause,
  LendsClause,
  OptionClause,
  Statement,
  StatementOf,
} from '#core/notation';
import { WIRING_KINDS } from '#core/notation';
import { checkNames } from './names';
import { routingSwitch } from './segments';
import type { Zone, OwnAddress, Interface, Pool, Port, Site } from './types';

/** Default maximum transmission unit of Ethernet, octets (RFC 894). */
export const ETHERNET_MTU = 1500;

/**
 * Puts the statements of all files together. Of two statements with one kind and name the first counts. `today` is the
 * day that is asked about; without it nothing has ended.
 */
export function buildSite(documents: readonly Document[], today?: Day): Site {
  const statements = documents.flatMap((d) => d.statements);
  const first = new Map<string, Statement>();
  const counts = (s: Statement): boolean => {
    if (!('name' in s)) return true;
    // A statement whose name could not be read makes nothing that anybody could speak of.
    if (s.name === '') return s.kind === 'box';
    const key = s.kind === 'box' ? 'box' : `${s.kind}/${s.name}`;
    if (first.has(key)) return false;
    first.set(key, s);
    return true;
  };
  const byKind = new Map<Kind, Statement[]>();
  for (const s of statements) if (counts(s)) memo(byKind, s.kind, (): Statement[] => []).push(s);
  const of = <K extends Kind>(kind: K) => (byKind.get(kind) ?? []) as StatementOf<K>[];
  const zones = of('zone').map((statement, trust): Zone => ({
    name: statement.name,
    trust,
    upstream: !!statement.upstream,
    dmz: !!statement.dmz,
    management: !!statement.management,
    within: statement.within?.value ?? (statement.upstream ? 'drop' : 'allow'),
    tint: statement.tint?.value,
    statement,
  }));
  const interfaces = of('interface').map((s) => resolveInterface(s, zones));
  const circuits = of('circuit');
  const switches = of('switch');
  const routers = of('router');
  const stations = of('station');
  const ports = new Map<string, Port>();
  const addPort = (name: string, statement?: StatementOf<'port'>) => {
    const said = statement?.over?.value;
    // What is made of others is so only once: a member is no aggregation.
    const own = members.has(name) ? undefined : said;
    const parts = own?.ports.map((r) => r.name).filter((n) => members.get(n) === name) ?? [];
    const over = own && { ports: parts, mode: own.mode, fast: own.fast };
    const sockets = parts.flatMap((n) => ports.get(n) ?? []);
    ports.set(name, {
      name,
      off: !!statement?.off || (!!over && sockets.every((p) => p.off)),
      mtu: statement?.mtu?.value ?? (sockets.length ? Math.min(...sockets.map((p) => p.mtu)) : ETHERNET_MTU),
      label: statement?.label?.value ?? '',
      mac: statement?.mac?.value ?? sockets[0]?.mac,
      speed: typeof statement?.speed?.value === 'number' ? statement.speed.value : undefined,
      over,
      within: members.get(name),
      statement,
    });
  };
  const stated = of('port');
  const members = new Map<string, string>();
  for (const { name, over } of stated)
    for (const port of over?.value.ports ?? []) if (port.name !== name) memo(members, port.name, () => name);
  for (const name of members.keys())
    addPort(
      name,
      stated.find((s) => s.name === name),
    );
  for (const statement of stated) addPort(statement.name, statement);
  for (const name of interfaces.flatMap((i) => i.ports)) if (!ports.has(name)) addPort(name);
  // A switch that routes has a leg in a VLAN of its own, and no cable for it.
  const legs = routers
    .flatMap((r) => r.legs.map((l) => l.value))
    .filter((l) => !routingSwitch(switches, l.plug));
  for (const { plug } of [...circuits, ...switches, ...stations, ...legs])
    if (plug?.to === 'port' && !ports.has(plug.port)) addPort(plug.port);
  const site: Site = {
    today,
    documents,
    statements,
    box: of('box')[0],
    ports,
    zones,
    interfaces,
    tables: of('table'),
    knowns: of('known'),
    records: of('record'),
    passages: of('passage'),
    leaves: of('leave'),
    sends: of('send'),
    doors: of('door'),
    expects: of('expect'),
    circuits,
    switches,
    routers,
    stations,
    fars: of('far'),
    wired: statements.some((s) => WIRING_KINDS.has(s.kind)),
    nameProblems: [],
  };
  return { ...site, nameProblems: checkNames(site, first) };
}

function resolveInterface(statement: StatementOf<'interface'>, zones: readonly Zone[]): Interface {
  const zone = zones.find((z) => z.name === statement.zone?.name);
  const source = statement.address?.value;
  const dynamic = source && source.by !== 'static' ? source.by : undefined;
  const addresses: OwnAddress[] = [];
  if (source?.by === 'static')
    addresses.push({ prefix: source.prefix, at: statement.address!.at, primary: true });
  for (const item of statement.also) extend(addresses, alsoAddresses(item));
  const primary = source?.by === 'static' ? source.prefix : undefined;
  const virtual = primary && statement.virtual?.value;
  for (const { value, at } of virtual?.addresses ?? [])
    addresses.push({
      prefix: { address: value, length: primary!.length },
      at,
      primary: false,
      virtual: true,
    });
  for (const item of statement.address6)
    if (item.value.by === 'static')
      addresses.push({ prefix: item.value.prefix, at: item.at, primary: false });
  const sources6 = statement.address6.map((a) => a.value);
  const auto6: Interface['auto6'] = {
    slaac: sources6.some((a) => a.by === 'slaac'),
    dhcpv6: sources6.some((a) => a.by === 'dhcpv6'),
    from: sources6.flatMap((a) =>
      a.by === 'from' ? [{ interface: a.interface.name, subnet: a.subnet }] : [],
    ),
  };
  const learns6 = auto6.slaac || auto6.dhcpv6;
  const wayOf = (said: GatewayClause | undefined, learns: boolean): Interface['gateway'] =>
    said
      ? said.by === 'address'
        ? { by: 'address', address: said.address, onlink: said.onlink }
        : { by: said.by }
      : { by: learns ? 'learned' : 'none' };
  const gateway = wayOf(statement.gateway?.value, dynamic !== undefined);
  const gateway6 = wayOf(statement.gateway6?.value, learns6);
  const off = !!statement.off;
  return {
    name: statement.name,
    statement,
    ports: statement.carrier?.ports.map((p) => p.name) ?? [],
    tag: statement.carrier?.tag?.value,
    pcp: statement.carrier?.pcp?.value ?? 0,
    zone,
    table: statement.table?.name ?? 'main',
    off,
    addresses,
    shared: virtual && {
      id: virtual.id,
      addresses: virtual.addresses.map((a) => a.value).filter(isIpv4),
      other: virtual.other && isIpv4(virtual.other.value) ? virtual.other.value : undefined,
    },
    dynamic,
    auto6,
    speaks6: sources6.length > 0,
    gateway,
    gateway6,
    uplink: !off && (!!zone?.upstream || gateway.by !== 'none' || gateway6.by !== 'none'),
    priority: statement.priority?.value ?? 1,
    share: statement.share?.value,
    onDemand: !!statement.onDemand,
    carrier: statement.carrier?.by,
    login:
      statement.carrier?.user === undefined
        ? undefined
        : { user: statement.carrier.user, secret: statement.carrier.secret },
    block: statement.block?.value,
    watch: {
      addresses: statement.watch.map((w) => w.value),
      every: statement.watchEvery,
      lost: statement.watchLost,
      settle: statement.settle,
    },
    guard: !!statement.guard,
    advertises: !!statement.advertises,
    mtu: statement.mtu?.value,
    mss: statement.mss?.value,
    mac: statement.mac?.value,
    answers: statement.answers,
    pools: statement.lends.map(poolFrom),
    relays: statement.relays.map((r) => r.value).filter(isIpv4),
    options: optionsFrom(statement.options),
    reserved: reservedFrom(statement.keeps),
    names: statement.names
      ? {
          learned: statement.names.value.learned,
          addresses: statement.names.value.addresses.map((a) => a.value),
        }
      : { learned: dynamic !== undefined || learns6, addresses: [] },
  };
}

/** A pool as it is written. */
export const poolFrom = (l: LendsClause): Pool => ({
  ranges: l.ranges.map((r) => r.value),
  seconds: l.seconds,
  gateway: l.gateway?.value,
  names: l.names.map((n) => n.value),
});

/** DHCP options as they are written. */
export const optionsFrom = (all: readonly OptionClause[]): Interface['options'] =>
  all.map(({ option, only }) => ({ ...option, only: only?.value }));

/** Reservations as they are written. */
export const reservedFrom = (all: readonly KeepsClause[]): Interface['reserved'] =>
  all.map((k) => ({ address: k.address.value, mac: k.mac, label: k.label }));

function alsoAddresses(item: At<{ range: { first: Ip; last: Ip }; length: number }>): OwnAddress[] {
  const out: OwnAddress[] = [];
  const { range, length } = item.value;
  for (let address: Ip | undefined = range.first; address !== undefined && address <= range.last;) {
    out.push({ prefix: { address, length }, at: item.at, primary: false });
    address = offsetIp(address, 1);
  }
  return out;
}

/** The networks of an interface's static addresses, each once, in order. */
export function staticNetworks(iface: Interface): Prefix[] {
  const seen = new Map<string, Prefix>();
  for (const { prefix } of iface.addresses) {
    const network = networkOf(prefix);
    const key = `${formatIp(network.address)}/${network.length}`;
    if (!seen.has(key)) seen.set(key, network);
  }
  return [...seen.values()];
}

/** The static primary IPv4 address, where there is one. */
export const primaryAddress = (iface: Interface): Prefix | undefined =>
  iface.addresses.find((a) => a.primary && isIpv4(a.prefix.address))?.prefix;

/** Whether a passage or door counts no more on the day that is asked about: the day behind its last has come. */
export const hasEnded = ({ today }: Pick<Site, 'today'>, { until }: { readonly until?: At<Day> }): boolean =>
  today !== undefined && until !== undefined && today > until.value;

/** What has failed while a promise is to hold, by names of lines; undefined where nothing has. */
export const failedWhile = ({
  fault,
}: Pick<StatementOf<'expect'>, 'fault'>):
  | { readonly cut: readonly string[]; readonly dead: readonly string[] }
  | undefined => fault && { cut: fault.cut.map((r) => r.name), dead: fault.dead.map((r) => r.name) };

/** The document that a statement stands in. */
export function documentOf(site: Site, statement: Statement): Document {
  const document = site.documents.find((d) => d.file === statement.file);
  if (!document) throw new Error(`no document ${statement.file} in this site`);
  return document;
}

/** The largest packet that the ports of an interface carry for it, octets: less what PPPoE takes. */
export function carriedMtu(site: Site, iface: Interface): number {
  const ports = iface.ports.flatMap((p) => site.ports.get(p)?.mtu ?? []);
  const most = ports.length ? Math.min(...ports) : ETHERNET_MTU;
  // RFC 2516 §7: six octets of PPPoE and two of PPP.
  return most - (iface.carrier === 'pppoe' ? 8 : 0);
}

/** The largest packet that an interface sends, octets: its own word, else what its ports carry. */
export const linkMtu = (site: Site, iface: Interface): number =>
  iface.statement.mtu?.value ?? carriedMtu(site, iface);

interface Named {
  readonly zones: ReadonlyMap<string, Zone>;
  readonly interfaces: ReadonlyMap<string, Interface>;
}
const named = new WeakMap<Site, Named>();
/** Names are unique in a site, so that each is looked up once. */
const namedIn = (site: Site): Named =>
  memo(named, site, () => ({
    zones: new Map(site.zones.map((z) => [z.name, z])),
    interfaces: new Map(site.interfaces.map((i) => [i.name, i])),
  }));

/** The interface of this name; none where there is no name. */
export const interfaceNamed = (site: Site, name: string | undefined): Interface | undefined =>
  name === undefined ? undefined : namedIn(site).interfaces.get(name);

/** The zone of this name. */
export const zoneNamed = (site: Site, name: string): Zone | undefined => namedIn(site).zones.get(name);
