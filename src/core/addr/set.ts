import { compareIp, isIpv4, offsetIp } from './ip';
import type { Family, Ip } from './ip';
import { mustPrefix, prefixRange } from './prefix';
import type { Prefix } from './prefix';
import { rangeSize } from './range';
import type { Range } from './range';

/**
 * An immutable set of addresses of both families, kept as sorted ranges that neither touch nor overlap,
 * so that equal sets have equal lists.
 */
export class IpSet {
  private keyed?: string;

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
    if (ranges.length < 2) return ranges.length ? new IpSet(ranges) : IpSet.empty;
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

  /** The addresses of prefixes written as text, for constants: throws on anything that is no prefix. */
  static parse(...prefixes: readonly string[]): IpSet {
    return IpSet.ofPrefixes(prefixes.map(mustPrefix));
  }

  static ofAddresses(addresses: readonly Ip[]): IpSet {
    return IpSet.of(addresses.map((address) => ({ first: address, last: address })));
  }

  /** Text that is the same for equal sets. */
  get key(): string {
    return (this.keyed ??= this.ranges.map((r) => `${r.first}-${r.last}`).join(','));
  }

  /** The address of a set that holds one only. */
  get single(): Ip | undefined {
    const [range] = this.ranges;
    return this.ranges.length === 1 && range!.first === range!.last ? range!.first : undefined;
  }

  get isEmpty(): boolean {
    return this.ranges.length === 0;
  }

  /** How many addresses; beyond 2^53 the last digits are lost. */
  get size(): number {
    return this.ranges.reduce((sum, range) => sum + rangeSize(range), 0);
  }

  has(address: Ip): boolean {
    return this.holdsAny(address, address);
  }

  /** The addresses of one family. */
  only(family: Family): IpSet {
    const mine = this.ranges.filter((r) => isIpv4(r.first) === (family === 4));
    return mine.length === this.ranges.length ? this : mine.length ? new IpSet(mine) : IpSet.empty;
  }

  equals(other: IpSet): boolean {
    return (
      this === other ||
      (this.ranges.length === other.ranges.length &&
        this.ranges.every((r, i) => r.first === other.ranges[i]!.first && r.last === other.ranges[i]!.last))
    );
  }

  union(other: IpSet): IpSet {
    return IpSet.of([...this.ranges, ...other.ranges]);
  }

  /** Whether this is one range that holds all of another set; a quick no where it is more than one. */
  private spans(other: IpSet): boolean {
    const [range] = this.ranges;
    const { ranges } = other;
    return (
      this.ranges.length === 1 &&
      ranges.length > 0 &&
      isIpv4(range!.first) === isIpv4(ranges[0]!.first) &&
      compareIp(range!.first, ranges[0]!.first) <= 0 &&
      compareIp(range!.last, ranges[ranges.length - 1]!.last) >= 0
    );
  }

  /** This set without another's addresses; itself where they share none. */
  minus(other: IpSet): IpSet {
    if (!this.ranges.length || !other.ranges.length) return this;
    const { single } = this;
    if (single !== undefined) return other.has(single) ? IpSet.empty : this;
    if (other.spans(this)) return IpSet.empty;
    const out: Range[] = [];
    let cutAny = false;
    let j = 0;
    for (const range of this.ranges) {
      let first: Ip | undefined = range.first;
      while (j < other.ranges.length && compareIp(other.ranges[j]!.last, range.first) < 0) j++;
      for (let k = j; k < other.ranges.length && first !== undefined; k++) {
        const cut = other.ranges[k]!;
        if (compareIp(cut.first, range.last) > 0) break;
        cutAny = true;
        if (compareIp(cut.first, first) > 0) out.push({ first, last: offsetIp(cut.first, -1)! });
        first = compareIp(cut.last, range.last) >= 0 ? undefined : offsetIp(cut.last, 1);
      }
      if (first !== undefined) out.push(first === range.first ? range : { first, last: range.last });
    }
    return cutAny ? (out.length ? new IpSet(out) : IpSet.empty) : this;
  }

  /** What both sets hold; this set itself where all of it is in the other. */
  intersect(other: IpSet): IpSet {
    if (this === other || !this.ranges.length) return this;
    const { single } = this;
    if (single !== undefined) return other.has(single) ? this : IpSet.empty;
    // Most sets that meet are a few networks and everything.
    if (other.spans(this)) return this;
    if (this.spans(other)) return other;
    const out: Range[] = [];
    let whole = true;
    let j = 0;
    for (const range of this.ranges) {
      while (j < other.ranges.length && compareIp(other.ranges[j]!.last, range.first) < 0) j++;
      for (let k = j; k < other.ranges.length; k++) {
        const o = other.ranges[k]!;
        if (compareIp(o.first, range.last) > 0) break;
        const first = compareIp(o.first, range.first) > 0 ? o.first : range.first;
        const last = compareIp(o.last, range.last) < 0 ? o.last : range.last;
        const all = first === range.first && last === range.last;
        if (!all) whole = false;
        out.push(all ? range : { first, last });
      }
    }
    if (whole && out.length === this.ranges.length) return this;
    return out.length ? new IpSet(out) : IpSet.empty;
  }

  /** Whether every address of this set is in the other; true for the empty set. */
  within(other: IpSet): boolean {
    return this.minus(other).isEmpty;
  }

  /** Whether both hold some address. */
  meets(other: IpSet): boolean {
    const [few, many] = this.ranges.length <= other.ranges.length ? [this, other] : [other, this];
    return few.ranges.some(({ first, last }) => many.holdsAny(first, last));
  }

  /** Whether any address from the first to the last is in the set. */
  private holdsAny(first: Ip, last: Ip): boolean {
    let low = 0;
    let high = this.ranges.length - 1;
    while (low <= high) {
      const middle = (low + high) >> 1;
      const range = this.ranges[middle]!;
      if (compareIp(last, range.first) < 0) high = middle - 1;
      else if (compareIp(first, range.last) > 0) low = middle + 1;
      else return true;
    }
    return false;
  }
}
