/**
 * DHCPv6 messages between client and server. RFC 8415 §8 (header), §21 (options), resolvers RFC 3646 §3.
 *
 *  0 type  1 transaction (3)  4 options: code (2), length (2), value
 * An IA_NA (§21.4) and an IA_PD (§21.21) hold: 0 IAID  4 T1  8 T2  12 options of their own.
 */
import type { Ipv6, Mac, Prefix } from '#core/addr';
import { ByteReader, ByteWriter, joined, ok } from '#core/base';
import type { Result } from '#core/base';
import { fault } from './fault';
import type { WireFault } from './fault';

/** §7.3, by number; those that are not used here are missing. */
export const DHCPV6_TYPES = {
  solicit: 1,
  advertise: 2,
  request: 3,
  confirm: 4,
  renew: 5,
  rebind: 6,
  reply: 7,
  release: 8,
} as const;
export type Dhcpv6Type = keyof typeof DHCPV6_TYPES;

const OPTION = {
  client: 1,
  server: 2,
  addresses: 3,
  address: 5,
  asked: 6,
  status: 13,
  names: 23,
  delegation: 25,
  prefix: 26,
} as const;

/** Status codes, §21.13. */
export const DHCPV6_STATUS = { success: 0, noAddresses: 2, noPrefix: 6 } as const;

/** An identity association: what one interface asks for or is given. Times in seconds. */
export interface Association<T> {
  readonly id: number;
  readonly renewal: number;
  readonly rebinding: number;
  readonly items: readonly { readonly value: T; readonly preferred: number; readonly valid: number }[];
  readonly status?: number;
}

export interface Dhcpv6 {
  readonly type: Dhcpv6Type;
  /** 24 bits. */
  readonly transaction: number;
  /** The client's MAC address, in a DUID-LL (§11.4). */
  readonly client?: Mac;
  readonly server?: Mac;
  /** Asks for an address, or gives some (IA_NA). */
  readonly addresses?: Association<Ipv6>;
  /** Asks for a prefix, or delegates some (IA_PD). */
  readonly delegation?: Association<Prefix<Ipv6>>;
  readonly names: readonly Ipv6[];
}

type Options = Map<number, ByteReader>;

/** The options in a run of bytes, the first of each kind; undefined where one ends too early. */
function optionsOf(r: ByteReader): Options | undefined {
  const out: Options = new Map();
  while (r.left > 0) {
    if (!r.has(4)) return undefined;
    const [code, size] = [r.u16(), r.u16()];
    if (!r.has(size)) return undefined;
    const value = new ByteReader(r.take(size));
    if (!out.has(code)) out.set(code, value);
  }
  return out;
}

export function decodeDhcpv6(bytes: Uint8Array): Result<Dhcpv6, WireFault> {
  if (bytes.length < 4) return fault('dhcpv6', 'truncated', `${bytes.length} octets`);
  const r = new ByteReader(bytes);
  const first = r.u32();
  const number = first >>> 24;
  const type = (Object.keys(DHCPV6_TYPES) as Dhcpv6Type[]).find((t) => DHCPV6_TYPES[t] === number);
  if (!type) return fault('dhcpv6', 'malformed', `type ${number}`);
  const options = optionsOf(r);
  if (!options) return fault('dhcpv6', 'truncated', 'options');
  const duid = (code: number): Mac | undefined => {
    const o = options.get(code);
    if (!o?.has(10) || o.u16() !== 3 || o.u16() !== 1) return undefined;
    return o.u48() as Mac;
  };
  const association = <T>(
    code: number,
    itemCode: number,
    read: (o: ByteReader) => { value: T; preferred: number; valid: number } | undefined,
  ): Association<T> | undefined => {
    const o = options.get(code);
    if (!o?.has(12)) return undefined;
    const [id, renewal, rebinding] = [o.u32(), o.u32(), o.u32()];
    const inner = optionsOf(o);
    const item = inner?.get(itemCode);
    const found = item && read(item);
    const status = inner?.get(OPTION.status);
    return {
      id,
      renewal,
      rebinding,
      items: found ? [found] : [],
      status: status?.has(2) ? status.u16() : undefined,
    };
  };
  const names: Ipv6[] = [];
  const told = options.get(OPTION.names);
  while (told?.has(16)) names.push(told.u128() as Ipv6);
  return ok({
    type,
    transaction: first & 0xffffff,
    client: duid(OPTION.client),
    server: duid(OPTION.server),
    addresses: association(OPTION.addresses, OPTION.address, (o) =>
      o.has(24) ? { value: o.u128() as Ipv6, preferred: o.u32(), valid: o.u32() } : undefined,
    ),
    delegation: association(OPTION.delegation, OPTION.prefix, (o) => {
      if (!o.has(25)) return undefined;
      const [preferred, valid, length] = [o.u32(), o.u32(), o.u8()];
      return { value: { address: o.u128() as Ipv6, length }, preferred, valid };
    }),
    names,
  });
}

const option = (code: number, ...parts: readonly Uint8Array[]): Uint8Array => {
  const value = joined(parts);
  return joined([new ByteWriter(4).u16(code).u16(value.length).bytes, value]);
};

const duid = (code: number, mac: Mac | undefined): Uint8Array =>
  mac === undefined ? new Uint8Array(0) : option(code, new ByteWriter(10).u16(3).u16(1).u48(mac).bytes);

function association<T>(
  code: number,
  ia: Association<T> | undefined,
  item: (i: Association<T>['items'][number]) => Uint8Array,
): Uint8Array {
  if (!ia) return new Uint8Array(0);
  return option(
    code,
    new ByteWriter(12).u32(ia.id).u32(ia.renewal).u32(ia.rebinding).bytes,
    ...ia.items.map(item),
    ia.status === undefined
      ? new Uint8Array(0)
      : option(OPTION.status, new ByteWriter(2).u16(ia.status).bytes),
  );
}

export function encodeDhcpv6(m: Dhcpv6): Uint8Array {
  const names = new ByteWriter(m.names.length * 16);
  for (const name of m.names) names.u128(name);
  const asks = m.type === 'solicit' || m.type === 'request' || m.type === 'renew' || m.type === 'rebind';
  return joined([
    new ByteWriter(4).u32(DHCPV6_TYPES[m.type] * 0x1000000 + m.transaction).bytes,
    duid(OPTION.client, m.client),
    duid(OPTION.server, m.server),
    // §21.9: how long the client has been asking; always from the start here.
    asks ? option(8, new Uint8Array(2)) : new Uint8Array(0),
    asks ? option(OPTION.asked, new ByteWriter(2).u16(OPTION.names).bytes) : new Uint8Array(0),
    association(OPTION.addresses, m.addresses, (i) =>
      option(OPTION.address, new ByteWriter(24).u128(i.value).u32(i.preferred).u32(i.valid).bytes),
    ),
    association(OPTION.delegation, m.delegation, (i) =>
      option(
        OPTION.prefix,
        new ByteWriter(25).u32(i.preferred).u32(i.valid).u8(i.value.length).u128(i.value.address).bytes,
      ),
    ),
    m.names.length ? option(OPTION.names, names.bytes) : new Uint8Array(0),
  ]);
}
