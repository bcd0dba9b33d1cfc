/**
 * The IPv6 header. RFC 8200 §3.
 *
 *  0                               4               6       7       8              24             40
 * +-------------------------------+---------------+-------+-------+--------------+--------------+
 * |6 | class | flow label         | payload length| next  | hops  | source       | destination  |
 * +-------------------------------+---------------+-------+-------+--------------+--------------+
 * Extension headers are not read: what they lead to is an unknown protocol here.
 */
import type { Ipv6 } from '#core/addr';
import { ByteReader, ByteWriter, ok } from '#core/base';
import type { Result } from '#core/base';
import { fault } from './fault';
import type { WireFault } from './fault';

export const IPV6_HEADER = 40;

export interface Ipv6Packet {
  readonly source: Ipv6;
  readonly destination: Ipv6;
  /** The next header, 0–255; see PROTO. */
  readonly protocol: number;
  /** The hop limit, 0–255. */
  readonly ttl: number;
  readonly payload: Uint8Array;
}

export function decodeIpv6(bytes: Uint8Array): Result<Ipv6Packet, WireFault> {
  if (bytes.length < IPV6_HEADER) return fault('ipv6', 'truncated', `${bytes.length} octets`);
  const r = new ByteReader(bytes);
  const first = r.u32();
  if (first >>> 28 !== 6) return fault('ipv6', 'malformed', `version ${first >>> 28}`);
  const length = r.u16();
  if (!r.has(length + 34)) return fault('ipv6', 'truncated', `length ${length} in ${bytes.length} octets`);
  const [protocol, ttl] = [r.u8(), r.u8()];
  const source = r.u128() as Ipv6;
  const destination = r.u128() as Ipv6;
  return ok({ source, destination, protocol, ttl, payload: r.take(length) });
}

/** Octets of the packet as it is written. */
export const ipv6Size = (packet: Ipv6Packet): number => IPV6_HEADER + packet.payload.length;

export const encodeIpv6 = (packet: Ipv6Packet): Uint8Array =>
  writeIpv6(new ByteWriter(ipv6Size(packet)), packet).bytes;

/** Writes the packet where the writer stands. */
export const writeIpv6 = (w: ByteWriter, packet: Ipv6Packet): ByteWriter =>
  w
    .u32(0x60000000)
    .u16(packet.payload.length)
    .u8(packet.protocol)
    .u8(packet.ttl)
    .u128(packet.source)
    .u128(packet.destination)
    .put(packet.payload);
