/**
 * ICMP. For IPv4 RFC 792; codes of "unreachable" also RFC 1812 §5.2.7.1; next-hop MTU RFC 1191 §4. The value is the
 * same for both families, with the codes of IPv4; icmp6.ts writes it for IPv6.
 *
 *  0      1      2           4                8
 * +------+------+-----------+----------------+---------...
 * | type | code | checksum  | by type        | data, or the header and 8 octets of what it is about
 * +------+------+-----------+----------------+---------...
 */
import { ByteReader, ByteWriter, ok, onesComplementSum } from '#core/base';
import type { Result } from '#core/base';
import { fault } from './fault';
import type { WireFault } from './fault';

export type Icmp =
  | {
      readonly type: 'echo-request' | 'echo-reply';
      readonly identifier: number;
      readonly sequence: number;
      readonly data: Uint8Array;
    }
  | {
      readonly type: 'unreachable';
      readonly code: number;
      /** Next-hop MTU, octets; 0 unless the code is "fragmentation needed". */
      readonly mtu: number;
      readonly about: Uint8Array;
    }
  | { readonly type: 'time-exceeded'; readonly code: number; readonly about: Uint8Array }
  | { readonly type: 'other'; readonly number: number; readonly code: number; readonly body: Uint8Array };

/** Codes of "unreachable" that are sent here. */
export const UNREACHABLE = {
  net: 0,
  host: 1,
  protocol: 2,
  port: 3,
  fragmentationNeeded: 4,
  adminProhibited: 13,
} as const;

export function decodeIcmp(bytes: Uint8Array): Result<Icmp, WireFault> {
  if (bytes.length < 8) return fault('icmp', 'truncated', `${bytes.length} octets`);
  if (onesComplementSum(bytes) !== 0xffff) return fault('icmp', 'checksum', '');
  const r = new ByteReader(bytes);
  const [type, code] = [r.u8(), r.u8()];
  r.u16();
  switch (type) {
    case 0:
    case 8:
      return ok({
        type: type === 8 ? 'echo-request' : 'echo-reply',
        identifier: r.u16(),
        sequence: r.u16(),
        data: r.rest(),
      });
    case 3: {
      r.u16();
      return ok({ type: 'unreachable', code, mtu: r.u16(), about: r.rest() });
    }
    case 11:
      r.u32();
      return ok({ type: 'time-exceeded', code, about: r.rest() });
    default:
      return ok({ type: 'other', number: type, code, body: r.rest() });
  }
}

export function encodeIcmp(icmp: Icmp): Uint8Array {
  const w = write(icmp);
  return w.patch16(2, ~onesComplementSum(w.bytes) & 0xffff).bytes;
}

function write(icmp: Icmp): ByteWriter {
  switch (icmp.type) {
    case 'echo-request':
    case 'echo-reply':
      return new ByteWriter(8 + icmp.data.length)
        .u8(icmp.type === 'echo-request' ? 8 : 0)
        .u8(0)
        .u16(0)
        .u16(icmp.identifier)
        .u16(icmp.sequence)
        .put(icmp.data);
    case 'unreachable':
      return new ByteWriter(8 + icmp.about.length)
        .u8(3)
        .u8(icmp.code)
        .u16(0)
        .u16(0)
        .u16(icmp.mtu)
        .put(icmp.about);
    case 'time-exceeded':
      return new ByteWriter(8 + icmp.about.length).u8(11).u8(icmp.code).u16(0).u32(0).put(icmp.about);
    case 'other':
      return new ByteWriter(4 + icmp.body.length).u8(icmp.number).u8(icmp.code).u16(0).put(icmp.body);
  }
}

/**
 * What an error carries of the packet it is about: the header and the first 8 octets behind it (RFC 792), for IPv6
 * as much as fits into its least MTU (RFC 4443 §2.4 c).
 */
export const quoteOf = (packet: Uint8Array): Uint8Array =>
  packet.slice(0, packet[0]! >>> 4 === 6 ? 1280 - 48 : 28);
