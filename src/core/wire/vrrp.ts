/**
 * VRRP version 3 over IPv4. RFC 9568 §5.2; the checksum counts a pseudo header (§5.2.8).
 *
 *  0          1     2         3      4              6         8
 * +----------+-----+---------+------+--------------+---------+-----------------+
 * |3, type 1 |VRID |priority |count |0, interval 12|checksum |addresses, 4 each|
 * +----------+-----+---------+------+--------------+---------+-----------------+
 */
import type { Ipv4, Mac } from '#core/addr';
import { ByteReader, ByteWriter, ok, onesComplementSum } from '#core/base';
import type { Result } from '#core/base';
import { fault } from './fault';
import type { WireFault } from './fault';
import { pseudoHeaderSum } from './ip';

/** The protocol number of VRRP, §5.1.1.4. */
export const VRRP_PROTOCOL = 112;
/** 224.0.0.18, which all virtual routers of a segment hear, §5.1.1.2. */
export const VRRP_GROUP = 0xe0000012 as Ipv4;
/** The group's address in frames (RFC 1112 §6.4). */
export const VRRP_GROUP_MAC = 0x01005e000012 as Mac;
/** The MAC address of a virtual router for IPv4, §7.3. */
export const virtualMac = (id: number): Mac => (0x00005e000100 + id) as Mac;

const HEADER = 8;

/** What the active router says of itself. */
export interface Vrrp {
  /** The number of the virtual router, 1 to 255. */
  readonly id: number;
  /** 1 to 255; 0 from one that leaves. */
  readonly priority: number;
  /** Between two advertisements, hundredths of a second, at most 4095. */
  readonly interval: number;
  readonly addresses: readonly Ipv4[];
}

/** `source` and `destination` are those of the IP header, for the checksum. */
export function decodeVrrp(bytes: Uint8Array, source: Ipv4, destination: Ipv4): Result<Vrrp, WireFault> {
  if (bytes.length < HEADER) return fault('vrrp', 'truncated', `${bytes.length} octets`);
  const r = new ByteReader(bytes);
  const [kind, id, priority, count, interval] = [r.u8(), r.u8(), r.u8(), r.u8(), r.u16() & 0x0fff];
  r.u16();
  if (kind !== 0x31) return fault('vrrp', 'malformed', `version and type ${kind}`);
  if (id === 0) return fault('vrrp', 'malformed', 'virtual router 0');
  if (bytes.length < HEADER + 4 * count)
    return fault('vrrp', 'truncated', `${count} addresses in ${bytes.length} octets`);
  if (onesComplementSum(bytes, pseudoHeaderSum(source, destination, VRRP_PROTOCOL, bytes.length)) !== 0xffff)
    return fault('vrrp', 'checksum', '');
  const addresses = Array.from({ length: count }, () => r.u32() as Ipv4);
  return ok({ id, priority, interval, addresses });
}

export function encodeVrrp(
  { id, priority, interval, addresses }: Vrrp,
  source: Ipv4,
  destination: Ipv4,
): Uint8Array {
  const length = HEADER + 4 * addresses.length;
  const w = new ByteWriter(length).u8(0x31).u8(id).u8(priority).u8(addresses.length).u16(interval).u16(0);
  for (const address of addresses) w.u32(address);
  const sum =
    ~onesComplementSum(w.bytes, pseudoHeaderSum(source, destination, VRRP_PROTOCOL, length)) & 0xffff;
  return w.patch16(6, sum).bytes;
}
