/** What a router and a flow table need to know of a packet, and the same packet with other addresses. */
import { PROTO, isIpv4 } from '#core/addr';
import type { FlowService, Ip, Ipv4, Ipv6 } from '#core/addr';
import {
  IPV6_HEADER,
  decodeIcmp,
  decodeIcmp6,
  decodeIpv4,
  decodeIpv6,
  decodeTcp,
  decodeUdp,
  encodeIcmp,
  encodeIcmp6,
  encodeIp,
  encodeTcp,
  encodeUdp,
  ipPacket,
  isIpv4Packet,
} from '#core/wire';
import type { Icmp, IpPacket, Tcp, Udp } from '#core/wire';

/** The two ends of a packet. For ICMP echo the identifier stands in both port fields. */
export interface Ends {
  readonly source: Ip;
  readonly destination: Ip;
  readonly sourcePort: number;
  readonly destinationPort: number;
}

/** A packet with its inner protocol read. */
export type Inner =
  | { readonly protocol: 'udp'; readonly udp: Udp }
  | { readonly protocol: 'tcp'; readonly tcp: Tcp }
  | { readonly protocol: 'icmp'; readonly icmp: Icmp }
  | { readonly protocol: 'other' }
  | { readonly protocol: 'bad'; readonly why: string };

export interface ReadPacket {
  readonly packet: IpPacket;
  readonly inner: Inner;
  readonly ends: Ends;
  readonly service: FlowService;
  /** Whether this packet may begin a flow: a SYN alone, an echo request, any UDP, any other protocol. */
  readonly starts: boolean;
  /** For an ICMP error: the packet it is about, as far as quoted. */
  readonly about?: Quoted;
}

/** The quoted head of a packet in an ICMP error. */
export interface Quoted {
  readonly packet: IpPacket;
  readonly ends: Ends;
}

/** Reads the inner protocol of a packet. A bad checksum or a cut header makes it `bad`, never a throw. */
export function readPacket(packet: IpPacket): ReadPacket {
  const { source, destination, payload } = packet;
  const ends = (sourcePort = 0, destinationPort = 0): Ends => ({
    source,
    destination,
    sourcePort,
    destinationPort,
  });
  const bad = (why: string): ReadPacket => ({
    packet,
    inner: { protocol: 'bad', why },
    ends: ends(),
    service: { proto: packet.protocol },
    starts: false,
  });
  if (isIpv4Packet(packet) && (packet.fragmentOffset > 0 || packet.moreFragments)) return bad('a fragment');
  switch (packet.protocol) {
    case PROTO.udp: {
      const read = decodeUdp(payload, source, destination);
      if (!read.ok) return bad(read.error.what);
      const udp = read.value;
      return {
        packet,
        inner: { protocol: 'udp', udp },
        ends: ends(udp.sourcePort, udp.destinationPort),
        service: { proto: PROTO.udp, port: udp.destinationPort },
        starts: true,
      };
    }
    case PROTO.tcp: {
      const read = decodeTcp(payload, source, destination);
      if (!read.ok) return bad(read.error.what);
      const tcp = read.value;
      return {
        packet,
        inner: { protocol: 'tcp', tcp },
        ends: ends(tcp.sourcePort, tcp.destinationPort),
        service: { proto: PROTO.tcp, port: tcp.destinationPort },
        starts: tcp.syn && !tcp.ack && !tcp.rst && !tcp.fin,
      };
    }
    case PROTO.icmp:
    case PROTO.icmp6: {
      const read = isIpv4Packet(packet)
        ? decodeIcmp(payload)
        : decodeIcmp6(payload, packet.source, packet.destination);
      if (!read.ok) return bad(read.error.what);
      const icmp = read.value;
      const echo = icmp.type === 'echo-request' || icmp.type === 'echo-reply';
      const about =
        icmp.type === 'unreachable' || icmp.type === 'time-exceeded' ? readQuote(icmp.about) : undefined;
      return {
        packet,
        inner: { protocol: 'icmp', icmp },
        ends: echo ? ends(icmp.identifier, icmp.identifier) : ends(),
        service: { proto: packet.protocol, echo: icmp.type === 'echo-request' },
        starts: icmp.type === 'echo-request',
        about,
      };
    }
    default:
      return {
        packet,
        inner: { protocol: 'other' },
        ends: ends(),
        service: { proto: packet.protocol },
        starts: true,
      };
  }
}

/** Reads the quoted head in an ICMP error; its payload is cut, so lengths and inner checksums are not looked at. */
function readQuote(bytes: Uint8Array): Quoted | undefined {
  const packet = bytes[0]! >>> 4 === 6 ? quoted6(bytes) : quoted4(bytes);
  if (!packet || packet.payload.length < 8) return undefined;
  const { source, destination, protocol, payload } = packet;
  const p = new DataView(payload.buffer, payload.byteOffset);
  const isPorts = protocol === PROTO.udp || protocol === PROTO.tcp;
  const id = isEcho(protocol) ? p.getUint16(4) : 0;
  return {
    packet,
    ends: {
      source,
      destination,
      sourcePort: isPorts ? p.getUint16(0) : id,
      destinationPort: isPorts ? p.getUint16(2) : id,
    },
  };
}

