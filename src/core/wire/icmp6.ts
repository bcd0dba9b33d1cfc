/**
 * ICMP for IPv6. RFC 4443. Layout as ICMP's, with other numbers, and a checksum over a pseudo header (§2.3).
 * Echo and errors are the value of icmp.ts, whose codes are IPv4's; neighbour discovery passes through as `other`.
 */
import { PROTO } from '#core/addr';
import type { Ipv6 } from '#core/addr';
import { ByteReader, ByteWriter, ok, onesComplementSum } from '#core/base';
import type { Result } from '#core/base';
import { fault } from './fault';
import type { WireFault } from './fault';
import { UNREACHABLE } from './icmp';
import type { Icmp } from './icmp';
import { pseudoHeaderSum } from './ip';

const TYPE = {
  unreachable: 1,
  tooBig: 2,
  timeExceeded: 3,
  parameterProblem: 4,
  echoRequest: 128,
  echoReply: 129,
} as const;
/** "Unrecognized next header" (§3.4), which is IPv4's "protocol unreachable"; the pointer is to that field of the header. */
const NEXT_HEADER = { code: 1, pointer: 6 } as const;

/** Codes of "unreachable" (§3.1) with those of IPv4 that mean the same. */
const CODES: readonly (readonly [six: number, four: number])[] = [
  [0, UNREACHABLE.net],
  [1, UNREACHABLE.adminProhibited],
  [3, UNREACHABLE.host],
  [4, UNREACHABLE.port],
];

export function decodeIcmp6(bytes: Uint8Array, source: Ipv6, destination: Ipv6): Result<Icmp, WireFault> {
  if (bytes.length < 8) return fault('icmp', 'truncated', `${bytes.length} octets`);
  const start = pseudoHeaderSum(source, destination, PROTO.icmp6, bytes.length);
  if (onesComplementSum(bytes, start) !== 0xffff) return fault('icmp', 'checksum', '');
  const r = new ByteReader(bytes);
  const [type, code] = [r.u8(), r.u8()];
  r.u16();
  switch (type) {
    case TYPE.echoRequest:
    case TYPE.echoReply:
      return ok({
        type: type === TYPE.echoRequest ? 'echo-request' : 'echo-reply',
        identifier: r.u16(),
        sequence: r.u16(),
        data: r.rest(),
      });
    case TYPE.unreachable:
      r.u32();
      return ok({
        type: 'unreachable',
        code: CODES.find(([six]) => six === code)?.[1] ?? UNREACHABLE.host,
        mtu: 0,
        about: r.rest(),
      });
    case TYPE.tooBig:
      return ok({
        type: 'unreachable',
        code: UNREACHABLE.fragmentationNeeded,
        mtu: r.u32(),
        about: r.rest(),
      });
    case TYPE.parameterProblem:
      if (code !== NEXT_HEADER.code) return ok({ type: 'other', number: type, code, body: r.rest() });
      r.u32();
      return ok({ type: 'unreachable', code: UNREACHABLE.protocol, mtu: 0, about: r.rest() });
    case TYPE.timeExceeded:
      r.u32();
      return ok({ type: 'time-exceeded', code, about: r.rest() });
    default:
      return ok({ type: 'other', number: type, code, body: r.rest() });
  }
}

export function encodeIcmp6(icmp: Icmp, source: Ipv6, destination: Ipv6): Uint8Array {
  const w = write(icmp);
  const start = pseudoHeaderSum(source, destination, PROTO.icmp6, w.bytes.length);
  return w.patch16(2, ~onesComplementSum(w.bytes, start) & 0xffff).bytes;
}

function write(icmp: Icmp): ByteWriter {
  const head = (type: number, code: number, size: number) =>
    new ByteWriter(4 + size).u8(type).u8(code).u16(0);
  switch (icmp.type) {
    case 'echo-request':
    case 'echo-reply':
      return head(icmp.type === 'echo-request' ? TYPE.echoRequest : TYPE.echoReply, 0, 4 + icmp.data.length)
        .u16(icmp.identifier)
        .u16(icmp.sequence)
        .put(icmp.data);
    case 'unreachable': {
      if (icmp.code === UNREACHABLE.fragmentationNeeded)
        return head(TYPE.tooBig, 0, 4 + icmp.about.length)
          .u32(icmp.mtu)
          .put(icmp.about);
      if (icmp.code === UNREACHABLE.protocol)
        return head(TYPE.parameterProblem, NEXT_HEADER.code, 4 + icmp.about.length)
          .u32(NEXT_HEADER.pointer)
          .put(icmp.about);
      const code = CODES.find(([, four]) => four === icmp.code)?.[0] ?? 3;
      return head(TYPE.unreachable, code, 4 + icmp.about.length)
        .u32(0)
        .put(icmp.about);
    }
    case 'time-exceeded':
      return head(TYPE.timeExceeded, icmp.code, 4 + icmp.about.length)
        .u32(0)
        .put(icmp.about);
    case 'other':
      return head(icmp.number, icmp.code, icmp.body.length).put(icmp.body);
  }
}
