import { familyOf, formatIp, isIpv4, offsetIp, parseIp } from './ip';
import type { Ip } from './ip';
import type { Ipv4 } from './ipv4';
import type { Ipv6 } from './ipv6';
import type { Range } from './range';

/**
 * An address with a length. As a network its host bits are zero; as an interface address they are not.
 * `length` is 0–32 for IPv4, 0–128 for IPv6.
 */
export interface Prefix<T extends Ip = Ip> {
  readonly address: T;
  readonly length: number;
}

/** Bits of an address: 32 or 128. */
const widthOf = (address: Ip): number => (isIpv4(address) ? 32 : 128);

/** A single address as a prefix: /32 or /128. */
export const hostPrefix = (address: Ip): Prefix => ({ address, length: widthOf(address) });

/** The netmask of a length 0–32 as an address. */
export const maskOfLength = (length: number): Ipv4 =>
  (length === 0 ? 0 : (0xffffffff << (32 - length)) >>> 0) as Ipv4;

/** The length of a netmask, or undefined when its ones are not contiguous (255.0.255.0). */
export function lengthOfMask(mask: Ipv4): number | undefined {
  const length = 32 - Math.log2((~mask >>> 0) + 1);
  return Number.isInteger(length) ? length : undefined;
}

/** The address with a length. Throws RangeError when the length is outside the family's range. */
export function prefixOf<T extends Ip>(address: T, length: number): Prefix<T> {
  if (!Number.isInteger(length) || length < 0 || length > widthOf(address))
    throw new RangeError(`/${length} is no length for ${formatIp(address)}`);
  return { address, length };
}

/** First and last address that the prefix covers, both included. */
export function prefixRange<T extends Ip>(prefix: Prefix<T>): Range<T> {
  const { address, length } = prefix;
  if (isIpv4(address)) {
    const mask = maskOfLength(length);
    const first = (address & mask) >>> 0;
    return { first: first as T, last: (first + (~mask >>> 0)) as T };
  }
  const host = (1n << BigInt(128 - length)) - 1n;
  const first = ((address as bigint) >> BigInt(128 - length)) << BigInt(128 - length);
  return { first: first as Ipv6 as T, last: (first + host) as Ipv6 as T };
}

/** The network of an interface address: its host bits cleared. */
export const networkOf = <T extends Ip>(prefix: Prefix<T>): Prefix<T> => ({
  address: prefixRange(prefix).first,
  length: prefix.length,
});

/** The highest address of the network; on IPv4 /30 and shorter it is the broadcast address. */
export const broadcastOf = <T extends Ip>(prefix: Prefix<T>): T => prefixRange(prefix).last;

/** Whether the address is not the network's own, that is, whether host bits are set. */
export const hostBitsSet = (prefix: Prefix): boolean => prefixRange(prefix).first !== prefix.address;

/**
 * The addresses that hosts of the network may have: without the first and last on IPv4 /30 and shorter,
 * all of them on /31 (RFC 3021) and /32, and without the first (the routers' anycast, RFC 4291 §2.6.1) on
 * IPv6 up to /126.
 */
export function hostRange<T extends Ip>(prefix: Prefix<T>): Range<T> {
  const { first, last } = prefixRange(prefix);
  if (isIpv4(first) && isIpv4(last))
    return prefix.length > 30 ? { first, last } : { first: (first + 1) as T, last: (last - 1) as T };
  return prefix.length > 126 ? { first, last } : { first: ((first as bigint) + 1n) as Ipv6 as T, last };
}

/** Whether the address lies in the prefix. False for the other family. */
export function contains(prefix: Prefix, address: Ip): boolean {
  if (familyOf(prefix.address) !== familyOf(address)) return false;
  const { first, last } = prefixRange(prefix);
  return address >= first && address <= last;
}

/** Whether two prefixes share an address. False for different families. */
export function overlaps(a: Prefix, b: Prefix): boolean {
  return a.length <= b.length ? contains(a, b.address) : contains(b, a.address);
}

/** Whether address and length are the same. */
export const prefixEquals = (a: Prefix, b: Prefix): boolean =>
  a.length === b.length && a.address === b.address;

/** The same address with another length. */
export const withLength = <T extends Ip>(prefix: Prefix<T>, length: number): Prefix<T> =>
  prefixOf(prefix.address, length);

/** Reads `ADDRESS/LENGTH` strictly; host bits may be set. Undefined for anything else, a missing length included. */
export function parsePrefix(text: string): Prefix | undefined {
  const slash = text.indexOf('/');
  if (slash < 0) return undefined;
  const address = parseIp(text.slice(0, slash));
  const digits = text.slice(slash + 1);
  if (address === undefined || !/^(0|[1-9][0-9]{0,2})$/.test(digits)) return undefined;
  const length = Number(digits);
  return length <= widthOf(address) ? { address, length } : undefined;
}

/** As parsePrefix, for constants in code and tests: throws on anything it refuses. */
export function mustPrefix(text: string): Prefix {
  const prefix = parsePrefix(text);
  if (!prefix) throw new Error(`"${text}" is no prefix`);
  return prefix;
}

/** `ADDRESS/LENGTH`. */
export const formatPrefix = (prefix: Prefix): string => `${formatIp(prefix.address)}/${prefix.length}`;

/** The network of length 64 with this number (from 0) in a delegated prefix; undefined where it has none such. */
export function subnetOf(delegated: Prefix<Ipv6>, number: number): Prefix<Ipv6> | undefined {
  if (delegated.length > 64 || BigInt(number) >> BigInt(64 - delegated.length) > 0n) return undefined;
  return { address: (delegated.address | (BigInt(number) << 64n)) as Ipv6, length: 64 };
}

/** The addresses of a prefix in their order, at most so many. */
export function addressesIn(prefix: Prefix, most: number): Ip[] {
  const { first, last } = prefixRange(prefix);
  const out: Ip[] = [];
  for (let a: Ip | undefined = first; a !== undefined && a <= last && out.length < most; a = offsetIp(a, 1))
    out.push(a);
  return out;
}
