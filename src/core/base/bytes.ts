/**
 * Reading and writing octets in network order (RFC 1700, "Data Notation").
 * A reader never reads past its end: each getter is preceded by a `has` in the caller, or throws.
 */

/** Reads big-endian values from a view of bytes that it never changes. */
export class ByteReader {
  private readonly view: DataView;
  /** Octets from the start of the bytes given. */
  at = 0;

  constructor(readonly bytes: Uint8Array) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }

  /** Octets not yet read. */
  get left(): number {
    return this.bytes.length - this.at;
  }

  /** Whether `count` more octets can be read. */
  has(count: number): boolean {
    return this.left >= count;
  }

  u8(): number {
    return this.view.getUint8(this.at++);
  }

  u16(): number {
    const value = this.view.getUint16(this.at);
    this.at += 2;
    return value;
  }

  u32(): number {
    const value = this.view.getUint32(this.at);
    this.at += 4;
    return value;
  }

  /** An unsigned 48-bit value, as a MAC address is. */
  u48(): number {
    const high = this.u16();
    return high * 2 ** 32 + this.u32();
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

/** Writes big-endian values into bytes of a size known beforehand. Writing past the end throws. */
export class ByteWriter {
  readonly bytes: Uint8Array<ArrayBuffer>;
  private readonly view: DataView;
  at = 0;

  constructor(size: number) {
    this.bytes = new Uint8Array(size);
    this.view = new DataView(this.bytes.buffer);
  }

  u8(value: number): this {
    this.view.setUint8(this.at++, value);
    return this;
  }

  u16(value: number): this {
    this.view.setUint16(this.at, value);
    this.at += 2;
    return this;
  }

  u32(value: number): this {
    this.view.setUint32(this.at, value);
    this.at += 4;
    return this;
  }

  u48(value: number): this {
    return this.u16(Math.floor(value / 2 ** 32)).u32(value % 2 ** 32);
  }

  put(bytes: Uint8Array): this {
    this.bytes.set(bytes, this.at);
    this.at += bytes.length;
    return this;
  }

  /** Overwrites two octets written before, for a checksum known only at the end. */
  patch16(at: number, value: number): this {
    this.view.setUint16(at, value);
    return this;
  }
}

/**
 * The 16-bit one's complement sum of RFC 1071 §1, not yet complemented; an odd last octet is padded with zero.
 * `start` is a sum to go on from (a pseudo header's).
 */
export function onesComplementSum(bytes: Uint8Array, start = 0): number {
  let sum = start;
  const even = bytes.length & ~1;
  for (let i = 0; i < even; i += 2) sum += (bytes[i]! << 8) | bytes[i + 1]!;
  if (even < bytes.length) sum += bytes[even]! << 8;
  while (sum > 0xffff) sum = (sum & 0xffff) + Math.floor(sum / 0x10000);
  return sum;
}
