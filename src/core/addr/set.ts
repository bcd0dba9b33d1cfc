import { compareIp, isIpv4, offsetIp } from './ip';
import type { Family, Ip } from './ip';
import { prefixRange } from './prefix';
import type { Prefix } from './prefix';
import { rangeContains, rangeSize } from './range';
import type { Range } from './range';

/**
 * An immutable set of addresses of both families, kept as sorted ranges that neither touch nor overlap,
 * so that equal sets have equal lists.
 */
export class IpSet {
  private constructor(readonly ranges: readonly Range[]) {}

  static readonly empty = new IpSet([]);

  /** Every address of one family. */
  static all(family: Family): IpSet {
    return family === 4
      ? IpSet.of([{ first: 0 as Ip, last: 0xffffffff as Ip }])
      : IpSet.of([{ first: 0n as Ip, last: ((1n << 128n) - 1n) as Ip }]);
  }

  /** The union of ranges in any order. */
  static of(ranges: readonly Range[]): IpSet {
    const sorted = [...ranges].sort((a, b) => compareIp(a.first, b.first));
    const out: Range[] = [];
    for (const range of sorted) {
      const top = out[out.length - 1];
      const next = top && offsetIp(top.last, 1);
      const joins =
        top &&
        isIpv4(top.first) === isIpv4(range.first) &&
        (next === undefined || compareIp(range.first, next) <= 0);
      if (!joins) out.push(range);
      else if (compareIp(range.last, top.last) > 0)
        out[out.length - 1] = { first: top.first, last: range.last };
    }
    return new IpSet(out);
  }

  static ofPrefixes(prefixes: readonly Prefix[]): IpSet {
    return IpSet.of(prefixes.map(prefixRange));
  }

  static ofAddresses(addresses: readonly Ip[]): IpSet {
    return IpSet.of(addresses.map((address) => ({ first: address, last: address })));
  }

  get isEmpty(): boolean {
    return this.ranges.length === 0;
  }

  /** How many addresses; beyond 2^53 the last digits are lost. */
  get size(): number {
    return this.ranges.reduce((sum, range) => sum + rangeSize(range), 0);
  }

  has(address: Ip): boolean {
    return this.ranges.some((range) => rangeContains(range, address));
  }

  union(other: IpSet): IpSet {
    return IpSet.of([...this.ranges, ...other.ranges]);
  }

  minus(other: IpSet): IpSet {
    const out: Range[] = [];
    for (const range of this.ranges) {
      let first: Ip | undefined = range.first;
      for (const cut of other.ranges) {
        if (first === undefined) break;
        if (compareIp(cut.last, first) < 0 || compareIp(cut.first, range.last) > 0) continue;
        if (compareIp(cut.first, first) > 0) out.push({ first, last: offsetIp(cut.first, -1)! });
        first = compareIp(cut.last, range.last) >= 0 ? undefined : offsetIp(cut.last, 1);
      }
      if (first !== undefined) out.push({ first, last: range.last });
    }
    return new IpSet(out);
  }

  intersect(other: IpSet): IpSet {
    return this.minus(this.minus(other));
  }

  /** Whether every address of this set is in the other; true for the empty set. */
  within(other: IpSet): boolean {
    return this.minus(other).isEmpty;
  }

  meets(other: IpSet): boolean {
    return !this.intersect(other).isEmpty;
  }
}
