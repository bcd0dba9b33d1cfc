/** A packet of either family, told apart by the kind of its addresses. */
import { isIpv4 } from '#core/addr';
import type { Ip, Ipv4, Ipv6 } from '#core/addr';
import { ETHERTYPE, beginFrame, encodeEthernet } from './ethernet';
import type { Ethernet } from './ethernet';
import { DEFAULT_TTL, decodeIpv4, encodeIpv4, ipv4Packet, ipv4Size, writeIpv4 } from './ipv4';
import type { Ipv4Packet } from './ipv4';
import { decodeIpv6, encodeIpv6, ipv6Size, writeIpv6 } from './ipv6';
import type { Ipv6Packet } from './ipv6';

export type IpPacket = Ipv4Packet | Ipv6Packet;

export const isIpv4Packet = (packet: IpPacket): packet is Ipv4Packet => isIpv4(packet.source);

/** The packet in a frame of this EtherType, or undefined where there is none that can be read. */
export function decodeIp(type: number, payload: Uint8Array): IpPacket | undefined {
  const read =
    type === ETHERTYPE.ipv4 ? decodeIpv4(payload) : type === ETHERTYPE.ipv6 ? decodeIpv6(payload) : undefined;
  return read?.ok ? read.value : undefined;
}

export const encodeIp = (packet: IpPacket): Uint8Array =>
  isIpv4Packet(packet) ? encodeIpv4(packet) : encodeIpv6(packet);

/** Octets of the packet as it is written. */
export const ipSize = (packet: IpPacket): number =>
  isIpv4Packet(packet) ? ipv4Size(packet) : ipv6Size(packet);

/** A frame with anything in it; a packet is written into it in one go. */
export function encodeFrame(head: Omit<Ethernet, 'payload'>, payload: Uint8Array | IpPacket): Uint8Array {
  if (payload instanceof Uint8Array) return encodeEthernet({ ...head, payload });
  const w = beginFrame(head, ipSize(payload));
  return (isIpv4Packet(payload) ? writeIpv4(w, payload) : writeIpv6(w, payload)).bytes;
}

/** The EtherType that carries the packet. */
export const etherTypeOf = (packet: IpPacket): number =>
  isIpv4Packet(packet) ? ETHERTYPE.ipv4 : ETHERTYPE.ipv6;

/**
 * A packet with the fields that hosts do not care about filled in. Throws where source and destination are of
 * different families.
 */
export function ipPacket(fields: {
  readonly source: Ip;
  readonly destination: Ip;
  readonly protocol: number;
  readonly payload: Uint8Array;
  readonly ttl?: number;
}): IpPacket {
  const { source, destination } = fields;
  if (isIpv4(source) !== isIpv4(destination)) throw new Error('a packet between two families');
  return isIpv4(source)
    ? ipv4Packet({ ...fields, source, destination: destination as Ipv4 })
    : { ttl: DEFAULT_TTL, ...fields, source, destination: destination as Ipv6 };
}

/**
 * The sum of the pseudo header that UDP, TCP and ICMPv6 checksums begin with (RFC 768, RFC 9293 §3.1, RFC 8200
 * §8.1). Throws nothing: the caller's addresses are of one family.
 */
export function pseudoHeaderSum(source: Ip, destination: Ip, protocol: number, length: number): number {
  return addressSum(source) + addressSum(destination) + protocol + (length >>> 16) + (length & 0xffff);
}

function addressSum(address: Ip): number {
  if (isIpv4(address)) return (address >>> 16) + (address & 0xffff);
  let sum = 0;
  for (let i = 0n; i < 128n; i += 16n) sum += Number((address >> i) & 0xffffn);
  return sum;
}
