/**
 * The wiring as it is taken to be: what the files say, and a plain supposition where they are silent (notation,
 * "Where the wiring is silent"). Everything that rests on a supposition carries `supposed`.
 */
import {
  contains,
  formatIp,
  hostPrefix,
  hostRange,
  identifierOf,
  isIpv4,
  linkLocal,
  mustIpv4,
  mustPrefix,
  networkOf,
  offsetIp,
  overlaps,
  parseIp,
} from '#core/addr';
import type { Ip, Ipv4, Ipv6, Mac, Prefix, Range, Services } from '#core/addr';
import type { Plug, StatementOf } from '#core/notation';
import { claimantAt, landingOf, legLanding, routingSwitch, segmentOf } from './segments';
import type { Landing } from './segments';
import { optionsFrom, poolFrom, reservedFrom, primaryAddress, staticNetworks } from './site';
import type { Interface, Pool, Site } from './types';

export interface Circuit {
  readonly name: string;
  readonly supposed: boolean;
  readonly statement?: StatementOf<'circuit'>;
  readonly plug?: Plug;
  /** The port and tag of the box it arrives at, or why it arrives at none. */
  readonly landing: Landing;
  /** Its subnet: the block, the lent network, or none for PPPoE. */
  readonly prefix?: Prefix<Ipv4>;
  /** Addresses given by DHCP. */
  readonly lends?: Range<Ipv4>;
  readonly gateway?: Ipv4;
  /** A PPPoE login and the two ends of its session. A supposed one takes any login. */
  readonly session?: {
    readonly user: string;
    readonly secret: string;
    readonly gives: Ipv4;
    readonly peer: Ipv4;
  };
  /** The IPv6 network of the line, its router at the first address. */
  readonly block6?: Prefix<Ipv6>;
  /** The network of which addresses are given by DHCPv6. */
  readonly lends6?: Prefix<Ipv6>;
  /** The prefix that is delegated to the box. */
  readonly delegates6?: Prefix<Ipv6>;
  /** Where a static IPv6 gateway is; the router answers at its link-local address beside. */
  readonly gateway6?: Ipv6;
  readonly linkLocal: Ipv6;
  readonly names: readonly Ip[];
  readonly routes: readonly { readonly prefix: Prefix; readonly via: Ip }[];
  /** Networks that it has on its line beside its own. */
  readonly beside: readonly Prefix[];
  /** The address that its own translation shows; absent: it does not translate. */
  readonly translatesTo?: Ipv4;
  readonly silent: boolean;
  /** One way, milliseconds. */
  readonly delay: number;
  readonly loss: number;
  readonly deadBeyond: boolean;
  readonly down: boolean;
}

export interface Station {
  readonly name: string;
  readonly supposed: boolean;
  readonly statement?: StatementOf<'station'>;
  readonly plug?: Plug;
  readonly landing: Landing;
  /** Absent: it takes its address by DHCP. */
  readonly address?: Prefix<Ipv4>;
  readonly dhcp: boolean;
  readonly gateway?: Ipv4;
  /** A written IPv6 address; without one it makes its own where a router advertises. */
  readonly address6?: Prefix<Ipv6>;
  readonly gateway6?: Ipv6;
  /** The last 64 bits of the addresses that it makes itself; those of its MAC where absent. */
  readonly suffix?: bigint;
  readonly names: readonly Ip[];
  /** Of the DHCP server that runs on it: each pool with the network that it is for. */
  readonly lends: readonly LentPool[];
  /** What it tells beside, in the order written; with `only`, whom. */
  readonly options: Interface['options'];
  /** Addresses that only one client gets. */
  readonly reserved: Interface['reserved'];
  readonly mac: Mac;
  /** Whether the MAC address is written, and not made up for it. */
  readonly macStated: boolean;
  readonly listens: Services;
  readonly silent: boolean;
  readonly seat: boolean;
  readonly off: boolean;
}

/** A pool with the network that its addresses are of. */
export interface LentPool extends Pool {
  readonly network: Prefix<Ipv4>;
}

