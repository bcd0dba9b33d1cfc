/** Prefix translation of IPv6 that leaves checksums as they are (NPTv6, RFC 6296): what a host shows outside. */
import { contains, networkOf } from './prefix';
import type { Prefix } from './prefix';
import type { Ipv6 } from './ipv6';
import type { Range } from './range';

/**
 * Lengths of prefixes that are translated here: of a site, or of the networks of one (RFC 6177 §2). Of other lengths
 * what cannot be translated is strewn too widely to be told.
 */
export const isNptLength = (length: number): boolean => length === 48 || (length >= 56 && length <= 64);

const wordsOf = (a: bigint): number[] =>
  Array.from({ length: 8 }, (_, i) => Number((a >> BigInt(112 - 16 * i)) & 0xffffn));

/** The sum of 16-bit words in one's complement. */
const sumOf = (words: readonly number[]): number => {
  let sum = words.reduce((s, w) => s + w, 0);
  while (sum > 0xffff) sum = (sum & 0xffff) + (sum >> 16);
  return sum;
};

/** §3.1: what the new prefix adds to the sum is taken from a word behind it. One's complement, 16 bits. */
export function nptDifference(from: Prefix<Ipv6>, to: Prefix<Ipv6>): number {
  const before = sumOf(wordsOf(networkOf(from).address));
  const after = sumOf(wordsOf(networkOf(to).address));
  return sumOf([before, ~after & 0xffff]);
}

/**
 * The address that a host of one prefix shows as one of another of the same length; undefined where it is of another
 * network, or has no word that could take the difference (§3.5). The same with the prefixes exchanged leads back.
 */
export function nptAddress(address: Ipv6, from: Prefix<Ipv6>, to: Prefix<Ipv6>): Ipv6 | undefined {
  if (!contains(from, address)) return undefined;
  const { length } = from;
  const low = (1n << BigInt(128 - length)) - 1n;
  const words = wordsOf(networkOf(to).address | (address & low));
  // Of /48 and shorter the subnet takes it, else the first word of the host that is not all ones.
  const at = length <= 48 ? 3 : [4, 5, 6, 7].find((i) => words[i] !== 0xffff);
  if (at === undefined || words[at] === 0xffff) return undefined;
  const sum = sumOf([words[at]!, nptDifference(from, to)]);
  words[at] = sum === 0xffff ? 0 : sum;
  return words.reduce((a, w) => (a << 16n) | BigInt(w), 0n) as Ipv6;
}

/** The addresses of a prefix that cannot be translated: a subnet of all ones, or in each subnet the host of all ones. */
export function nptUntranslated({ address, length }: Prefix<Ipv6>): Range[] {
  const ones = (bits: number) => (1n << BigInt(bits)) - 1n;
  if (length <= 48) {
    const first = address | (0xffffn << 64n);
    return [{ first: first as Ipv6, last: (first | ones(64)) as Ipv6 }];
  }
  return Array.from({ length: 2 ** (64 - length) }, (_, n) => {
    const host = (address | (BigInt(n) << 64n) | ones(64)) as Ipv6;
    return { first: host, last: host };
  });
}
