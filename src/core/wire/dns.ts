/**
 * DNS messages, as far as a resolver of addresses needs them. RFC 1035 §4.
 *
 *  0 id  2 flags  4 questions  6 answers  8 authority  10 additional  12 ...
 * Names are labels of a length octet and that many octets, ended by zero, or a pointer (§4.1.4).
 */
import { isIpv4 } from '#core/addr';
import type { Ip, Ipv4, Ipv6 } from '#core/addr';
import { ByteReader, ByteWriter, ok } from '#core/base';
import type { Result } from '#core/base';
import { fault } from './fault';
import type { WireFault } from './fault';

/** Record types: an IPv4 address, a pointer (RFC 1035 §3.3.12), and an IPv6 address (RFC 3596 §2.1). */
export const DNS_TYPE = { a: 1, ptr: 12, aaaa: 28 } as const;
const CLASS_IN = 1;

/** Response codes, RFC 1035 §4.1.1. */
export const RCODE = { none: 0, format: 1, failure: 2, nameError: 3, refused: 5 } as const;

export interface Dns {
  readonly id: number;
  readonly response: boolean;
  readonly rcode: number;
  /** The name asked for, lower-case, without the final dot. */
  readonly name: string;
  /** The type asked for; see DNS_TYPE. */
  readonly type: number;
  /** The addresses of the answer, of the type asked for. */
  readonly addresses: readonly Ip[];
  /** The name that a pointer leads to. */
  readonly pointer?: string;
}

function readName(r: ByteReader): string | undefined {
  const labels: string[] = [];
  let back: number | undefined;
  let steps = 0;
  for (;;) {
    // RFC 1035 §2.3.4: a name has at most 255 octets, so more steps than that are a loop.
    if (!r.has(1) || ++steps > 255) return undefined;
    const size = r.u8();
    if (size === 0) break;
    if ((size & 0xc0) === 0xc0) {
      if (!r.has(1)) return undefined;
      const to = ((size & 0x3f) << 8) | r.u8();
      back ??= r.at;
      if (to >= r.bytes.length) return undefined;
      r.at = to;
      continue;
    }
    if (size > 63 || !r.has(size)) return undefined;
    labels.push(String.fromCharCode(...r.take(size)));
  }
  if (back !== undefined) r.at = back;
  return labels.join('.').toLowerCase();
}

export function decodeDns(bytes: Uint8Array): Result<Dns, WireFault> {
  if (bytes.length < 12) return fault('dns', 'truncated', `${bytes.length} octets`);
  const r = new ByteReader(bytes);
  const [id, flags, questions, answers] = [r.u16(), r.u16(), r.u16(), r.u16()];
  r.u32();
  if (questions !== 1) return fault('dns', 'malformed', `${questions} questions`);
  const name = readName(r);
  if (name === undefined || !r.has(4)) return fault('dns', 'malformed', 'question');
  const type = r.u16();
  r.u16();
  const addresses: Ip[] = [];
  let pointer: string | undefined;
  for (let i = 0; i < answers; i++) {
    if (readName(r) === undefined || !r.has(10)) return fault('dns', 'malformed', `answer ${i}`);
    const kind = r.u16();
    r.take(6);
    const size = r.u16();
    if (!r.has(size)) return fault('dns', 'truncated', `answer ${i}`);
    if (kind === DNS_TYPE.a && size === 4) addresses.push(r.u32() as Ipv4);
    else if (kind === DNS_TYPE.aaaa && size === 16) addresses.push(r.u128() as Ipv6);
    else if (kind === DNS_TYPE.ptr) {
      const end = r.at + size;
      pointer = readName(r);
      if (pointer === undefined) return fault('dns', 'malformed', `answer ${i}`);
      r.at = end;
    } else r.take(size);
  }
  return ok({
    id,
    response: (flags & 0x8000) !== 0,
    rcode: flags & 15,
    name,
    type,
    addresses,
    ...(pointer === undefined ? {} : { pointer }),
  });
}

/** The octets of a name as labels, uncompressed. */
export const namedSize = (name: string): number => (name === '' ? 1 : name.length + 2);

/** Writes a name as labels, uncompressed (RFC 1035 §3.1). */
export function putName(w: ByteWriter, name: string): void {
  for (const label of name === '' ? [] : name.split('.')) {
    w.u8(label.length);
    for (const c of label) w.u8(c.charCodeAt(0) & 0x7f);
  }
  w.u8(0);
}

export function encodeDns(dns: Dns): Uint8Array {
  const answers = dns.response ? dns.addresses : [];
  const pointer = dns.response ? dns.pointer : undefined;
  const size =
    answers.reduce((sum, a) => sum + (isIpv4(a) ? 16 : 28), 0) +
    (pointer === undefined ? 0 : 12 + namedSize(pointer));
  const w = new ByteWriter(12 + namedSize(dns.name) + 4 + size)
    .u16(dns.id)
    .u16((dns.response ? 0x8180 : 0x0100) | dns.rcode)
    .u16(1)
    .u16(answers.length + (pointer === undefined ? 0 : 1))
    .u32(0);
  putName(w, dns.name);
  w.u16(dns.type).u16(CLASS_IN);
  for (const address of answers) {
    // A pointer to the question's name at 12, type, class IN, five minutes, then the address with its size.
    w.u16(0xc00c);
    if (isIpv4(address)) w.u16(DNS_TYPE.a).u16(CLASS_IN).u32(300).u16(4).u32(address);
    else w.u16(DNS_TYPE.aaaa).u16(CLASS_IN).u32(300).u16(16).u128(address);
  }
  if (pointer !== undefined) {
    w.u16(0xc00c).u16(DNS_TYPE.ptr).u16(CLASS_IN).u32(300).u16(namedSize(pointer));
    putName(w, pointer);
  }
  return w.bytes;
}

/** The name under which an address is asked for backwards (RFC 1035 §3.5, RFC 3596 §2.5). */
export const reverseName = (address: Ip): string =>
  isIpv4(address)
    ? `${[24, 16, 8, 0]
        .map((shift) => (address >>> shift) & 255)
        .reverse()
        .join('.')}.in-addr.arpa`
    : `${[...address.toString(16).padStart(32, '0')].reverse().join('.')}.ip6.arpa`;

/** A question for the addresses of a name, of one family. */
export const dnsQuestion = (id: number, name: string, type: number = DNS_TYPE.a): Dns => ({
  id,
  response: false,
  rcode: RCODE.none,
  name,
  type,
  addresses: [],
});
