/**
 * Reading and writing octets in network order (RFC 1700, "Data Notation").
 * A reader never reads past its end: each getter is preceded by a `has` in the caller, or throws.
 */

/** Reads big-endian values from bytes that it never changes. Reading past the end throws RangeError. */
export class ByteReader {
  /** Octets from the start of the bytes given. */
  at = 0;

  constructor(readonly bytes: Uint8Array) {}

  /** Octets not yet read. */
  get left(): number {
    return this.bytes.length - this.at;
  }

  /** Whether `count` more octets can be read. */
  has(count: number): boolean {
    return this.left >= count;
  }

  u8(): number {
    const value = this.bytes[this.at];
    if (value === undefined) throw new RangeError(`octet ${this.at} of ${this.bytes.length}`);
    this.at++;
    return value;
  }

  u16(): number {
    const { bytes, at } = this;
    if (at + 2 > bytes.length) throw new RangeError(`octets ${at} to ${at + 1} of ${bytes.length}`);
    this.at = at + 2;
    return (bytes[at]! << 8) | bytes[at + 1]!;
  }

  u32(): number {
    return this.u16() * 0x10000 + this.u16();
  }

  /** An unsigned 48-bit value, as a MAC address is. */
  u48(): number {
    return this.u16() * 2 ** 32 + this.u32();
  }

  /** An unsigned 128-bit value, as an IPv6 address is. */
  u128(): bigint {
    let value = 0n;
    for (let i = 0; i < 4; i++) value = (value << 32n) | BigInt(this.u32());
    return value;
  }

  /** The next `count` octets, not copied. Throws RangeError when fewer are left. */
  take(count: number): Uint8Array {
    if (count < 0 || count > this.left) throw new RangeError(`take ${count} of ${this.left} octets`);
    const part = this.bytes.subarray(this.at, this.at + count);
    this.at += count;
    return part;
  }

  /** All that is left. */
  rest(): Uint8Array {
    return this.take(this.left);
  }
}

/** Writes big-endian values into bytes of a size known beforehand; values keep their low bits. Past the end throws. */
export class ByteWriter {
  readonly bytes: Uint8Array<ArrayBuffer>;
  at = 0;

  constructor(size: number) {
    this.bytes = new Uint8Array(size);
  }

  u8(value: number): this {
    if (this.at >= this.bytes.length) throw new RangeError(`octet ${this.at} of ${this.bytes.length}`);
    this.bytes[this.at++] = value;
    return this;
  }

  u16(value: number): this {
    const { bytes, at } = this;
    if (at + 2 > bytes.length) throw new RangeError(`octets ${at} to ${at + 1} of ${bytes.length}`);
    bytes[at] = value >>> 8;
    bytes[at + 1] = value;
    this.at = at + 2;
    return this;
  }

  u32(value: number): this {
    return this.u16(value >>> 16).u16(value);
  }

  u48(value: number): this {
    return this.u16(Math.floor(value / 2 ** 32)).u32(value % 2 ** 32);
  }

  u128(value: bigint): this {
    for (let i = 96n; i >= 0n; i -= 32n) this.u32(Number((value >> i) & 0xffffffffn));
    return this;
  }

  put(bytes: Uint8Array): this {
    this.bytes.set(bytes, this.at);
    this.at += bytes.length;
    return this;
  }

  /** Overwrites two octets written before, for a checksum known only at the end. */
  patch16(at: number, value: number): this {
    this.bytes[at] = value >>> 8;
    this.bytes[at + 1] = value;
    return this;
  }
}

/** Byte strings one after another. */
export function joined(parts: readonly Uint8Array[]): Uint8Array<ArrayBuffer> {
  const w = new ByteWriter(parts.reduce((sum, part) => sum + part.length, 0));
  for (const part of parts) w.put(part);
  return w.bytes;
}

/**
 * The 16-bit one's complement sum of RFC 1071 §1, not yet complemented; an odd last octet is padded with zero.
 * `start` is a sum to go on from (a pseudo header's); `from` and `to` are the octets that are summed up.
 */
export function onesComplementSum(bytes: Uint8Array, start = 0, from = 0, to = bytes.length): number {
  let sum = start;
  const even = to - ((to - from) & 1);
  for (let i = from; i < even; i += 2) sum += (bytes[i]! << 8) | bytes[i + 1]!;
  if (even < to) sum += bytes[even]! << 8;
  while (sum > 0xffff) sum = (sum & 0xffff) + Math.floor(sum / 0x10000);
  return sum;
}
