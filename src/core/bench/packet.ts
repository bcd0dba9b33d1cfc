/** What a router and a flow table need to know of an IPv4 packet, and the same packet with other addresses. */
import { PROTO } from '#core/addr';
import type { FlowService, Ipv4 } from '#core/addr';
import {
  decodeIcmp,
  decodeIpv4,
  decodeTcp,
  decodeUdp,
  encodeIcmp,
  encodeIpv4,
  encodeTcp,
  encodeUdp,
} from '#core/wire';
import type { Icmp, Ipv4Packet, Tcp, Udp } from '#core/wire';

/** The two ends of a packet. For ICMP echo the identifier stands in both port fields. */
export interface Ends {
  readonly source: Ipv4;
  readonly destination: Ipv4;
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
  readonly packet: Ipv4Packet;
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
  readonly packet: Ipv4Packet;
  readonly ends: Ends;
}

/** Reads the inner protocol of a packet. A bad checksum or a cut header makes it `bad`, never a throw. */
export function readPacket(packet: Ipv4Packet): ReadPacket {
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
  if (packet.fragmentOffset > 0 || packet.moreFragments) return bad('a fragment');
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
    case PROTO.icmp: {
      const read = decodeIcmp(payload);
      if (!read.ok) return bad(read.error.what);
      const icmp = read.value;
      const echo = icmp.type === 'echo-request' || icmp.type === 'echo-reply';
      const about =
        icmp.type === 'unreachable' || icmp.type === 'time-exceeded' ? readQuote(icmp.about) : undefined;
      return {
        packet,
        inner: { protocol: 'icmp', icmp },
        ends: echo ? ends(icmp.identifier, icmp.identifier) : ends(),
        service: { proto: PROTO.icmp, echo: icmp.type === 'echo-request' },
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
  if (bytes.length < 28) return undefined;
  // The quoted total length is of the whole packet: shorten it for the reader, on a copy.
  const copy = bytes.slice();
  const view = new DataView(copy.buffer);
  view.setUint16(2, copy.length);
  view.setUint16(10, 0);
  let sum = 0;
  for (let i = 0; i < 20; i += 2) sum += view.getUint16(i);
  while (sum > 0xffff) sum = (sum & 0xffff) + (sum >>> 16);
  view.setUint16(10, ~sum & 0xffff);
  const read = decodeIpv4(copy);
  if (!read.ok) return undefined;
  const { source, destination, protocol, payload } = read.value;
  if (payload.length < 8) return undefined;
  const p = new DataView(payload.buffer, payload.byteOffset);
  const isPorts = protocol === PROTO.udp || protocol === PROTO.tcp;
  const id = protocol === PROTO.icmp ? p.getUint16(4) : 0;
  return {
    packet: read.value,
    ends: {
      source,
      destination,
      sourcePort: isPorts ? p.getUint16(0) : id,
      destinationPort: isPorts ? p.getUint16(2) : id,
    },
  };
}

/** The same packet between other ends, its inner checksum made anew. */
export function withEnds(read: ReadPacket, to: Ends): Ipv4Packet {
  const { packet, inner } = read;
  const { source, destination, sourcePort, destinationPort } = to;
  const base = { ...packet, source, destination };
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
    case 'icmp':
      return inner.icmp.type === 'echo-request' || inner.icmp.type === 'echo-reply'
        ? {
            ...base,
            payload: encodeIcmp({
              ...inner.icmp,
              identifier: inner.icmp.type === 'echo-request' ? sourcePort : destinationPort,
            }),
          }
        : base;
    case 'other':
    case 'bad':
      return base;
  }
}

/** The same ICMP error, about its quoted packet between other ends. */
export function withQuote(packet: Ipv4Packet, read: ReadPacket, to: Ends): Ipv4Packet {
  if (read.inner.protocol !== 'icmp' || !read.about) return packet;
  const { icmp } = read.inner;
  if (icmp.type !== 'unreachable' && icmp.type !== 'time-exceeded') return packet;
  const quoted = read.about.packet;
  const body = quoted.payload.slice();
  const view = new DataView(body.buffer);
  if (quoted.protocol === PROTO.icmp) view.setUint16(4, to.sourcePort);
  else if (quoted.protocol === PROTO.tcp || quoted.protocol === PROTO.udp) {
    view.setUint16(0, to.sourcePort);
    view.setUint16(2, to.destinationPort);
  }
  const about = encodeIpv4({ ...quoted, source: to.source, destination: to.destination, payload: body });
  return { ...packet, payload: encodeIcmp({ ...icmp, about }) };
}
