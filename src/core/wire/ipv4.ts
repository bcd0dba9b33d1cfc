/**
 * The IPv4 header. RFC 791 §3.1.
 *
 *  0       1       2       3       4               6               8       9       10
 * +-------+-------+---------------+---------------+---------------+-------+-------+---------------+
 * |4 |IHL |DSCP   | total length  | identification|flags, offset  | TTL   | proto | checksum      |
 * +-------+-------+---------------+---------------+---------------+-------+-------+---------------+
 * 12 source, 16 destination, 20 options up to IHL × 4.
 */
import type { Ipv4 } from '#core/addr';
import { ByteReader, ByteWriter, ok, onesComplementSum } from '#core/base';
import type { Result } from '#core/base';
import { fault } from './fault';
import type { WireFault } from './fault';

/** Octets of a header without options, the only kind that is written here. */
export const IPV4_HEADER = 20;
/** The TTL that our hosts send with (RFC 1700 "IP Time To Live Parameter"). */
export const DEFAULT_TTL = 64;

export interface Ipv4Packet {
  readonly source: Ipv4;
  readonly destination: Ipv4;
  /** 0–255; see PROTO. */
  readonly protocol: number;
  /** 0–255 hops left. */
  readonly ttl: number;
  readonly identification: number;
  readonly dontFragment: boolean;
  /** Whether another fragment follows; fragments are told, not put together. */
  readonly moreFragments: boolean;
  /** In units of eight octets. */
  readonly fragmentOffset: number;
  /** Kept raw, empty in what is written here. */
  readonly options: Uint8Array;
  readonly payload: Uint8Array;
}

const NO_OPTIONS = new Uint8Array(0);

export function decodeIpv4(bytes: Uint8Array): Result<Ipv4Packet, WireFault> {
  if (bytes.length < IPV4_HEADER) return fault('ipv4', 'truncated', `${bytes.length} octets`);
  const r = new ByteReader(bytes);
  const first = r.u8();
  const header = (first & 15) * 4;
  if (first >>> 4 !== 4 || header < IPV4_HEADER) return fault('ipv4', 'malformed', `first octet ${first}`);
  r.u8();
  const total = r.u16();
  if (total < header || total > bytes.length)
    return fault('ipv4', 'truncated', `length ${total} in ${bytes.length} octets`);
  if (onesComplementSum(bytes, 0, 0, header) !== 0xffff) return fault('ipv4', 'checksum', 'header');
  const identification = r.u16();
  const flags = r.u16();
  const ttl = r.u8();
  const protocol = r.u8();
  r.u16();
  const source = r.u32() as Ipv4;
  const destination = r.u32() as Ipv4;
  return ok({
    source,
    destination,
    protocol,
    ttl,
    identification,
    dontFragment: (flags & 0x4000) !== 0,
    moreFragments: (flags & 0x2000) !== 0,
    fragmentOffset: flags & 0x1fff,
    options: header === IPV4_HEADER ? NO_OPTIONS : r.take(header - IPV4_HEADER),
    payload: bytes.subarray(header, total),
  });
}

/** Octets of the packet as it is written. */
export const ipv4Size = (packet: Ipv4Packet): number =>
  IPV4_HEADER + packet.options.length + packet.payload.length;

export const encodeIpv4 = (packet: Ipv4Packet): Uint8Array =>
  writeIpv4(new ByteWriter(ipv4Size(packet)), packet).bytes;

/** Writes the packet where the writer stands. */
export function writeIpv4(w: ByteWriter, packet: Ipv4Packet): ByteWriter {
  const start = w.at;
  const header = IPV4_HEADER + packet.options.length;
  w.u8(0x40 | (header / 4))
    .u8(0)
    .u16(header + packet.payload.length)
    .u16(packet.identification)
    .u16((packet.dontFragment ? 0x4000 : 0) | (packet.moreFragments ? 0x2000 : 0) | packet.fragmentOffset)
    .u8(packet.ttl)
    .u8(packet.protocol)
    .u16(0)
    .u32(packet.source)
    .u32(packet.destination)
    .put(packet.options)
    .put(packet.payload);
  return w.patch16(start + 10, ~onesComplementSum(w.bytes, 0, start, start + header) & 0xffff);
}

/** A packet with the fields that hosts do not care about filled in. */
export const ipv4Packet = (
  fields: Pick<Ipv4Packet, 'source' | 'destination' | 'protocol' | 'payload'> & Partial<Ipv4Packet>,
): Ipv4Packet => ({
  ttl: DEFAULT_TTL,
  identification: 0,
  dontFragment: true,
  moreFragments: false,
  fragmentOffset: 0,
  options: NO_OPTIONS,
  ...fields,
});
