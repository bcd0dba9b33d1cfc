/**
 * TCP segments. RFC 9293 §3.1.
 *
 *  0           2           4               8               12      13      14      16      18
 * +-----------+-----------+---------------+---------------+-------+-------+-------+-------+--------+
 * |source port|dest. port | sequence      | acknowledgment|offset | flags |window |chksum | urgent |
 * +-----------+-----------+---------------+---------------+-------+-------+-------+-------+--------+
 * 20 options up to offset × 4; only the maximum segment size is read and written.
 */
import { PROTO } from '#core/addr';
import type { Ip } from '#core/addr';
import { ByteReader, ByteWriter, ok, onesComplementSum } from '#core/base';
import type { Result } from '#core/base';
import { fault } from './fault';
import type { WireFault } from './fault';
import { pseudoHeaderSum } from './ip';

export const TCP_HEADER = 20;

export interface Tcp {
  readonly sourcePort: number;
  readonly destinationPort: number;
  readonly sequence: number;
  readonly acknowledgment: number;
  readonly syn: boolean;
  readonly ack: boolean;
  readonly fin: boolean;
  readonly rst: boolean;
  readonly psh: boolean;
  readonly window: number;
  /** Octets; only in segments with SYN. */
  readonly mss?: number;
  readonly data: Uint8Array;
}

export function decodeTcp(bytes: Uint8Array, source: Ip, destination: Ip): Result<Tcp, WireFault> {
  if (bytes.length < TCP_HEADER) return fault('tcp', 'truncated', `${bytes.length} octets`);
  const r = new ByteReader(bytes);
  const [sourcePort, destinationPort] = [r.u16(), r.u16()];
  const [sequence, acknowledgment] = [r.u32(), r.u32()];
  const header = (r.u8() >>> 4) * 4;
  const flags = r.u8();
  const window = r.u16();
  if (header < TCP_HEADER || header > bytes.length) return fault('tcp', 'malformed', `offset ${header}`);
  if (onesComplementSum(bytes, pseudoHeaderSum(source, destination, PROTO.tcp, bytes.length)) !== 0xffff)
    return fault('tcp', 'checksum', '');
  return ok({
    sourcePort,
    destinationPort,
    sequence,
    acknowledgment,
    fin: (flags & 1) !== 0,
    syn: (flags & 2) !== 0,
    rst: (flags & 4) !== 0,
    psh: (flags & 8) !== 0,
    ack: (flags & 16) !== 0,
    window,
    mss: mssOf(bytes.subarray(TCP_HEADER, header)),
    data: bytes.subarray(header),
  });
}

/** The maximum segment size among the options (RFC 9293 §3.7.1); a bad length ends the search. */
function mssOf(options: Uint8Array): number | undefined {
  for (let i = 0; i < options.length;) {
    const kind = options[i]!;
    if (kind === 0) return undefined;
    const size = kind === 1 ? 1 : (options[i + 1] ?? 0);
    if (kind !== 1 && (size < 2 || i + size > options.length)) return undefined;
    if (kind === 2 && size === 4) return (options[i + 2]! << 8) | options[i + 3]!;
    i += size;
  }
  return undefined;
}

export function encodeTcp(tcp: Tcp, source: Ip, destination: Ip): Uint8Array {
  const header = TCP_HEADER + (tcp.mss === undefined ? 0 : 4);
  const length = header + tcp.data.length;
  const flags =
    (tcp.fin ? 1 : 0) | (tcp.syn ? 2 : 0) | (tcp.rst ? 4 : 0) | (tcp.psh ? 8 : 0) | (tcp.ack ? 16 : 0);
  const w = new ByteWriter(length)
    .u16(tcp.sourcePort)
    .u16(tcp.destinationPort)
    .u32(tcp.sequence)
    .u32(tcp.acknowledgment)
    .u8((header / 4) << 4)
    .u8(flags)
    .u16(tcp.window)
    .u32(0);
  if (tcp.mss !== undefined) w.u16(0x0204).u16(tcp.mss);
  w.put(tcp.data);
  const sum = ~onesComplementSum(w.bytes, pseudoHeaderSum(source, destination, PROTO.tcp, length)) & 0xffff;
  return w.patch16(16, sum).bytes;
}