export interface Far {
  readonly name: string;
  readonly supposed: boolean;
  readonly statement?: StatementOf<'far'>;
  readonly addresses: readonly Ip[];
  readonly listens: Services;
  readonly resolves: boolean;
  readonly silent: boolean;
}

/** One side of a router inside. */
export interface RouterLeg {
  /** As it is written: `core/4`, `core tag 130`. */
  readonly name: string;
  readonly plug: Plug;
  readonly landing: Landing;
  /** What it is on (`segmentOf`); absent where it is on nothing. */
  readonly segment?: string;
  readonly address: Prefix<Ipv4>;
  readonly mac: Mac;
  readonly pool?: Pool;
  /** DHCP servers elsewhere that it asks for the clients here. */
  readonly relays: readonly Ipv4[];
}

/** A router inside, or a switch that routes. It speaks IPv4 and translates nothing. */
export interface InsideRouter {
  readonly name: string;
  readonly statement: StatementOf<'router'>;
  readonly legs: readonly RouterLeg[];
  readonly gateway?: Ipv4;
  readonly routes: readonly { readonly prefix: Prefix<Ipv4>; readonly via: Ipv4 }[];
  /** It drops pings to itself. */
  readonly silent: boolean;
}

export interface Wiring {
  readonly circuits: readonly Circuit[];
  readonly routers: readonly InsideRouter[];
  readonly stations: readonly Station[];
  readonly fars: readonly Far[];
}

/** The services that a supposed far host listens to. */
const WEB: Services = [
  { kind: 'ports', proto: 6, first: 80, last: 80 },
  { kind: 'ports', proto: 6, first: 443, last: 443 },
];

/** A MAC address of the locally administered kind (IEEE 802, second bit of the first octet), the same for a name each time. */
export function macFor(name: string): Mac {
  let hash = 0x811c9dc5;
  for (let i = 0; i < name.length; i++) hash = Math.imul(hash ^ name.charCodeAt(i), 0x01000193) >>> 0;
  return (0x024a_0000_0000 + hash) as Mac;
}

/** The twin's sockets have MAC addresses of their own. */
const macOwner = (site: Site): string => (site.isTwin ? 'twin ' : '');

/** The MAC address of an interface: its own, its port's, or one made from the port's name. */
export function interfaceMac(site: Site, iface: Interface): Mac {
  const port = iface.ports[0];
  return (
    iface.mac ??
    (port === undefined ? undefined : site.ports.get(port)?.mac) ??
    macFor(
      `${macOwner(site)}port ${(port === undefined ? undefined : site.ports.get(port)?.over?.ports[0]) ?? port ?? iface.name}`,
    )
  );
}

/** Ports of the box that some wiring statement plugs into. */
export function describedPorts(site: Site): Set<string> {
  const out = new Set<string>();
  for (const s of [...site.circuits, ...site.switches, ...site.stations])
    if (s.plug?.to === 'port') out.add(s.plug.port);
  for (const { value: leg } of site.routers.flatMap((r) => r.legs))
    if (leg.plug.to === 'port' && !routingSwitch(site.switches, leg.plug)) out.add(leg.plug.port);
  return out;
}

/** The whole wiring, supposed parts included. */
export function completeWiring(site: Site): Wiring {
  const described = describedPorts(site);
  const silentPort = (iface: Interface) => iface.ports.find((port) => !described.has(port));
  const circuits = site.circuits.map((s) => statedCircuit(site, s));
  const stations = site.stations.map((s) => statedStation(site, s));
  // A bridge with a station on one member has somebody to ask, whatever the others have.
  const seated = new Set(stations.map((s) => claimantAt(site, s.landing)));
  for (const [i, iface] of site.interfaces.entries()) {
    const port =
      iface.ports.length && iface.ports.every((p) => !described.has(p)) ? iface.ports[0] : undefined;
    if (port !== undefined && iface.uplink) circuits.push(supposedCircuit(site, iface, port, i));
    const inside = silentPort(iface);
    const numbered = primaryAddress(iface) ?? (iface.speaks6 && iface.advertises);
    if (inside !== undefined && !seated.has(iface) && !iface.uplink && !iface.off && numbered)
      stations.push(supposedStation(site, iface, inside));
  }
  const routers = site.routers.map((s) => statedRouter(site, s));
  return { circuits, stations, routers, fars: completeFars(site, circuits, stations) };
}

