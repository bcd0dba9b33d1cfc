/**
 * Ethernet II frames with at most one 802.1Q tag. IEEE 802.3 §3.1.1, IEEE 802.1Q §9.6.
 *
 *  0                   6                   12    14
 * +-------------------+-------------------+-----+---------...
 * |    destination    |      source       |type | payload
 * +-------------------+-------------------+-----+---------...
 * With a tag, 0x8100 stands at 12, then PCP (3 bits), DEI (1), VID (12), then the type at 16.
 * No preamble and no frame check sequence; short frames are padded to 60 octets as on the cable.
 */
import type { Mac } from '#core/addr';
import { ByteReader, ByteWriter, ok } from '../base';
import type { Result } from '../base';
import { fault } from './fault';
import type { WireFault } from './fault';

export const BROADCAST = 0xffffffffffff as Mac;
/** EtherTypes from the IEEE registry (RFC 7042 app. B). */
export const ETHERTYPE = {
  ipv4: 0x0800,
  arp: 0x0806,
  vlan: 0x8100,
  ipv6: 0x86dd,
  pppoeDiscovery: 0x8863,
  pppoeSession: 0x8864,
} as const;
/** Shortest frame without its check sequence, octets. */
const LEAST = 60;

/** Whether the address is a group's, the broadcast address included (IEEE 802.3 §3.2.3, the first bit sent). */
export const isGroupMac = (mac: Mac): boolean => Math.floor(mac / 2 ** 40) % 2 === 1;

export interface Ethernet {
  readonly destination: Mac;
  readonly source: Mac;
  /** 802.1Q tag: VID 0–4095, priority 0–7. Absent for an untagged frame. */
  readonly vlan?: { readonly id: number; readonly pcp: number };
  readonly type: number;
  /** Padding included when decoded: the layer above knows its own length. */
  readonly payload: Uint8Array;
}

export function decodeEthernet(bytes: Uint8Array): Result<Ethernet, WireFault> {
  const r = new ByteReader(bytes);
  if (!r.has(14)) return fault('ethernet', 'truncated', `${bytes.length} octets`);
  const destination = r.u48() as Mac;
  const source = r.u48() as Mac;
  let type = r.u16();
  let vlan: Ethernet['vlan'];
  if (type === ETHERTYPE.vlan) {
    if (!r.has(4)) return fault('ethernet', 'truncated', 'inside the 802.1Q tag');
    const tci = r.u16();
    vlan = { id: tci & 0xfff, pcp: tci >>> 13 };
    type = r.u16();
  }
  return ok({ destination, source, vlan, type, payload: r.rest() });
}

export function encodeEthernet(frame: Ethernet): Uint8Array {
  const size = 14 + (frame.vlan ? 4 : 0) + frame.payload.length;
  const w = new ByteWriter(Math.max(LEAST, size)).u48(frame.destination).u48(frame.source);
  if (frame.vlan) w.u16(ETHERTYPE.vlan).u16((frame.vlan.pcp << 13) | frame.vlan.id);
  return w.u16(frame.type).put(frame.payload).bytes;
}
