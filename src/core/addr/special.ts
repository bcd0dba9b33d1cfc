import { isIpv4 } from './ip';
import type { Family, Ip } from './ip';
import { contains, mustPrefix } from './prefix';
import type { Prefix } from './prefix';

/** A block of addresses with a purpose of its own, and the document that says so. */
export interface SpecialRange {
  readonly prefix: Prefix;
  readonly what: string;
  readonly source: string;
}

const range = (prefix: string, what: string, source: string): SpecialRange => ({
  prefix: mustPrefix(prefix),
  what,
  source,
});

/**
 * The special-purpose IPv4 blocks that never cross the internet. Documentation prefixes (RFC 5737) and the
 * benchmarking block 198.18.0.0/15 are left out on purpose: our examples live there.
 */
const SPECIAL4: readonly SpecialRange[] = [
  range('0.0.0.0/8', 'this network', 'RFC 791 §3.2'),
  range('10.0.0.0/8', 'private', 'RFC 1918 §3'),
  range('100.64.0.0/10', 'shared by providers', 'RFC 6598 §7'),
  range('127.0.0.0/8', 'loopback', 'RFC 1122 §3.2.1.3'),
  range('169.254.0.0/16', 'link-local', 'RFC 3927 §2.1'),
  range('172.16.0.0/12', 'private', 'RFC 1918 §3'),
  range('192.0.0.0/24', 'protocol assignments', 'RFC 6890 §2.1'),
  range('192.168.0.0/16', 'private', 'RFC 1918 §3'),
  range('224.0.0.0/4', 'multicast', 'RFC 5771 §3'),
  range('240.0.0.0/4', 'reserved', 'RFC 1112 §4'),
];

const GLOBAL6 = mustPrefix('2000::/3');
const SPECIAL6: readonly SpecialRange[] = [
  range('::1/128', 'loopback', 'RFC 4291 §2.5.3'),
  range('fc00::/7', 'private', 'RFC 4193 §3.1'),
  range('fe80::/10', 'link-local', 'RFC 4291 §2.5.6'),
  range('ff00::/8', 'multicast', 'RFC 4291 §2.7'),
];
const OTHER6 = range('::/0', 'outside the global unicast block', 'RFC 4291 §2.4');

/** The special-purpose block that holds the address, or undefined where it may cross the internet. */
export function specialRangeOf(address: Ip): SpecialRange | undefined {
  if (isIpv4(address)) return SPECIAL4.find((special) => contains(special.prefix, address));
  if (contains(GLOBAL6, address)) return undefined;
  return SPECIAL6.find((special) => contains(special.prefix, address)) ?? OTHER6;
}

/** Whether the address never crosses the internet. */
export const isSpecial = (address: Ip): boolean => specialRangeOf(address) !== undefined;

/** Whether the address is private: RFC 1918, the providers' shared block of RFC 6598, or ULA (RFC 4193). */
export function isPrivate(address: Ip): boolean {
  const what = specialRangeOf(address)?.what;
  return what === 'private' || what === 'shared by providers';
}

/** Sources that nobody sends from, so that routers refuse them: no network, loopback, groups, reserved (RFC 1812 §5.3.7). */
export const NOBODYS_SOURCES: Readonly<Record<4 | 6, readonly Prefix[]>> = {
  4: ['0.0.0.0/8', '127.0.0.0/8', '224.0.0.0/3'].map(mustPrefix),
  6: ['::1/128', 'ff00::/8'].map(mustPrefix),
};

/** Destinations that are never routed: groups, reserved, everybody; of IPv6 groups and what is valid on one link only. */
export const UNROUTED: Readonly<Record<4 | 6, readonly Prefix[]>> = {
  4: ['224.0.0.0/3'].map(mustPrefix),
  6: ['ff00::/8', 'fe80::/10'].map(mustPrefix),
};

/** Whether a destination is never routed. */
export const isUnrouted = (destination: Ip): boolean =>
  UNROUTED[isIpv4(destination) ? 4 : 6].some((block) => contains(block, destination));

/** Whether a source is nobody's. */
export const isNobodysSource = (source: Ip): boolean =>
  NOBODYS_SOURCES[isIpv4(source) ? 4 : 6].some((block) => contains(block, source));

/**
 * The block that makes the address unusable for any interface (0/8, loopback, link-local, multicast, 240/4),
 * or undefined where a host may have it. IPv6 link-local counts: it is never written, always there.
 */
export function notAHostAddress(address: Ip): SpecialRange | undefined {
  const special = specialRangeOf(address);
  const bad = ['this network', 'loopback', 'link-local', 'multicast', 'reserved'];
  return special && bad.includes(special.what) ? special : undefined;
}

/** The private IPv4 blocks, those that providers share among them (RFC 1918, RFC 6598). */
export const privatePrefixes4 = (): Prefix[] =>
  SPECIAL4.map((special) => special.prefix).filter((prefix) => isPrivate(prefix.address));

/** The blocks of one family that never cross the internet, as prefixes. */
export function specialPrefixes(family: Family): Prefix[] {
  if (family === 4) return SPECIAL4.map((special) => special.prefix);
  // All outside 2000::/3: the three other values of the first bits, from both sides.
  return ['::/3', '4000::/2', '8000::/1'].map(mustPrefix);
}
