/**
 * PPP over Ethernet. RFC 2516 §4.
 *
 *  0           1      2          4        6
 * +-----------+------+----------+--------+---------...
 * |ver 1|typ 1| code |session id| length | tags (discovery), or a PPP frame (session)
 * +-----------+------+----------+--------+---------...
 * A tag: type (2), length (2), value.
 */
import { ByteReader, ByteWriter, joined, ok } from '#core/base';
import type { Result } from '#core/base';
import { fault } from './fault';
import type { WireFault } from './fault';

/** Codes of §5; 0 is a session's data. */
export const PPPOE_CODE = { session: 0, padi: 0x09, pado: 0x07, padr: 0x19, pads: 0x65, padt: 0xa7 } as const;
/** Tags of appendix A. */
export const PPPOE_TAG = {
  service: 0x0101,
  concentrator: 0x0102,
  hostUnique: 0x0103,
  cookie: 0x0104,
} as const;

export interface Pppoe {
  readonly code: number;
  readonly session: number;
  /** Of a session frame: the PPP frame. */
  readonly payload: Uint8Array;
  /** Of a discovery frame. */
  readonly tags: readonly { readonly type: number; readonly value: Uint8Array }[];
}

export function decodePppoe(bytes: Uint8Array): Result<Pppoe, WireFault> {
  if (bytes.length < 6) return fault('pppoe', 'truncated', `${bytes.length} octets`);
  const r = new ByteReader(bytes);
  const first = r.u8();
  if (first !== 0x11) return fault('pppoe', 'malformed', `version and type ${first}`);
  const [code, session, length] = [r.u8(), r.u16(), r.u16()];
  if (!r.has(length)) return fault('pppoe', 'truncated', `length ${length} in ${bytes.length} octets`);
  const payload = r.take(length);
  const tags: { type: number; value: Uint8Array }[] = [];
  if (code !== PPPOE_CODE.session) {
    const t = new ByteReader(payload);
    while (t.left > 0) {
      if (!t.has(4)) return fault('pppoe', 'truncated', 'tag');
      const [type, size] = [t.u16(), t.u16()];
      if (!t.has(size)) return fault('pppoe', 'truncated', `tag ${type} of ${size} octets`);
      tags.push({ type, value: t.take(size) });
    }
  }
  return ok({ code, session, payload, tags });
}

export function encodePppoe(frame: Pppoe): Uint8Array {
  const body =
    frame.code === PPPOE_CODE.session
      ? frame.payload
      : joined(
          frame.tags.map(({ type, value }) =>
            joined([new ByteWriter(4).u16(type).u16(value.length).bytes, value]),
          ),
        );
  return new ByteWriter(6 + body.length).u8(0x11).u8(frame.code).u16(frame.session).u16(body.length).put(body)
    .bytes;
}
