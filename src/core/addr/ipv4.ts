import type { Brand } from '#core/base';

/** An IPv4 address as an unsigned 32-bit number, 0 to 4294967295. Compare with `===`. */
export type Ipv4 = Brand<number, 'Ipv4'>;

/** 255.255.255.255. */
export const IPV4_MAX = 0xffffffff as Ipv4;

/** The address with this number. Throws RangeError outside 0 to 2^32 − 1. */
export function ipv4(value: number): Ipv4 {
  if (!Number.isInteger(value) || value < 0 || value > IPV4_MAX)
    throw new RangeError(`${value} is no IPv4 address`);
  return value as Ipv4;
}

/**
 * Reads a dotted quad: four decimal numbers 0–255 with no leading zero, nothing else.
 * `010.0.0.1`, `10.1`, `0x0a.0.0.1` and white space are refused (undefined): some programs read them as octal or
 * short forms, so a guess could be another host.
 */
export function parseIpv4(text: string): Ipv4 | undefined {
  let value = 0;
  let octet = -1;
  let dots = 0;
  for (let i = 0; i < text.length; i++) {
    const c = text.charCodeAt(i);
    if (c === 46) {
      if (octet < 0 || ++dots > 3) return undefined;
      value = value * 256 + octet;
      octet = -1;
    } else if (c >= 48 && c <= 57) {
      if (octet === 0) return undefined;
      octet = (octet < 0 ? 0 : octet * 10) + c - 48;
      if (octet > 255) return undefined;
    } else return undefined;
  }
  if (dots !== 3 || octet < 0) return undefined;
  return (value * 256 + octet) as Ipv4;
}

/** As parseIpv4, for constants in code and tests: throws on anything it refuses. */
export function mustIpv4(text: string): Ipv4 {
  const value = parseIpv4(text);
  if (value === undefined) throw new Error(`"${text}" is no IPv4 address`);
  return value;
}

/** The dotted quad. */
export function formatIpv4(address: Ipv4): string {
  return `${address >>> 24}.${(address >>> 16) & 255}.${(address >>> 8) & 255}.${address & 255}`;
}
