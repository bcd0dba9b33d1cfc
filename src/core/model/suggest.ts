/** What to offer somebody who must choose: the next free subnet, a free port, a free name. */
import { contains, formatIp, ipv4, isIpv4, mustPrefix, networkOf, overlaps } from '#core/addr';
import type { Ipv4, Prefix } from '#core/addr';
import { memo } from '#core/base';
import { isReserved } from '#core/notation';
import { networksOf, staticNetworks } from '#core/site';
import type { Site } from '#core/site';
import type { Model } from './model';

/** Where inside networks are looked for, in order: the site's own private block, then these (RFC 1918 §3). */
const PRIVATE = ['10.61.0.0/16', '10.0.0.0/8', '172.16.0.0/12', '192.168.0.0/16'].map(mustPrefix);

/**
 * The next free private network of this length (8–30) beside those in use: behind the highest one of the site's own
 * /16, else from the start of a private block. Never one that an uplink has or is foreseen to get.
 */
export function nextFreeSubnet(model: Model, length = 24): Prefix<Ipv4> | undefined {
  const { site, wiring, prospects } = model;
  const taken = [
    ...site.interfaces.flatMap((i) => networksOf(i, prospects)),
    ...wiring.circuits.flatMap((c) => (c.prefix ? [networkOf(c.prefix)] : [])),
    ...site.knowns.flatMap((k) => k.items.flatMap((i) => (i.value.prefix ? [i.value.prefix] : []))),
  ].filter((p): p is Prefix<Ipv4> => isIpv4(p.address));
  const inside = site.interfaces.filter((i) => !i.uplink).flatMap(staticNetworks);
  const mine = inside.find(
    (p): p is Prefix<Ipv4> => isIpv4(p.address) && PRIVATE.some((b) => contains(b, p.address)),
  );
  const home = mine && networkOf({ address: mine.address, length: Math.min(16, mine.length) });
  for (const block of [...(home ? [home] : []), ...PRIVATE] as Prefix<Ipv4>[]) {
    const found = freeIn(block, length, taken);
    if (found) return found;
  }
  return undefined;
}

function freeIn(
  block: Prefix<Ipv4>,
  length: number,
  taken: readonly Prefix<Ipv4>[],
): Prefix<Ipv4> | undefined {
  if (length < block.length) return undefined;
  const step = 2 ** (32 - length);
  const end = block.address + 2 ** (32 - block.length);
  const used = taken.filter((t) => overlaps(t, block)).map((t) => t.address as number);
  // Tens are easier to say: 10.61.20.0, 10.61.30.0, … while there is room, then every one.
  const highest = used.reduce((most, a) => Math.max(most, a), block.address as number);
  const stride = length === 24 ? step * 10 : step;
  const starts = [
    (Math.floor((highest - block.address) / stride) + 1) * stride + block.address,
    block.address + step,
    block.address,
  ];
  for (const [i, start] of starts.entries())
    for (let at = start; at + step <= end; at += i === 0 ? stride : step) {
      const candidate: Prefix<Ipv4> = { address: ipv4(at), length };
      if (!taken.some((t) => overlaps(t, candidate))) return candidate;
    }
  return undefined;
}

/** The nearest free network of the same length to the one given, for moving it out of the way. */
export function nearestFreeSubnet(
  model: Model,
  network: Prefix<Ipv4>,
  besides: readonly Prefix[],
): Prefix<Ipv4> | undefined {
  const { site, prospects } = model;
  const taken = [...site.interfaces.flatMap((i) => networksOf(i, prospects)), ...besides];
  const block = PRIVATE.find((b) => contains(b, network.address) && b.length <= 16) ?? PRIVATE[0]!;
  const home = contains(block, network.address) ? (block as Prefix<Ipv4>) : undefined;
  if (!home) return nextFreeSubnet(model, network.length);
  const step = 2 ** (32 - network.length);
  for (let far = 1; far < 65536; far++)
    for (const sign of [1, -1]) {
      const at = network.address + sign * far * step;
      if (at < 0 || at > 0xffffffff || !contains(home, ipv4(at))) continue;
      const candidate: Prefix<Ipv4> = { address: ipv4(at), length: network.length };
      if (!taken.some((t) => overlaps(t, candidate))) return candidate;
    }
  return undefined;
}

/** The first host of a network with its length, as the box's own address there is written. */
export const firstHost = ({ address, length }: Prefix<Ipv4>): string =>
  `${formatIp(ipv4(address + 1))}/${length}`;

/** A name of the wanted form that no statement of the kind has, 15 characters at most: `studio`, `studio-2`, … */
export function freeName(site: Site, kind: string, wanted: string): string {
  const taken = memo(
    memo(takenNames, site, () => new Map<string, ReadonlySet<string>>()),
    kind,
    () => new Set(site.statements.flatMap((s) => (s.kind === kind && 'name' in s ? [s.name] : []))),
  );
  const free = (name: string) => !taken.has(name) && !isReserved(name);
  const base = wanted.slice(0, 15);
  if (free(base)) return base;
  const numbered = (n: number) => {
    const end = `-${n}`;
    return wanted.slice(0, Math.min(12, 15 - end.length)) + end;
  };
  // In steps that double, so that thousands of one name cost no more than their number.
  let high = 2;
  while (!free(numbered(high))) high *= 2;
  let low = Math.max(2, high / 2);
  while (low < high && !free(numbered(low))) low++;
  return numbered(low);
}
const takenNames = new WeakMap<Site, Map<string, ReadonlySet<string>>>();
