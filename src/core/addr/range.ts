import { formatIp, isIpv4 } from './ip';
import type { Ip } from './ip';

/** Addresses of one family from `first` to `last`, both included; `first` ≤ `last`. */
export interface Range<T extends Ip = Ip> {
  readonly first: T;
  readonly last: T;
}

/** Whether the address lies in the range. False for the other family. */
export const rangeContains = (range: Range, address: Ip): boolean =>
  typeof address === typeof range.first && address >= range.first && address <= range.last;

/** Whether two ranges share an address. False for different families. */
export const rangesOverlap = (a: Range, b: Range): boolean =>
  typeof a.first === typeof b.first && a.first <= b.last && b.first <= a.last;

/** How many addresses the range has; IPv6 counts beyond 2^53 lose their last digits. */
export const rangeSize = (range: Range): number =>
  isIpv4(range.first) && isIpv4(range.last)
    ? range.last - range.first + 1
    : Number((range.last as bigint) - (range.first as bigint) + 1n);

/** `FIRST-LAST`, or the one address. */
export const formatRange = (range: Range): string =>
  range.first === range.last ? formatIp(range.first) : `${formatIp(range.first)}-${formatIp(range.last)}`;

/** As formatRange, the end of an IPv4 range shortened to the octets that differ: `10.61.20.50-.199`. */
export function formatRangeShort(range: Range): string {
  const { first, last } = range;
  if (first === last || !isIpv4(first) || !isIpv4(last)) return formatRange(range);
  const a = formatIp(first).split('.');
  const b = formatIp(last).split('.');
  let same = 0;
  while (a[same] === b[same]) same++;
  return same < 2 ? formatRange(range) : `${formatIp(first)}-.${b.slice(same).join('.')}`;
}
