/**
 * DHCP messages. RFC 2131 §2 (the fixed part), RFC 2132 (options).
 *
 *  0  op  1 htype  2 hlen  3 hops  4 xid  8 secs  10 flags  12 ciaddr  16 yiaddr  20 siaddr  24 giaddr
 *  28 chaddr (16)  44 sname (64)  108 file (128)  236 magic cookie  240 options, ended by 255
 */
import { OPTION_NAMES } from '#core/addr';
import type { Ipv4, Mac, OptionValue } from '#core/addr';
import { ByteReader, ByteWriter, ok } from '#core/base';
import type { Result } from '#core/base';
import { namedSize, putName } from './dns';
import { fault } from './fault';
import type { WireFault } from './fault';

const FIXED = 236;
const COOKIE = 0x63825363;
/** Smallest message, octets: what BOOTP relays and servers expect (RFC 1542 §2.1). */
const LEAST = 300;

/** RFC 2132 §9.6. */
export const DHCP_TYPES = [
  'discover',
  'offer',
  'request',
  'decline',
  'ack',
  'nak',
  'release',
  'inform',
] as const;
export type DhcpType = (typeof DHCP_TYPES)[number];

/** What a relay says of the client's side, and the server gives back (RFC 3046). */
export const RELAY_OPTION = 82;

/** Option numbers, RFC 2132. */
const OPTION = {
  mask: 1,
  router: 3,
  names: 6,
  hostName: 12,
  requested: 50,
  leaseTime: 51,
  type: 53,
  server: 54,
  parameters: 55,
  message: 56,
  renewal: 58,
  rebinding: 59,
} as const;

const KNOWN: ReadonlySet<number> = new Set<number>(Object.values(OPTION));
/** What a client asks for beside (RFC 2132 §9.8): domain, search list, MTU, time, boot files, controllers. */
const WANTED = [15, 26, 42, 43, 66, 67, 119, 138, 150];

export interface Dhcp {
  readonly reply: boolean;
  readonly type: DhcpType;
  readonly transaction: number;
  /** The client's present address, 0 while it has none. */
  readonly clientIp: Ipv4;
  /** The address given or offered. */
  readonly yourIp: Ipv4;
  /** Of who asks on behalf of the client (RFC 2131 §2, giaddr); absent where the client asks itself. */
  readonly relay?: Ipv4;
  /** How many have handed it on; 0 where absent. */
  readonly hops?: number;
  readonly clientMac: Mac;
  readonly broadcast: boolean;
  readonly mask?: Ipv4;
  readonly routers: readonly Ipv4[];
  readonly names: readonly Ipv4[];
  readonly requested?: Ipv4;
  readonly server?: Ipv4;
  /** Seconds. */
  readonly leaseTime?: number;
  readonly renewal?: number;
  readonly rebinding?: number;
  readonly hostName?: string;
  readonly message?: string;
  /** What it says beside, by number, as octets. */
  readonly others: ReadonlyMap<number, Uint8Array>;
}

export function decodeDhcp(bytes: Uint8Array): Result<Dhcp, WireFault> {
  if (bytes.length < FIXED + 4) return fault('dhcp', 'truncated', `${bytes.length} octets`);
  const r = new ByteReader(bytes);
  const [op, htype, hlen] = [r.u8(), r.u8(), r.u8()];
  if (op < 1 || op > 2 || htype !== 1 || hlen !== 6)
    return fault('dhcp', 'malformed', `op ${op}, hardware ${htype}/${hlen}`);
  const hops = r.u8();
  const transaction = r.u32();
  r.u16();
  const flags = r.u16();
  const [clientIp, yourIp] = [r.u32() as Ipv4, r.u32() as Ipv4];
  r.take(4);
  const relay = r.u32() as Ipv4;
  const clientMac = r.u48() as Mac;
  r.take(10 + 64 + 128);
  if (r.u32() !== COOKIE) return fault('dhcp', 'malformed', 'no magic cookie');
  const options = new Map<number, Uint8Array>();
  while (r.has(1)) {
    const code = r.u8();
    if (code === 0) continue;
    if (code === 255) break;
    if (!r.has(1)) return fault('dhcp', 'truncated', `option ${code}`);
    const size = r.u8();
    if (!r.has(size)) return fault('dhcp', 'truncated', `option ${code} of ${size} octets`);
    options.set(code, r.take(size));
  }
  const type = DHCP_TYPES[(options.get(OPTION.type)?.[0] ?? 0) - 1];
  if (!type) return fault('dhcp', 'malformed', 'no message type');
  const addresses = (code: number): Ipv4[] => {
    const part = new ByteReader(options.get(code) ?? new Uint8Array(0));
    const out: Ipv4[] = [];
    while (part.has(4)) out.push(part.u32() as Ipv4);
    return out;
  };
  const text = (code: number) => {
    const part = options.get(code);
    return part && String.fromCharCode(...part);
  };
  return ok({
    reply: op === 2,
    type,
    transaction,
    clientIp,
    yourIp,
    relay: relay || undefined,
    hops: hops || undefined,
    clientMac,
    broadcast: (flags & 0x8000) !== 0,
    mask: addresses(OPTION.mask)[0],
    routers: addresses(OPTION.router),
    names: addresses(OPTION.names),
    requested: addresses(OPTION.requested)[0],
    server: addresses(OPTION.server)[0],
    leaseTime: addresses(OPTION.leaseTime)[0],
    renewal: addresses(OPTION.renewal)[0],
    rebinding: addresses(OPTION.rebinding)[0],
    hostName: text(OPTION.hostName),
    message: text(OPTION.message),
    others: new Map([...options].filter(([code]) => !KNOWN.has(code))),
  });
}

