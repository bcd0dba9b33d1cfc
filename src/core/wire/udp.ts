/**
 * UDP. RFC 768: source port, destination port, length, checksum (2 octets each), then data.
 */
import { PROTO } from '#core/addr';
import type { Ip } from '#core/addr';
import { ByteReader, ByteWriter, ok, onesComplementSum } from '#core/base';
import type { Result } from '#core/base';
import { fault } from './fault';
import type { WireFault } from './fault';
import { pseudoHeaderSum } from './ip';

export interface Udp {
  readonly sourcePort: number;
  readonly destinationPort: number;
  readonly data: Uint8Array;
}

/**
 * `source` and `destination` are those of the IP header, for the checksum. A checksum of zero is "none sent", which
 * only IPv4 allows (RFC 8200 §8.1).
 */
export function decodeUdp(bytes: Uint8Array, source: Ip, destination: Ip): Result<Udp, WireFault> {
  if (bytes.length < 8) return fault('udp', 'truncated', `${bytes.length} octets`);
  const r = new ByteReader(bytes);
  const [sourcePort, destinationPort, length, checksum] = [r.u16(), r.u16(), r.u16(), r.u16()];
  if (length < 8 || length > bytes.length)
    return fault('udp', 'truncated', `length ${length} in ${bytes.length} octets`);
  const whole = bytes.subarray(0, length);
  if (
    (checksum !== 0 || typeof source === 'bigint') &&
    onesComplementSum(whole, pseudoHeaderSum(source, destination, PROTO.udp, length)) !== 0xffff
  )
    return fault('udp', 'checksum', '');
  return ok({ sourcePort, destinationPort, data: whole.subarray(8) });
}

export function encodeUdp(udp: Udp, source: Ip, destination: Ip): Uint8Array {
  const length = 8 + udp.data.length;
  const w = new ByteWriter(length)
    .u16(udp.sourcePort)
    .u16(udp.destinationPort)
    .u16(length)
    .u16(0)
    .put(udp.data);
  const sum = ~onesComplementSum(w.bytes, pseudoHeaderSum(source, destination, PROTO.udp, length)) & 0xffff;
  // RFC 768: a computed zero is sent as all ones, since zero means "no checksum".
  return w.patch16(6, sum || 0xffff).bytes;
}
