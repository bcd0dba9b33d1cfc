import { IPV4_MAX, formatIpv4, parseIpv4 } from './ipv4';
import type { Ipv4 } from './ipv4';
import { formatIpv6, parseIpv6 } from './ipv6';
import type { Ipv6 } from './ipv6';

/** An address of either family. The families are told apart by their primitive, never mixed in arithmetic. */
export type Ip = Ipv4 | Ipv6;

/** 4 or 6. */
export type Family = 4 | 6;

/** Whether this is an IPv4 address. An IPv4-mapped IPv6 address is IPv6. */
export const isIpv4 = (address: Ip): address is Ipv4 => typeof address === 'number';

/** The family of an address. */
export const familyOf = (address: Ip): Family => (isIpv4(address) ? 4 : 6);

/** Reads an address of either family, strictly; undefined for anything else. */
export function parseIp(text: string): Ip | undefined {
  return text.includes(':') ? parseIpv6(text) : parseIpv4(text);
}

/** The canonical text of an address. */
export const formatIp = (address: Ip): string =>
  isIpv4(address) ? formatIpv4(address) : formatIpv6(address);

/** Order by family, then by number: negative, zero or positive. */
export function compareIp(a: Ip, b: Ip): number {
  if (isIpv4(a) && isIpv4(b)) return a - b;
  if (isIpv4(a)) return -1;
  if (isIpv4(b)) return 1;
  return a < b ? -1 : a > b ? 1 : 0;
}

/** The address `by` further on, or undefined past either end of its family. */
export function offsetIp<T extends Ip>(address: T, by: number): T | undefined {
  if (isIpv4(address)) {
    const moved = address + by;
    return moved < 0 || moved > IPV4_MAX ? undefined : (moved as T);
  }
  const moved = (address as bigint) + BigInt(by);
  return moved < 0n || moved >> 128n > 0n ? undefined : (moved as T);
}
