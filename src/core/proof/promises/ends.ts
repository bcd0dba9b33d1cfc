/** Who asks and who is asked: the ends of a promise, with all their addresses, and how each begins a flow. */
import { PROTO, contains, familyOf, formatIp, isIpv4, rangeContains } from '#core/addr';
import type { FlowService, Ip } from '#core/addr';
import { readPacket } from '#core/bench';
import type { Attempt, Bench } from '#core/bench';
import type { Who } from '#core/notation';
import { FAMILIES } from '#core/reach';
import type { Place, Reach } from '#core/reach';
import { addressesFor, kindOf } from '#core/semantics';
import type { DoorRule } from '#core/semantics';
import type { Interface } from '#core/site';
import { UNREACHABLE } from '#core/wire';
import { interfaceFor, interfaceAt, networksOf, stationsBehind, stationsOf, zoneNamed } from '#core/site';
import { askFor } from '../asking';
import type { Endpoints } from '../asking';
import { interfacesOf } from '../probes';

/** One place that packets come from or go to, with all its addresses at the moment. */
export interface End {
  readonly name: string;
  readonly addresses: readonly Ip[];
  readonly far?: boolean;
  /** The interface behind which, and behind another router, it is. */
  readonly behind?: string;
  /** As `behind`, of a host that is there. */
  readonly beside?: string;
  /** How it begins a flow; absent where nobody is that could. */
  readonly begin?: (to: Ip, service: FlowService, mark: number) => Attempt;
}

/** One address of an end that is asked for. Behind another router inside nobody is that could answer. */
export interface Target {
  readonly behind?: string;
  readonly name: string;
  readonly address: Ip;
}

/** How a host that is there asks. */
export const beginner =
  (bench: Bench, endpoints: Endpoints): NonNullable<End['begin']> =>
  (to, service, mark) =>
    askFor(bench, endpoints, to, service, { mark });

export const isRefusal = (inner: ReturnType<typeof readPacket>['inner']): boolean =>
  inner.protocol === 'icmp' &&
  inner.icmp.type === 'unreachable' &&
  (inner.icmp.code === UNREACHABLE.port || inner.icmp.code === UNREACHABLE.protocol);

/**
 * How somebody behind another router inside asks, where no machine is: the packet is put on the line of the interface
 * by which it would come, and what the box sends back to it is the answer.
 */
export function remote(bench: Bench, at: Interface, source: Ip): NonNullable<End['begin']> {
  const echo: FlowService = { proto: isIpv4(source) ? PROTO.icmp : PROTO.icmp6, echo: true };
  return (destination, service, mark) => {
    const attempt: Attempt = { done: false, result: 'waiting' };
    bench.forge(at.name, { source, destination, service: service.echo ? echo : service }, mark);
    bench.scheduler.after(4000, () => {
      const back = bench
        .stepsOf(mark)
        .filter((s) => s.node === bench.box.name && s.interface === at.name)
        .find((s) => (s.code === 'departed' || s.code === 'no-neighbour') && s.packet.destination === source);
      const read = back && readPacket(back.packet);
      const inner = read?.inner;
      attempt.result = !inner
        ? 'silence'
        : (inner.protocol === 'tcp' && inner.tcp.rst) || (read.about && isRefusal(inner))
          ? 'refused'
          : read.about
            ? 'unreachable'
            : 'answered';
      attempt.done = true;
    });
    return attempt;
  };
}

/** The ends that stand for a WHO: its stations and probes, or far hosts. */
export function endsOf(bench: Bench, reach: Reach, who: Who): End[] {
  const { site, wiring } = bench;
  const { prospects } = bench.model;
  const station = (name: string): End[] => {
    const host = bench.hosts.get(name);
    // Where no interface takes what it sends, nobody sits.
    const seat = wiring.stations.find((s) => s.name === name);
    const home = host && seat && interfaceFor(site, wiring, seat);
    return home
      ? [
          {
            name,
            addresses: host.addresses.map((a) => a.address),
            begin: beginner(bench, host.endpoints),
            beside: interfaceAt(site, seat.landing) ? undefined : home.name,
          },
        ]
      : [];
  };
  const far = (name: string): End[] => {
    const host = bench.fars.get(name);
    return host
      ? [{ name, addresses: host.setup.addresses, far: true, begin: beginner(bench, host.endpoints) }]
      : [];
  };
  /** Where no network is, nobody can be. */
  const nowhere = () => !FAMILIES.some((family) => reach.places(who, family).length);
  const behind = (address: Ip): string | undefined =>
    FAMILIES.flatMap((family) => reach.places(who, family)).find(
      (p) => p.beyond && !p.at.uplink && !p.station && p.addresses.has(address),
    )?.at.name;
  const loud = () => wiring.fars.filter((f) => !f.silent).flatMap((f) => far(f.name));
  if (who.type === 'internet') return loud();
  // A suffix that no network makes an address of.
  if (who.type === 'suffix') return [];
  if (who.type === 'name') {
    const kind = kindOf(site, who);
    if (kind === 'station') return station(who.name);
    if (kind === 'far') return far(who.name);
    if (kind === 'door') {
      const door = bench.box.rules().doors.find((d) => d.name === who.name);
      return door ? [{ name: `door ${who.name}`, addresses: [door.outside] }] : [];
    }
    if (kind === 'known') {
      const set = addressesFor(site, wiring, prospects, who);
      const held = wiring.stations.filter((s) => {
        return bench.hosts.get(s.name)?.addresses.some((a) => set.has(a.address));
      });
      // A known is its addresses: what else a host has is somebody else's.
      const known = (end: End): End => ({ ...end, addresses: end.addresses.filter((a) => set.has(a)) });
      if (held.length) return held.flatMap((s) => station(s.name)).map(known);
      if (nowhere()) return [];
      return set.ranges
        .slice(0, 4)
        .map((r) => ({ name: who.name, addresses: [r.first], behind: behind(r.first) }));
    }
    const upstream = kind === 'zone' && zoneNamed(site, who.name)?.upstream;
    const inside = interfacesOf(site, prospects, who).flatMap((i) =>
      [...stationsOf(wiring, i), ...stationsBehind(site, wiring, i)].flatMap((s) => station(s.name)),
    );
    return upstream ? [...inside, ...loud()] : inside;
  }
  if (who.type === 'addresses') {
    const held = [...bench.hosts.values()].filter((h) =>
      h.addresses.some((a) => rangeContains(who.range, a.address)),
    );
    const fars = wiring.fars.filter((f) => f.addresses.some((a) => rangeContains(who.range, a)));
    const inRange = (end: End): End => ({
      ...end,
      addresses: end.addresses.filter((a) => rangeContains(who.range, a)),
    });
    const ends = [...held.flatMap((h) => station(h.name)), ...fars.flatMap((f) => far(f.name))];
    const first = who.range.first;
    const own = holdsItself(bench, first) || doorsAt(bench, who).length > 0;
    if (!ends.length && !own && nowhere()) return [];
    // Who else is on a provider's line is outside, as far hosts are.
    const beside =
      !own &&
      site.interfaces.some((i) => i.uplink && networksOf(i, prospects).some((n) => contains(n, first)));
    return ends.length
      ? ends.map(inRange)
      : [{ name: formatIp(first), addresses: [first], far: beside, behind: behind(first) }];
  }
  return site.interfaces.flatMap((i) =>
    [...stationsOf(wiring, i), ...stationsBehind(site, wiring, i)].flatMap((s) => station(s.name)),
  );
}

