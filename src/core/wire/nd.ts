/**
 * Neighbour discovery: who has which MAC address, and which routers and prefixes there are. RFC 4861 §4, resolvers
 * in router advertisements RFC 8106 §5.1. The octets behind type, code and checksum of an ICMPv6 message:
 *
 *  solicitation of a router   0 reserved  4 options
 *  advertisement of a router  0 hop limit  1 M O flags  2 lifetime  4 reachable  8 retransmit  12 options
 *  solicitation               0 reserved  4 target  20 options
 *  advertisement              0 R S O flags  4 target  20 options
 * An option: type, length in units of 8 octets, then its value.
 */
import type { Ipv6, Mac, Prefix } from '#core/addr';
import { ByteReader, ByteWriter, joined, ok } from '#core/base';
import type { Result } from '#core/base';
import { fault } from './fault';
import type { WireFault } from './fault';
import type { Icmp } from './icmp';

/** ICMPv6 types of neighbour discovery. */
export const ND_TYPE = { routerAsk: 133, router: 134, ask: 135, answer: 136 } as const;
const OPTION = { sourceMac: 1, targetMac: 2, prefix: 3, mtu: 5, names: 25 } as const;

/** A prefix as a router advertises it (§4.6.2). Lifetimes in seconds. */
export interface AdvertisedPrefix {
  readonly prefix: Prefix<Ipv6>;
  readonly onLink: boolean;
  /** Hosts may make their own addresses in it (RFC 4862). */
  readonly autonomous: boolean;
  readonly valid: number;
  readonly preferred: number;
}

export type Nd =
  | { readonly type: 'router-ask'; readonly mac?: Mac }
  | {
      readonly type: 'router';
      /** Addresses are to be had by DHCPv6. */
      readonly managed: boolean;
      /** Other settings are. */
      readonly other: boolean;
      /** Seconds as default router; 0: it is none. */
      readonly lifetime: number;
      readonly mac?: Mac;
      readonly mtu?: number;
      readonly prefixes: readonly AdvertisedPrefix[];
      readonly names: readonly Ipv6[];
    }
  | { readonly type: 'ask'; readonly target: Ipv6; readonly mac?: Mac }
  | {
      readonly type: 'answer';
      readonly target: Ipv6;
      readonly router: boolean;
      readonly solicited: boolean;
      readonly mac?: Mac;
    };

/** The multicast groups that neighbour discovery speaks to (RFC 4291 §2.7.1). */
export const ALL_NODES = ((0xff02n << 112n) | 1n) as Ipv6;
export const ALL_ROUTERS = ((0xff02n << 112n) | 2n) as Ipv6;
/** The group in which the holder of an address is asked for. */
export const solicitedNode = (address: Ipv6): Ipv6 =>
  ((0xff02n << 112n) | 0x1ff000000n | (address & 0xffffffn)) as Ipv6;
/** The MAC address of an IPv6 group (RFC 2464 §7). */
export const groupMac = (group: Ipv6): Mac => (0x333300000000 + Number(group & 0xffffffffn)) as Mac;

