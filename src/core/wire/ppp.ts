/**
 * PPP frames and the control packets in them. RFC 1661 §5 (LCP), RFC 1332 (IPCP), RFC 5072 (IPV6CP),
 * RFC 1334 §2 (PAP), RFC 1994 §4 (CHAP). In PPPoE a frame is its protocol number (2 octets) and a payload.
 *
 * A control packet:  0 code  1 identifier  2 length (2)  4 data; in configuration packets options of
 * type (1), length (1, both included), value.
 */
import { ByteReader, ByteWriter, joined, ok } from '#core/base';
import type { Result } from '#core/base';
import { fault } from './fault';
import type { WireFault } from './fault';

/** Protocol numbers (IANA, "PPP Numbers"). */
export const PPP = {
  ipv4: 0x0021,
  ipv6: 0x0057,
  ipcp: 0x8021,
  ipv6cp: 0x8057,
  lcp: 0xc021,
  pap: 0xc023,
  chap: 0xc223,
} as const;

/** Codes that all control protocols share (RFC 1661 §5), and LCP's own. */
export const CP_CODE = {
  request: 1,
  ack: 2,
  nak: 3,
  reject: 4,
  terminate: 5,
  terminated: 6,
  protocolReject: 8,
  echo: 9,
  echoed: 10,
} as const;

export const PAP_CODE = { request: 1, ack: 2, nak: 3 } as const;
export const CHAP_CODE = { challenge: 1, response: 2, success: 3, failure: 4 } as const;

/** Options of LCP (RFC 1661 §6), IPCP (RFC 1332 §3, resolvers RFC 1877 §1), IPV6CP (RFC 5072 §4). */
export const CP_OPTION = {
  lcp: { mru: 1, authentication: 3, magic: 5 },
  ipcp: { address: 3, firstNames: 129, secondNames: 131 },
  ipv6cp: { identifier: 1 },
} as const;

export interface PppFrame {
  readonly protocol: number;
  readonly payload: Uint8Array;
}

export function decodePpp(bytes: Uint8Array): Result<PppFrame, WireFault> {
  if (bytes.length < 2) return fault('ppp', 'truncated', `${bytes.length} octets`);
  const r = new ByteReader(bytes);
  return ok({ protocol: r.u16(), payload: r.rest() });
}

export const encodePpp = (frame: PppFrame): Uint8Array =>
  new ByteWriter(2 + frame.payload.length).u16(frame.protocol).put(frame.payload).bytes;

export interface Control {
  readonly code: number;
  readonly identifier: number;
  readonly data: Uint8Array;
}

export function decodeControl(bytes: Uint8Array): Result<Control, WireFault> {
  if (bytes.length < 4) return fault('ppp', 'truncated', `${bytes.length} octets`);
  const r = new ByteReader(bytes);
  const [code, identifier, length] = [r.u8(), r.u8(), r.u16()];
  if (length < 4 || length > bytes.length)
    return fault('ppp', 'truncated', `length ${length} in ${bytes.length} octets`);
  return ok({ code, identifier, data: r.take(length - 4) });
}

export const encodeControl = (control: Control): Uint8Array =>
  new ByteWriter(4 + control.data.length)
    .u8(control.code)
    .u8(control.identifier)
    .u16(4 + control.data.length)
    .put(control.data).bytes;

export interface ControlOption {
  readonly type: number;
  readonly value: Uint8Array;
}

/** The options of a configuration packet; undefined where one does not fit. */
export function readOptions(data: Uint8Array): ControlOption[] | undefined {
  const out: ControlOption[] = [];
  const r = new ByteReader(data);
  while (r.left > 0) {
    if (!r.has(2)) return undefined;
    const [type, size] = [r.u8(), r.u8()];
    if (size < 2 || !r.has(size - 2)) return undefined;
    out.push({ type, value: r.take(size - 2) });
  }
  return out;
}

export const writeOptions = (options: readonly ControlOption[]): Uint8Array =>
  joined(
    options.map(
      ({ type, value }) =>
        new ByteWriter(2 + value.length)
          .u8(type)
          .u8(2 + value.length)
          .put(value).bytes,
    ),
  );

/** A peer's name and secret as PAP sends them (RFC 1334 §2.2.1). */
export const writePap = (user: Uint8Array, secret: Uint8Array): Uint8Array =>
  joined([Uint8Array.of(user.length), user, Uint8Array.of(secret.length), secret]);

export function readPap(data: Uint8Array): { user: Uint8Array; secret: Uint8Array } | undefined {
  const r = new ByteReader(data);
  if (!r.has(1)) return undefined;
  const size = r.u8();
  if (!r.has(size + 1)) return undefined;
  const user = r.take(size);
  const rest = r.u8();
  return r.has(rest) ? { user, secret: r.take(rest) } : undefined;
}

/** A challenge or a response of CHAP: a value and the name of who sends it (RFC 1994 §4.1). */
export const writeChap = (value: Uint8Array, name: Uint8Array): Uint8Array =>
  joined([Uint8Array.of(value.length), value, name]);

export function readChap(data: Uint8Array): { value: Uint8Array; name: Uint8Array } | undefined {
  const r = new ByteReader(data);
  if (!r.has(1)) return undefined;
  const size = r.u8();
  return r.has(size) ? { value: r.take(size), name: r.rest() } : undefined;
}