function statedCircuit(site: Site, s: StatementOf<'circuit'>): Circuit {
  const prefix = (s.block?.value ?? s.lends?.value.prefix) as Prefix<Ipv4> | undefined;
  const lends = s.lends?.value.range as Range<Ipv4> | undefined;
  const lowest = prefix && isIpv4(prefix.address) ? lowestBeside(prefix, lends) : undefined;
  const said = s.gateway?.value;
  const login = s.pppoe?.value;
  const session =
    login && isIpv4(login.gives) && isIpv4(login.peer)
      ? { user: login.user, secret: login.secret, gives: login.gives, peer: login.peer }
      : undefined;
  const six = (p: Prefix | undefined) => (p && !isIpv4(p.address) ? (p as Prefix<Ipv6>) : undefined);
  const block6 = six(s.block6?.value);
  return {
    name: s.name,
    supposed: false,
    statement: s,
    plug: s.plug,
    landing: landingOf(site, s.plug),
    prefix,
    lends,
    gateway: said !== undefined && isIpv4(said) ? said : (lowest ?? session?.peer),
    session,
    block6,
    lends6: six(s.lends6?.value),
    delegates6: six(s.delegates6?.value),
    gateway6: said !== undefined && !isIpv4(said) ? said : block6 && hostRange(block6).first,
    linkLocal: linkLocal(identifierOf(circuitMac(s.name))),
    names: s.names.map((n) => n.value),
    routes: s.routes.map((r) => ({ prefix: r.value.prefix, via: r.value.via })),
    beside: [],
    translatesTo: s.translating
      ? ((s.translating.value.as as Ipv4 | undefined) ?? translationAddress(site.circuits.indexOf(s)))
      : undefined,
    silent: s.silent,
    delay: s.delay,
    loss: s.loss,
    deadBeyond: !!s.deadBeyond,
    down: !!s.down,
  };
}

/** The MAC address of the provider's router on a circuit. */
export const circuitMac = (name: string): Mac => macFor(`circuit ${name}`);

/** What a translating circuit shows when it does not say: an address of 198.19.0.0/16, one for each circuit. */
const translationAddress = (index: number): Ipv4 => offsetIp(mustIpv4('198.19.0.1'), (index % 250) * 256)!;

function statedStation(site: Site, s: StatementOf<'station'>): Station {
  const source = s.address?.value;
  const own = source?.by === 'static' ? source.prefix : undefined;
  const gateway = s.gateway?.value;
  const own6 = s.address6?.value ?? (own && !isIpv4(own.address) ? own : undefined);
  const gateway6 = s.gateway6?.value ?? (gateway !== undefined && !isIpv4(gateway) ? gateway : undefined);
  return {
    name: s.name,
    supposed: false,
    statement: s,
    plug: s.plug,
    landing: landingOf(site, s.plug),
    address: own && isIpv4(own.address) ? (own as Prefix<Ipv4>) : undefined,
    dhcp: source?.by === 'dhcp',
    gateway: gateway !== undefined && isIpv4(gateway) ? gateway : undefined,
    address6: own6 as Prefix<Ipv6> | undefined,
    gateway6: gateway6 as Ipv6 | undefined,
    suffix: s.suffix?.value,
    names: s.names.map((n) => n.value),
    lends: s.lends.flatMap((clause) => {
      const network = clause.network?.value ?? (own && networkOf(own));
      return network && isIpv4(network.address)
        ? [{ ...poolFrom(clause), network: network as Prefix<Ipv4> }]
        : [];
    }),
    options: optionsFrom(s.options),
    reserved: reservedFrom(s.keeps),
    mac: s.mac?.value ?? macFor(`station ${s.name}`),
    macStated: !!s.mac,
    listens: s.listens ?? [],
    silent: s.silent,
    seat: !!s.seat,
    off: !!s.off,
  };
}