export function decodeNd(icmp: Extract<Icmp, { type: 'other' }>): Result<Nd, WireFault> {
  const r = new ByteReader(icmp.body);
  const fixed = { 133: 4, 134: 12, 135: 20, 136: 20 }[icmp.number];
  if (fixed === undefined) return fault('nd', 'malformed', `type ${icmp.number}`);
  if (!r.has(fixed)) return fault('nd', 'truncated', `${icmp.body.length} octets`);
  const head = new ByteReader(r.take(fixed));
  let sourceMac: Mac | undefined;
  let targetMac: Mac | undefined;
  let mtu: number | undefined;
  const prefixes: AdvertisedPrefix[] = [];
  const names: Ipv6[] = [];
  while (r.has(2)) {
    const [type, units] = [r.u8(), r.u8()];
    // §4.6: an option of length zero makes the whole message void.
    if (units === 0 || !r.has(units * 8 - 2)) return fault('nd', 'malformed', `option ${type}`);
    const o = new ByteReader(r.take(units * 8 - 2));
    if (type === OPTION.sourceMac) sourceMac = o.u48() as Mac;
    else if (type === OPTION.targetMac) targetMac = o.u48() as Mac;
    else if (type === OPTION.mtu) {
      o.u16();
      mtu = o.u32();
    } else if (type === OPTION.prefix && units === 4) {
      const [length, flags, valid, preferred] = [o.u8(), o.u8(), o.u32(), o.u32()];
      o.u32();
      prefixes.push({
        prefix: { address: o.u128() as Ipv6, length },
        onLink: (flags & 0x80) !== 0,
        autonomous: (flags & 0x40) !== 0,
        valid,
        preferred,
      });
    } else if (type === OPTION.names) {
      o.u16();
      o.u32();
      while (o.has(16)) names.push(o.u128() as Ipv6);
    }
  }
  switch (icmp.number) {
    case ND_TYPE.routerAsk:
      return ok({ type: 'router-ask', mac: sourceMac });
    case ND_TYPE.router: {
      head.u8();
      const [flags, lifetime] = [head.u8(), head.u16()];
      return ok({
        type: 'router',
        managed: (flags & 0x80) !== 0,
        other: (flags & 0x40) !== 0,
        lifetime,
        mac: sourceMac,
        mtu,
        prefixes,
        names,
      });
    }
    case ND_TYPE.ask:
      head.u32();
      return ok({ type: 'ask', target: head.u128() as Ipv6, mac: sourceMac });
    default: {
      const flags = head.u32();
      return ok({
        type: 'answer',
        target: head.u128() as Ipv6,
        router: flags >>> 31 === 1,
        solicited: (flags & 0x40000000) !== 0,
        mac: targetMac,
      });
    }
  }
}

/** The message as an ICMPv6 value, its checksum still to be made. */
export function encodeNd(nd: Nd): Icmp {
  const other = (number: number, body: readonly Uint8Array[]): Icmp => ({
    type: 'other',
    number,
    code: 0,
    body: joined(body),
  });
  const mac = (option: number, value: Mac | undefined) =>
    value === undefined ? new Uint8Array(0) : new ByteWriter(8).u8(option).u8(1).u48(value).bytes;
  switch (nd.type) {
    case 'router-ask':
      return other(ND_TYPE.routerAsk, [new Uint8Array(4), mac(OPTION.sourceMac, nd.mac)]);
    case 'router':
      return other(ND_TYPE.router, [
        new ByteWriter(12)
          .u8(64)
          .u8((nd.managed ? 0x80 : 0) | (nd.other ? 0x40 : 0))
          .u16(nd.lifetime)
          .u32(0)
          .u32(0).bytes,
        mac(OPTION.sourceMac, nd.mac),
        nd.mtu === undefined
          ? new Uint8Array(0)
          : new ByteWriter(8).u8(OPTION.mtu).u8(1).u16(0).u32(nd.mtu).bytes,
        ...nd.prefixes.map(
          (p) =>
            new ByteWriter(32)
              .u8(OPTION.prefix)
              .u8(4)
              .u8(p.prefix.length)
              .u8((p.onLink ? 0x80 : 0) | (p.autonomous ? 0x40 : 0))
              .u32(p.valid)
              .u32(p.preferred)
              .u32(0)
              .u128(p.prefix.address).bytes,
        ),
        nd.names.length ? namesOption(nd.names, nd.lifetime || 1800) : new Uint8Array(0),
      ]);
    case 'ask':
      return other(ND_TYPE.ask, [
        new ByteWriter(20).u32(0).u128(nd.target).bytes,
        mac(OPTION.sourceMac, nd.mac),
      ]);
    case 'answer':
      return other(ND_TYPE.answer, [
        new ByteWriter(20)
          // Router, solicited, override (§4.4).
          .u32((nd.router ? 0x80000000 : 0) + (nd.solicited ? 0x40000000 : 0) + 0x20000000)
          .u128(nd.target).bytes,
        mac(OPTION.targetMac, nd.mac),
      ]);
  }
}

function namesOption(names: readonly Ipv6[], lifetime: number): Uint8Array {
  const w = new ByteWriter(8 + names.length * 16)
    .u8(OPTION.names)
    .u8(1 + names.length * 2)
    .u16(0)
    .u32(lifetime);
  for (const name of names) w.u128(name);
  return w.bytes;
}
