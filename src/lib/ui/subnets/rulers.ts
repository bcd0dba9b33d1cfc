/** Networks to scale, as plain data: where the box, pools, keeps, fixed stations and leases are, and how full it is. */
import {
  contains,
  formatIp,
  formatPrefix,
  isIpv4,
  networkOf,
  overlaps,
  parseIp,
  prefixEquals,
  prefixRange,
  rangeContains,
} from '#core/addr';
import type { Ipv4, Prefix } from '#core/addr';
import type { Model } from '#core/model';
import { networksOf, stationsOf, twinAddresses } from '#core/site';
import type { Interface } from '#core/site';

export type MarkKind = 'box' | 'kept' | 'fixed' | 'leased' | 'known';

/** One address that somebody has. */
export interface AddressMark {
  readonly kind: MarkKind;
  /** From the first address of the network. */
  readonly at: number;
  readonly address: string;
  readonly who: string;
}

/** A pool, or the part of one that lies in the network. */
export interface PoolBand {
  /** Place of its range among all ranges of the interface. */
  readonly nth: number;
  readonly first: number;
  readonly last: number;
}

export interface Ruler {
  readonly iface: Interface;
  readonly net: Prefix<Ipv4>;
  readonly text: string;
  readonly primary: boolean;
  /** Learned from a provider: it is shown, and not changed here. */
  readonly learned: boolean;
  readonly size: number;
  readonly marks: readonly AddressMark[];
  readonly pools: readonly PoolBand[];
  /** Networks of others that share addresses with it. */
  readonly clashes: readonly { readonly who: string; readonly first: number; readonly last: number }[];
  readonly count: Readonly<Record<MarkKind | 'lent' | 'free' | 'hosts', number>>;
}

/** A lease that was seen: the station's and its address. */
export interface SeenLease {
  readonly station: string;
  readonly address: string;
}

/** A ruler for every IPv4 network of a site, inside ones first, each in file order. */
export function rulersOf(model: Model, leases: readonly SeenLease[]): Ruler[] {
  const { site } = model;
  const all = site.interfaces
    .filter((i) => !i.off)
    .flatMap((iface) =>
      networksOf(iface, model.prospects)
        .filter((n): n is Prefix<Ipv4> => isIpv4(n.address) && n.length < 32)
        .map((net) => ({ iface, net: networkOf(net) })),
    );
  const rulers = all.map(({ iface, net }) => {
    const others = all.filter(
      (o) =>
        o.iface.table === iface.table &&
        overlaps(o.net, net) &&
        !(o.iface === iface && prefixEquals(o.net, net)),
    );
    return rulerOf(model, iface, net, others, leases);
  });
  return [...rulers.filter((r) => !r.iface.uplink), ...rulers.filter((r) => r.iface.uplink)];
}