function statedRouter(site: Site, s: StatementOf<'router'>): InsideRouter {
  const legs = s.legs.map(({ value: { plug, address, lends, relays } }): RouterLeg => {
    const landing = legLanding(site, plug);
    const socket = plug.to === 'port' ? plug.port : `${plug.switch}/${plug.jack}`;
    const name = plug.tag === undefined ? socket : `${socket} tag ${plug.tag}`;
    return {
      name,
      plug,
      landing,
      segment: segmentOf(site, landing),
      address: address.value as Prefix<Ipv4>,
      mac: macFor(`router ${s.name} ${name}`),
      pool: lends && poolFrom(lends),
      relays: relays.map((r) => r.value).filter(isIpv4),
    };
  });
  const gateway = s.gateway?.value;
  return {
    name: s.name,
    statement: s,
    legs,
    gateway: gateway !== undefined && isIpv4(gateway) ? gateway : undefined,
    routes: s.routes.flatMap(({ value: { prefix, via } }) =>
      isIpv4(prefix.address) && isIpv4(via) ? [{ prefix: prefix as Prefix<Ipv4>, via }] : [],
    ),
    silent: s.silent,
  };
}

/** The lowest host address of a network that a pool does not hold. */
function lowestBeside(prefix: Prefix<Ipv4>, pool: Range<Ipv4> | undefined): Ipv4 | undefined {
  const { first, last } = hostRange(prefix);
  if (!pool || first < pool.first || first > pool.last) return first;
  const next = offsetIp(pool.last, 1);
  return next !== undefined && next <= last ? next : undefined;
}

/** The lowest host address of a network that `taken` does not claim. Each address that it does claim costs a step. */
export function lowestFree<T extends Ip>(prefix: Prefix<T>, taken: (address: T) => boolean): T | undefined {
  const { first, last } = hostRange(prefix);
  for (let a: T | undefined = first; a !== undefined && a <= last; a = offsetIp(a, 1))
    if (!taken(a)) return a;
  return undefined;
}

/** A plain circuit that gives what the interface asks for. */
function supposedCircuit(site: Site, iface: Interface, port: string, index: number): Circuit {
  const own = primaryAddress(iface);
  const common = {
    name: `supposed-${iface.name}`,
    supposed: true,
    plug: undefined,
    landing: { port, tag: iface.tag },
    ...supposed6(site, iface, index),
    linkLocal: linkLocal(identifierOf(circuitMac(`supposed-${iface.name}`))),
    routes: [],
    beside: [],
    silent: false,
    delay: 0,
    loss: 0,
    deadBeyond: false,
    down: false,
  };
  if (own && isIpv4(own.address)) {
    const net = networkOf(own) as Prefix<Ipv4>;
    const said =
      iface.gateway.by === 'address' && isIpv4(iface.gateway.address) ? iface.gateway.address : undefined;
    const mine = new Set(iface.addresses.map((a) => a.prefix.address));
    const gateway = said !== undefined && !mine.has(said) ? said : lowestFree(net, (a) => mine.has(a));
    return { ...common, ...supposedBlock(site, iface, own.address), prefix: net, gateway, names: [] };
  }
  // RFC 2544's benchmarking block counts as public here; a /24 of it for each uplink.
  let net = mustPrefix('198.18.0.0/24') as Prefix<Ipv4>;
  const taken = site.interfaces.flatMap(staticNetworks);
  for (let i = index; i < 512; i++) {
    net = { address: offsetIp(mustIpv4('198.18.0.0'), i * 256)!, length: 24 };
    if (!taken.some((t) => overlaps(t, net))) break;
  }
  const at = (offset: number) => offsetIp(net.address, offset)!;
  const named = iface.names.addresses.length > 0 || (site.box?.names.length ?? 0) > 0;
  if (iface.dynamic === 'pppoe')
    return {
      ...common,
      ...supposedBlock(site, iface, at(100)),
      session: { user: '', secret: '', gives: at(100), peer: at(1) },
      gateway: at(1),
      names: named ? [] : [at(1)],
    };
  return {
    ...common,
    ...supposedBlock(site, iface, at(100)),
    prefix: net,
    lends: { first: at(100), last: at(199) },
    gateway: at(1),
    names: named ? [] : [at(1)],
  };
}