export function encodeDhcp(dhcp: Dhcp): Uint8Array {
  const options: [number, Uint8Array][] = [];
  const add = (code: number, bytes: Uint8Array | undefined) => bytes?.length && options.push([code, bytes]);
  const numbers = (values: readonly number[]) => {
    const w = new ByteWriter(values.length * 4);
    for (const value of values) w.u32(value);
    return w.bytes;
  };
  const one = (value: number | undefined) => (value === undefined ? undefined : numbers([value]));
  const text = (value: string | undefined) =>
    value === undefined ? undefined : Uint8Array.from(value, (c) => c.charCodeAt(0) & 0x7f);
  add(OPTION.type, Uint8Array.of(DHCP_TYPES.indexOf(dhcp.type) + 1));
  add(OPTION.server, one(dhcp.server));
  add(OPTION.requested, one(dhcp.requested));
  add(OPTION.leaseTime, one(dhcp.leaseTime));
  add(OPTION.renewal, one(dhcp.renewal));
  add(OPTION.rebinding, one(dhcp.rebinding));
  add(OPTION.mask, one(dhcp.mask));
  add(OPTION.router, numbers(dhcp.routers));
  add(OPTION.names, numbers(dhcp.names));
  add(OPTION.hostName, text(dhcp.hostName));
  add(OPTION.message, text(dhcp.message));
  if (!dhcp.reply && (dhcp.type === 'discover' || dhcp.type === 'request'))
    add(
      OPTION.parameters,
      Uint8Array.of(OPTION.mask, OPTION.router, OPTION.names, OPTION.leaseTime, ...WANTED),
    );
  for (const [code, bytes] of dhcp.others) add(code, bytes);
  const size = FIXED + 4 + options.reduce((sum, [, bytes]) => sum + 2 + bytes.length, 0) + 1;
  const w = new ByteWriter(Math.max(LEAST, size))
    .u8(dhcp.reply ? 2 : 1)
    .u8(1)
    .u8(6)
    .u8(dhcp.hops ?? 0)
    .u32(dhcp.transaction)
    .u16(0)
    .u16(dhcp.broadcast ? 0x8000 : 0)
    .u32(dhcp.clientIp)
    .u32(dhcp.yourIp)
    .u32(0)
    .u32(dhcp.relay ?? 0)
    .u48(dhcp.clientMac);
  w.at = FIXED;
  w.u32(COOKIE);
  for (const [code, bytes] of options) w.u8(code).u8(bytes.length).put(bytes);
  return w.u8(255).bytes;
}

/** The octets of an option's value: names as RFC 1035 §3.1 writes them, uncompressed (RFC 3397 §2). */
export function encodeOption(value: OptionValue): Uint8Array {
  switch (value.form) {
    case 'addresses': {
      const w = new ByteWriter(value.addresses.length * 4);
      for (const address of value.addresses) w.u32(address);
      return w.bytes;
    }
    case 'text':
      return Uint8Array.from(value.text, (c) => c.charCodeAt(0) & 0x7f);
    case 'names': {
      const w = new ByteWriter(value.names.reduce((sum, name) => sum + namedSize(name), 0));
      for (const name of value.names) putName(w, name);
      return w.bytes;
    }
    case 'number': {
      const w = new ByteWriter(value.octets);
      if (value.octets === 4) w.u32(value.value);
      else if (value.octets === 2) w.u16(value.value);
      else w.u8(value.value);
      return w.bytes;
    }
    case 'bytes':
      return value.bytes;
  }
}

/** What an option's octets say, by the form that its number has; octets where that is not known or does not fit. */
export function decodeOption(code: number, bytes: Uint8Array): OptionValue {
  const form = Object.values(OPTION_NAMES).find((o) => o.code === code);
  const r = new ByteReader(bytes);
  switch (form?.form) {
    case 'addresses': {
      const addresses: Ipv4[] = [];
      while (r.has(4)) addresses.push(r.u32() as Ipv4);
      return r.has(1) ? { form: 'bytes', bytes } : { form: 'addresses', addresses };
    }
    case 'text':
      return { form: 'text', text: String.fromCharCode(...bytes) };
    case 'names': {
      const names: string[] = [];
      let labels: string[] = [];
      while (r.has(1)) {
        const size = r.u8();
        if (size === 0) {
          names.push(labels.join('.'));
          labels = [];
        } else if (size > 63 || !r.has(size)) return { form: 'bytes', bytes };
        else labels.push(String.fromCharCode(...r.take(size)));
      }
      return labels.length ? { form: 'bytes', bytes } : { form: 'names', names };
    }
    case 'number':
      return bytes.length === form.octets && form.octets === 2
        ? { form: 'number', octets: 2, value: r.u16() }
        : { form: 'bytes', bytes };
    case 'bytes':
    case undefined:
      return { form: 'bytes', bytes };
  }
}