/** Those behind other routers inside that a WHO speaks of, one for each route or known host that leads there. */
export const remotesOf = (bench: Bench, reach: Reach, who: Who): End[] =>
  FAMILIES.flatMap((family) => reach.places(who, family))
    .filter((p) => p.beyond && !p.at.uplink && !p.far && !p.station)
    .flatMap(({ at, addresses }) =>
      addresses.ranges.slice(0, MOST_REMOTES).map(({ first: source }) => ({
        name: formatIp(source),
        addresses: [source],
        behind: at.name,
        begin: remote(bench, at, source),
      })),
    );

/** Of one interface more parts than this are not asked one by one. */
const MOST_REMOTES = 8;

/**
 * The addresses of the ends that a source can speak to: those of its families. Nobody asks itself, or somebody in
 * another table who has its own address; two far hosts speak to each other without the box, as do two behind one router.
 */
export const targetsFor = (from: End, ends: readonly End[]): Target[] =>
  ends
    .filter((to) => to.name !== from.name && !(from.far && to.far))
    .filter((to) => routerOf(from) === undefined || routerOf(to) !== routerOf(from))
    .flatMap((to) => to.addresses.map((address) => ({ name: to.name, address, behind: to.behind })))
    .filter((t) => from.addresses.some((a) => familyOf(a) === familyOf(t.address)))
    .filter((t) => !from.addresses.includes(t.address));

/** The interface before the routers that an end is behind, whether a machine is there or not. */
const routerOf = (end: End): string | undefined => end.behind ?? end.beside;

/** Who has an address on the bench. */
export const holding = (bench: Bench, address: Ip): string[] => [
  ...[...bench.hosts.values()]
    .filter((h) => h.addresses.some((a) => a.address === address))
    .map((h) => h.name),
  ...[...bench.fars.values()].filter((f) => f.setup.addresses.includes(address)).map((f) => f.name),
];

/** The places on a provider's line: nobody is put there, but whoever is may send what they like. */
export const strangersOf = (reach: Reach, who: Who): Place[] =>
  FAMILIES.flatMap((family) => reach.places(who, family)).filter(
    (p) => p.at.uplink && !p.beyond && !p.station,
  );

/** The same as those who are asked for, of a zone or interface: a host or an address is asked for as what it is. */
export const beyondOf = (bench: Bench, reach: Reach, who: Who): End[] =>
  who.type === 'name' && ['zone', 'interface'].includes(kindOf(bench.site, who) ?? '')
    ? remotesOf(bench, reach, who).map(({ begin: _, ...end }) => end)
    : [];

/** Those who might be on a provider's line that a WHO speaks of: whoever it is, packets may not get there. */
export const linesOf = (reach: Reach, who: Who): End[] =>
  strangersOf(reach, who).map(({ at, addresses }) => ({
    name: `the line of ${at.name}`,
    addresses: [addresses.ranges[0]!.first],
    far: true,
  }));

/** Whether the box has an address. */
export const holdsItself = (bench: Bench, address: Ip): boolean =>
  [...bench.box.states().values()].some((s) => s.addresses.some((a) => a.address === address));

export const isAddress = (who: Who): who is Extract<Who, { type: 'addresses' }> =>
  who.type === 'addresses' && who.range.first === who.range.last;

/** The doors at a WHO that is one address: who asks for that gets to whom they lead. */
export const doorsAt = (bench: Bench, who: Who): readonly DoorRule[] =>
  isAddress(who) ? bench.box.rules().doors.filter((d) => d.outside === who.range.first) : [];

export const textOf = (who: Who): string =>
  who.type === 'name' ? who.name : who.type === 'addresses' ? formatIp(who.range.first) : who.type;