/** The `block` that an interface says it is given: routed to the address that it has there, or on the line. */
function supposedBlock(
  site: Site,
  iface: Interface,
  held: Ipv4,
): Partial<Pick<Circuit, 'routes' | 'beside'>> {
  const said = iface.block;
  if (!said) return {};
  const { prefix, routed } = said;
  if (!routed) return { beside: [prefix] };
  const via = isIpv4(prefix.address) ? held : linkLocal(identifierOf(interfaceMac(site, iface)));
  return { routes: [{ prefix, via }] };
}

/** What a circuit tells the internet to send to it; of IPv4 the address that it shows, where it translates. */
export function announcedBy(c: Circuit): Prefix[] {
  const { translatesTo: shown } = c;
  const four =
    shown === undefined ? [c.prefix, c.session && hostPrefix(c.session.gives)] : [hostPrefix(shown)];
  const given = [...c.beside, ...c.routes.map((r) => r.prefix)];
  return [
    ...four,
    c.block6,
    c.lends6,
    c.delegates6,
    ...given.filter((p) => shown === undefined || !isIpv4(p.address)),
  ].filter((p) => p !== undefined);
}

/**
 * What a supposed circuit gives of IPv6: the networks that the interface has written, else some of RFC 5180's
 * benchmarking block, which counts as public as IPv4's does.
 */
function supposed6(
  site: Site,
  iface: Interface,
  index: number,
): Pick<Circuit, 'block6' | 'lends6' | 'delegates6' | 'gateway6'> {
  const own = iface.addresses.map((a) => a.prefix).find((p): p is Prefix<Ipv6> => !isIpv4(p.address));
  const { slaac, dhcpv6 } = iface.auto6;
  const delegated = site.interfaces.some((i) => i.auto6.from.some((f) => f.interface === iface.name));
  if (!own && !slaac && !dhcpv6 && !delegated) return {};
  const at = (network: string, shift: bigint, length: number): Prefix<Ipv6> => ({
    address: ((parseIp(network) as bigint) + (BigInt(index) << shift)) as Ipv6,
    length,
  });
  const line = own ? networkOf(own) : at('2001:2:0:f000::', 64n, 64);
  const said = iface.gateway6.by === 'address' ? iface.gateway6.address : undefined;
  return {
    block6: own || slaac ? line : undefined,
    lends6: dhcpv6 ? line : undefined,
    delegates6: delegated ? at('2001:2:0:0::', 72n, 56) : undefined,
    gateway6: said !== undefined && !isIpv4(said) ? said : hostRange(line).first,
  };
}

/** A desk PC: by DHCP where the interface lends, else with a free address of the subnet. */
function supposedStation(site: Site, iface: Interface, port: string): Station {
  const own = primaryAddress(iface) as Prefix<Ipv4> | undefined;
  const taken = (a: Ip) =>
    iface.addresses.some((x) => x.prefix.address === a) ||
    site.knowns.some((k) => k.items.some((i) => i.value.range.first === a));
  const lends = iface.pools.some((p) => p.ranges.length > 0);
  const free = own && lowestFree(own, taken);
  let name = `${iface.name}-desk`;
  while (site.stations.some((s) => s.name === name)) name += '-2';
  const resolvesItself = !!site.box?.servesNames && answersDns(iface);
  return {
    name,
    supposed: true,
    landing: { port, tag: iface.tag },
    address: own && !lends && free !== undefined ? { address: free, length: own.length } : undefined,
    dhcp: lends,
    gateway: own?.address,
    names: resolvesItself && own ? [own.address] : (site.box?.names.map((n) => n.value) ?? []),
    lends: [],
    options: [],
    reserved: [],
    mac: macFor(`desk ${iface.name}`),
    macStated: false,
    listens: [],
    silent: false,
    seat: false,
    off: false,
  };
}