function rulerOf(
  { site, wiring }: Model,
  iface: Interface,
  net: Prefix<Ipv4>,
  clashing: readonly { readonly iface: Interface; readonly net: Prefix<Ipv4> }[],
  leases: readonly SeenLease[],
): Ruler {
  const { first, last } = prefixRange(net);
  const size = last - first + 1;
  const taken = new Map<number, AddressMark>();
  const mark = (kind: MarkKind, address: Ipv4, who: string) => {
    if (!contains(net, address) || taken.has(address)) return;
    taken.set(address, { kind, at: address - first, address: formatIp(address), who });
  };
  for (const { prefix } of iface.addresses)
    if (isIpv4(prefix.address)) mark('box', prefix.address, iface.name);
  for (const address of twinAddresses([iface])) mark('fixed', address, 'the second box');
  for (const k of iface.reserved) if (isIpv4(k.address)) mark('kept', k.address, k.label ?? 'reservation');
  const here = stationsOf(wiring, iface).filter((s) => !s.off && !s.supposed);
  for (const s of here) if (s.address && !s.dhcp) mark('fixed', s.address.address, s.name);
  const names = new Set(here.map((s) => s.name));
  for (const lease of leases) {
    const address = names.has(lease.station) ? parseIp(lease.address) : undefined;
    if (address !== undefined && isIpv4(address)) mark('leased', address, lease.station);
  }
  for (const k of site.knowns)
    for (const { value } of k.items)
      if (value.range.first === value.range.last && isIpv4(value.range.first))
        mark('known', value.range.first, k.name);
  const ranges = iface.pools.flatMap((p) => p.ranges);
  const pools = ranges.flatMap((r, nth): PoolBand[] =>
    isIpv4(r.first) && isIpv4(r.last) && r.last >= first && r.first <= last
      ? [{ nth, first: Math.max(r.first, first) - first, last: Math.min(r.last, last) - first }]
      : [],
  );
  const marks = [...taken.values()].sort((a, b) => a.at - b.at);
  const lent = pools.reduce((sum, p) => sum + p.last - p.first + 1, 0);
  const of = (kind: MarkKind) => marks.filter((m) => m.kind === kind).length;
  const hosts = net.length >= 31 ? size : size - 2;
  const outside = marks.filter((m) => !ranges.some((r) => rangeContains(r, (first + m.at) as Ipv4))).length;
  return {
    iface,
    net,
    text: formatPrefix(net),
    primary: iface.addresses.some(
      (a) => a.primary && isIpv4(a.prefix.address) && contains(net, a.prefix.address),
    ),
    learned: iface.dynamic !== undefined && !iface.addresses.length,
    size,
    marks,
    pools,
    clashes: clashing.map((o) => {
      const range = prefixRange(o.net);
      return {
        who: `${o.iface.name} ${formatPrefix(o.net)}`,
        first: Math.max(range.first, first) - first,
        last: Math.min(range.last, last) - first,
      };
    }),
    count: {
      box: of('box'),
      kept: of('kept'),
      fixed: of('fixed'),
      leased: of('leased'),
      known: of('known'),
      lent,
      hosts,
      free: Math.max(0, hosts - lent - outside),
    },
  };
}

/** How many hosts a network of a length has room for. */
export const hostsIn = (length: number): number =>
  length >= 31 ? 2 ** (32 - length) : 2 ** (32 - length) - 2;

/** A private block with the networks that lie in it, for the strip of neighbours. */
export interface Neighbourhood {
  readonly text: string;
  /** Share of the strip, 0 to 1, where each network begins and how much of it it takes. */
  readonly blocks: readonly {
    readonly ruler: Ruler;
    readonly from: number;
    readonly share: number;
  }[];
}

/** The stretches of addresses that the site lives in, each to scale between its first and last network. */
export function neighbourhoods(rulers: readonly Ruler[]): Neighbourhood[] {
  const by = new Map<number, Ruler[]>();
  for (const r of rulers) {
    const home = (r.net.address & 0xffff0000) >>> 0;
    by.set(home, [...(by.get(home) ?? []), r]);
  }
  return [...by].map(([home, list]) => {
    const sorted = [...list].sort((a, b) => a.net.address - b.net.address);
    const first = sorted[0]!.net.address;
    const end = Math.max(...sorted.map((r) => r.net.address + r.size));
    // Room for one more on both sides, within the block.
    const pad = Math.max(...sorted.map((r) => r.size));
    const from = Math.max(home, first - pad);
    const to = Math.min(home + 65536, end + pad);
    return {
      text: `${formatIp(from as Ipv4)} – ${formatIp((to - 1) as Ipv4)}`,
      blocks: sorted.map((ruler) => ({
        ruler,
        from: (ruler.net.address - from) / (to - from),
        share: ruler.size / (to - from),
      })),
    };
  });
}

/** A pool with one end moved; it stays in the network, and its ends keep their order. */
export function movedPool(
  { size, net }: Pick<Ruler, 'size' | 'net'>,
  pool: PoolBand,
  end: 'first' | 'last',
  to: number,
): PoolBand {
  const edge = net.length >= 31 ? 0 : 1;
  const within = Math.max(edge, Math.min(size - 1 - edge, Math.round(to)));
  return end === 'first'
    ? { ...pool, first: Math.min(within, pool.last) }
    : { ...pool, last: Math.max(within, pool.first) };
}
