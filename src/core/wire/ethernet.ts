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
import { ByteReader, ByteWriter, ok } from '#core/base';
import type { Result } from '#core/base';
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
  /** Slow protocols, LACP among them (IEEE 802.3 annex 57A). */
  slow: 0x8809,
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

export const encodeEthernet = (frame: Ethernet): Uint8Array =>
  beginFrame(frame, frame.payload.length).put(frame.payload).bytes;

/** A frame whose head is written, with room for a payload of `size` octets. */
export function beginFrame(head: Omit<Ethernet, 'payload'>, size: number): ByteWriter {
  const { vlan } = head;
  const w = new ByteWriter(Math.max(LEAST, 14 + (vlan ? 4 : 0) + size))
    .u48(head.destination)
    .u48(head.source);
  return writeTag(w, vlan).u16(head.type);
}

/**
 * The same frame with another tag, or with none. `bytes` hold a whole head, as decodeEthernet has found; padding is
 * added or kept, so that the frame is never shorter than it was or than it may be.
 */
export function retagged(bytes: Uint8Array, vlan: Ethernet['vlan']): Uint8Array {
  const had = bytes[12] === ETHERTYPE.vlan >>> 8 && bytes[13] === (ETHERTYPE.vlan & 255);
  const payload = bytes.subarray(had ? 16 : 12);
  const w = new ByteWriter(Math.max(LEAST, 12 + (vlan ? 4 : 0) + payload.length)).put(bytes.subarray(0, 12));
  return writeTag(w, vlan).put(payload).bytes;
}

const writeTag = (w: ByteWriter, vlan: Ethernet['vlan']): ByteWriter =>
  vlan ? w.u16(ETHERTYPE.vlan).u16((vlan.pcp << 13) | vlan.id) : w;