/** The quoted total length is of the whole packet: it is shortened for the reader, on a copy. */
function quoted4(bytes: Uint8Array): IpPacket | undefined {
  if (bytes.length < 28) return undefined;
  const copy = bytes.slice();
  const view = new DataView(copy.buffer);
  view.setUint16(2, copy.length);
  view.setUint16(10, 0);
  let sum = 0;
  for (let i = 0; i < 20; i += 2) sum += view.getUint16(i);
  while (sum > 0xffff) sum = (sum & 0xffff) + (sum >>> 16);
  view.setUint16(10, ~sum & 0xffff);
  const read = decodeIpv4(copy);
  return read.ok ? read.value : undefined;
}

function quoted6(bytes: Uint8Array): IpPacket | undefined {
  if (bytes.length < IPV6_HEADER + 8) return undefined;
  const copy = bytes.slice();
  new DataView(copy.buffer).setUint16(4, copy.length - IPV6_HEADER);
  const read = decodeIpv6(copy);
  return read.ok ? read.value : undefined;
}

/** Whether the protocol is ICMP of either family, whose echo identifier stands for ports. */
export const isEcho = (protocol: number): boolean => protocol === PROTO.icmp || protocol === PROTO.icmp6;

/** An ICMP message as a packet of its addresses' family. Throws where they differ in it. */
export function icmpPacket(icmp: Icmp, source: Ip, destination: Ip): IpPacket {
  const payload = isIpv4(source) ? encodeIcmp(icmp) : encodeIcmp6(icmp, source, destination as Ipv6);
  return ipPacket({ source, destination, protocol: isIpv4(source) ? PROTO.icmp : PROTO.icmp6, payload });
}

/** The packet with other addresses, which are of its family. */
const between = (packet: IpPacket, source: Ip, destination: Ip): IpPacket =>
  isIpv4Packet(packet)
    ? { ...packet, source: source as Ipv4, destination: destination as Ipv4 }
    : { ...packet, source: source as Ipv6, destination: destination as Ipv6 };

/** The same packet between other ends, its inner checksum made anew. */
export function withEnds(read: ReadPacket, to: Ends): IpPacket {
  const { packet, inner, ends } = read;
  const { source, destination, sourcePort, destinationPort } = to;
  if (
    source === ends.source &&
    destination === ends.destination &&
    sourcePort === ends.sourcePort &&
    destinationPort === ends.destinationPort
  )
    return packet;
  const base = between(packet, source, destination);
  switch (inner.protocol) {
    case 'udp':
      return {
        ...base,
        payload: encodeUdp({ ...inner.udp, sourcePort, destinationPort }, source, destination),
      };
    case 'tcp':
      return {
        ...base,
        payload: encodeTcp({ ...inner.tcp, sourcePort, destinationPort }, source, destination),
      };
    case 'icmp': {
      const { icmp } = inner;
      if (icmp.type !== 'echo-request' && icmp.type !== 'echo-reply') return base;
      const identifier = icmp.type === 'echo-request' ? sourcePort : destinationPort;
      return { ...base, payload: icmpPacket({ ...icmp, identifier }, source, destination).payload };
    }
    case 'other':
    case 'bad':
      return base;
  }
}

/** The same ICMP error from and to these addresses, about its quoted packet between other ends. */
export function withQuote(read: ReadPacket, source: Ip, destination: Ip, to: Ends): IpPacket {
  const packet = between(read.packet, source, destination);
  if (read.inner.protocol !== 'icmp' || !read.about) return packet;
  const { icmp } = read.inner;
  if (icmp.type !== 'unreachable' && icmp.type !== 'time-exceeded') return packet;
  const quoted = read.about.packet;
  const body = quoted.payload.slice();
  const view = new DataView(body.buffer);
  if (isEcho(quoted.protocol)) view.setUint16(4, to.sourcePort);
  else if (quoted.protocol === PROTO.tcp || quoted.protocol === PROTO.udp) {
    view.setUint16(0, to.sourcePort);
    view.setUint16(2, to.destinationPort);
  }
  const about = encodeIp({ ...between(quoted, to.source, to.destination), payload: body });
  return { ...packet, payload: icmpPacket({ ...icmp, about }, source, destination).payload };
}

/** The packet with the segment size of a SYN lowered to `most` octets, where it offers more. */
export function withClampedMss(packet: IpPacket, most: number): IpPacket {
  if (packet.protocol !== PROTO.tcp) return packet;
  const read = readPacket(packet);
  if (read.inner.protocol !== 'tcp') return packet;
  const { tcp } = read.inner;
  if (!tcp.syn || tcp.mss === undefined || tcp.mss <= most) return packet;
  const payload = encodeTcp({ ...tcp, mss: most }, packet.source, packet.destination);
  return { ...packet, payload };
}
