/**
 * ARP for IPv4 over Ethernet. RFC 826 "Packet format", announcements and probes by RFC 5227.
 *
 *  0     2     4  5  6     8           14       18          24       28
 * +-----+-----+--+--+-----+-----------+--------+-----------+--------+
 * |htype|ptype|6 |4 | op  |sender MAC |sender  |target MAC |target  |
 * +-----+-----+--+--+-----+-----------+--------+-----------+--------+
 */
import type { Ipv4, Mac } from '#core/addr';
import { ByteReader, ByteWriter, ok } from '#core/base';
import type { Result } from '#core/base';
import { fault } from './fault';
import type { WireFault } from './fault';

const SIZE = 28;

export interface Arp {
  readonly operation: 'request' | 'reply';
  readonly senderMac: Mac;
  readonly senderIp: Ipv4;
  /** Zero in a request. */
  readonly targetMac: Mac;
  readonly targetIp: Ipv4;
}

export function decodeArp(bytes: Uint8Array): Result<Arp, WireFault> {
  if (bytes.length < SIZE) return fault('arp', 'truncated', `${bytes.length} of ${SIZE} octets`);
  const r = new ByteReader(bytes);
  const [htype, ptype, sizes, op] = [r.u16(), r.u16(), r.u16(), r.u16()];
  if (htype !== 1 || ptype !== 0x0800 || sizes !== 0x0604 || op < 1 || op > 2)
    return fault('arp', 'malformed', `type ${htype}/${ptype}, operation ${op}`);
  return ok({
    operation: op === 1 ? 'request' : 'reply',
    senderMac: r.u48() as Mac,
    senderIp: r.u32() as Ipv4,
    targetMac: r.u48() as Mac,
    targetIp: r.u32() as Ipv4,
  });
}

export const encodeArp = (arp: Arp): Uint8Array =>
  new ByteWriter(SIZE)
    .u16(1)
    .u16(0x0800)
    .u16(0x0604)
    .u16(arp.operation === 'request' ? 1 : 2)
    .u48(arp.senderMac)
    .u32(arp.senderIp)
    .u48(arp.targetMac)
    .u32(arp.targetIp).bytes;

/** The answer to a request: the address asked for is at this MAC. */
export const arpReply = (request: Arp, mac: Mac): Arp => ({
  operation: 'reply',
  senderMac: mac,
  senderIp: request.targetIp,
  targetMac: request.senderMac,
  targetIp: request.senderIp,
});
