import { formatIpv4, parseIpv4 } from './ipv4';
import type { Ipv4 } from './ipv4';
import type { Brand } from '#core/base';
import type { Mac } from './mac';

/** An IPv6 address as an unsigned 128-bit number. No zone: fe80::1%eth0 is not a value here. */
export type Ipv6 = Brand<bigint, 'Ipv6'>;

const END = 1n << 128n;

/** The address with this number. Throws RangeError outside 0 to 2^128 − 1. */
export function ipv6(value: bigint): Ipv6 {
  if (value < 0n || value >= END) throw new RangeError(`${value} is no IPv6 address`);
  return value as Ipv6;
}

/** Reads the text forms of RFC 4291 §2.2: eight groups, one `::`, or a dotted quad in the last 32 bits. */
export function parseIpv6(text: string): Ipv6 | undefined {
  const halves = text.split('::');
  if (halves.length > 2) return undefined;
  const head = groupsOf(halves[0]!, halves.length === 1);
  if (!head) return undefined;
  if (halves.length === 1) return head.length === 8 ? joined(head) : undefined;
  const tail = groupsOf(halves[1]!, true);
  // RFC 4291 §2.2 (2): "::" stands for one or more groups.
  if (!tail || head.length + tail.length > 7) return undefined;
  return joined([...head, ...Array<number>(8 - head.length - tail.length).fill(0), ...tail]);
}

function groupsOf(text: string, last: boolean): number[] | undefined {
  if (text === '') return [];
  const groups: number[] = [];
  const parts = text.split(':');
  for (const [i, part] of parts.entries()) {
    if (last && i === parts.length - 1 && part.includes('.')) {
      const quad = parseIpv4(part);
      if (quad === undefined) return undefined;
      groups.push(quad >>> 16, quad & 0xffff);
    } else if (/^[0-9a-fA-F]{1,4}$/.test(part)) groups.push(parseInt(part, 16));
    else return undefined;
  }
  return groups;
}

function joined(groups: readonly number[]): Ipv6 {
  let value = 0n;
  for (const group of groups) value = (value << 16n) | BigInt(group);
  return value as Ipv6;
}

/**
 * The one text form of RFC 5952 §4: lower case, no leading zeros, the longest run of two or more zero groups
 * (the first of equals) as `::`, and an IPv4-mapped address with its dotted quad (§5).
 */
export function formatIpv6(address: Ipv6): string {
  if (address >> 32n === 0xffffn) return `::ffff:${formatIpv4(Number(address & 0xffffffffn) as Ipv4)}`;
  const groups: number[] = [];
  for (let i = 7; i >= 0; i--) groups.push(Number((address >> BigInt(i * 16)) & 0xffffn));
  let start = -1;
  let size = 1;
  for (let i = 0; i < 8; i++) {
    let end = i;
    while (end < 8 && groups[end] === 0) end++;
    if (end - i > size) [start, size] = [i, end - i];
    if (end > i) i = end;
  }
  const hex = (part: readonly number[]) => part.map((group) => group.toString(16)).join(':');
  return start < 0 ? hex(groups) : `${hex(groups.slice(0, start))}::${hex(groups.slice(start + size))}`;
}

/**
 * The interface identifier that a MAC address makes: its second-lowest bit of the first octet turned, ff:fe in the
 * middle. RFC 4291 appendix A.
 */
export function identifierOf(mac: Mac): bigint {
  const m = BigInt(mac);
  return ((m >> 24n) << 40n) ^ (0x02n << 56n) ^ (0xfffen << 24n) ^ (m & 0xffffffn);
}

/** The link-local address with an interface identifier. RFC 4291 §2.5.6. */
export const linkLocal = (identifier: bigint): Ipv6 => ((0xfe80n << 112n) | identifier) as Ipv6;

/** Whether the address is valid on its link only: fe80::/10. */
export const isLinkLocal = (address: Ipv6): boolean => address >> 118n === 0x3fan;

/** Whether the address is a group's: ff00::/8. */
export const isGroup = (address: Ipv6): boolean => address >> 120n === 0xffn;
