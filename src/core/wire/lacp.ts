/**
 * LACP data units. IEEE 802.1AX-2020 §6.4.2.3 (figure 6-7). All of them are 110 octets behind the type 0x8809, and go to
 * the group of slow protocols.
 *
 *  0      1        2         22         42           58          60
 * +------+--------+---------+----------+------------+-----------+---------+
 * |sub 1 |version |actor 1  |partner 2 |collector 3 |end 0, 0   |50 zero  |
 * +------+--------+---------+----------+------------+-----------+---------+
 *  actor, partner:  type, 20, priority (2), system (6), key (2), port priority (2), port (2), state, 3 zero
 */
import type { Mac } from '#core/addr';
import { ByteReader, ByteWriter, ok } from '#core/base';
import type { Result } from '#core/base';
import { fault } from './fault';
import type { WireFault } from './fault';

const SIZE = 110;
const SUBTYPE = 1;
/** Default priority of systems and ports. */
const PRIORITY = 0x8000;
/** The group that slow protocols are sent to (IEEE 802.3 annex 57A.3). */
export const SLOW_GROUP = 0x0180c2000002 as Mac;

/** What one end says of itself, or of the other, §6.4.2.3.2. */
export interface LacpEnd {
  readonly system: Mac;
  /** Ports with one key may be aggregated. */
  readonly key: number;
  readonly port: number;
  /** It sends by itself. */
  readonly active: boolean;
  /** It wants to hear something every second. */
  readonly short: boolean;
  readonly aggregatable: boolean;
  /** The link is in the group that it belongs to. */
  readonly sync: boolean;
  readonly collecting: boolean;
  readonly distributing: boolean;
  /** It has heard nothing, and goes by what it was set up with. */
  readonly defaulted: boolean;
  /** What it heard is too old. */
  readonly expired: boolean;
}

export interface Lacp {
  readonly actor: LacpEnd;
  readonly partner: LacpEnd;
}

/** The bits of the state octet, lowest first. */
const BITS = [
  'active',
  'short',
  'aggregatable',
  'sync',
  'collecting',
  'distributing',
  'defaulted',
  'expired',
] as const satisfies readonly (keyof LacpEnd)[];

export function decodeLacp(bytes: Uint8Array): Result<Lacp, WireFault> {
  if (bytes.length < SIZE) return fault('lacp', 'truncated', `${bytes.length} of ${SIZE} octets`);
  const r = new ByteReader(bytes);
  const [subtype] = [r.u8(), r.u8()];
  if (subtype !== SUBTYPE) return fault('lacp', 'malformed', `slow protocol ${subtype}`);
  const end = (type: number): LacpEnd | undefined => {
    if (r.u8() !== type || r.u8() !== 20) return undefined;
    r.u16();
    const [system, key] = [r.u48() as Mac, r.u16()];
    r.u16();
    const port = r.u16();
    const state = r.u8();
    r.take(3);
    const bits = Object.fromEntries(BITS.map((bit, i) => [bit, ((state >> i) & 1) === 1]));
    return { system, key, port, ...(bits as Record<(typeof BITS)[number], boolean>) };
  };
  const actor = end(1);
  const partner = actor && end(2);
  return partner ? ok({ actor, partner }) : fault('lacp', 'malformed', 'no actor or no partner');
}

export function encodeLacp({ actor, partner }: Lacp): Uint8Array {
  const w = new ByteWriter(SIZE).u8(SUBTYPE).u8(1);
  for (const [type, end] of [
    [1, actor],
    [2, partner],
  ] as const) {
    const state = BITS.reduce((bits, bit, i) => (end[bit] ? bits | (1 << i) : bits), 0);
    w.u8(type).u8(20).u16(PRIORITY).u48(end.system).u16(end.key).u16(PRIORITY).u16(end.port).u8(state);
    w.u8(0).u16(0);
  }
  w.u8(3).u8(16);
  return w.bytes;
}