const answersDns = (iface: Interface): boolean =>
  iface.answers.some((a) => a.services.some((s) => s.name === 'dns'));

function completeFars(site: Site, circuits: readonly Circuit[], stations: readonly Station[]): Far[] {
  const fars: Far[] = site.fars.map((s) => ({
    name: s.name,
    supposed: false,
    statement: s,
    addresses: s.addresses.map((a) => a.value),
    listens: s.listens ?? [],
    resolves: s.resolves,
    silent: s.silent,
  }));
  const held = new Set<Ip | undefined>([
    ...fars.flatMap((f) => f.addresses),
    ...circuits.map((c) => c.gateway),
  ]);
  const suppose = (address: Ip, resolves: boolean) => {
    if (held.has(address)) return;
    held.add(address);
    fars.push({
      name: `${resolves ? 'names' : 'watch'}-${formatIp(address).replace(/[.:]+/g, '-')}.example`,
      supposed: true,
      addresses: [address],
      listens: [],
      resolves,
      silent: false,
    });
  };
  if (!fars.some((f) => !f.silent)) {
    const nets = [
      ...site.interfaces.flatMap(staticNetworks),
      ...circuits.flatMap((c) => [
        ...(c.prefix ? [c.prefix] : []),
        ...c.beside,
        ...c.routes.map((r) => r.prefix),
      ]),
    ];
    const address =
      ['192.0.2.80', '203.0.113.80', '198.51.100.80', '198.19.255.80']
        .map(mustIpv4)
        .find((a) => !nets.some((n) => contains(n, a))) ?? mustIpv4('198.19.254.80');
    fars.push({
      name: 'www.example',
      supposed: true,
      addresses: [address],
      listens: WEB,
      resolves: false,
      silent: false,
    });
  }
  // Where IPv6 leads out and no far host has such an address, one is supposed, so that there is somebody to ask.
  const out6 = circuits.some((c) => c.block6 ?? c.lends6 ?? c.delegates6);
  if (out6 && !fars.some((f) => !f.silent && f.addresses.some((a) => !isIpv4(a)))) {
    const supposed = fars.findIndex((f) => f.supposed && f.name === 'www.example');
    const address = parseIp('2001:db8:ffff::80')!;
    const known = fars[supposed];
    if (known) fars[supposed] = { ...known, addresses: [...known.addresses, address] };
    else
      fars.push({
        name: 'www6.example',
        supposed: true,
        addresses: [address],
        listens: WEB,
        resolves: false,
        silent: false,
      });
  }
  const insideNetworks = site.interfaces.filter((i) => !i.uplink).flatMap(staticNetworks);
  const own = new Set(site.interfaces.flatMap((i) => i.addresses.map((a) => a.prefix.address)));
  const seen = new Set<Ip>();
  /** Most stations ask the same few. */
  const outside = (address: Ip, resolves: boolean) => {
    if (seen.has(address)) return;
    seen.add(address);
    if (!own.has(address) && !insideNetworks.some((n) => contains(n, address))) suppose(address, resolves);
  };
  for (const iface of site.interfaces) {
    for (const address of iface.names.addresses) outside(address, true);
    for (const pool of iface.pools) for (const address of pool.names) outside(address, true);
    for (const address of iface.watch.addresses) outside(address, false);
  }
  for (const address of site.box?.names ?? []) outside(address.value, true);
  for (const circuit of circuits) for (const address of circuit.names) outside(address, true);
  for (const station of stations) for (const address of station.names) outside(address, true);
  return fars;
}
