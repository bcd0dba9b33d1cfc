/** The first packet of a flow, made from nothing but what the flow says. */
import { PROTO } from '#core/addr';
import type { Flow } from '#core/semantics';
import { encodeTcp, encodeUdp, ipPacket } from '#core/wire';
import type { IpPacket } from '#core/wire';
import { icmpPacket } from './packet';

const NOTHING = new Uint8Array(0);

/** A SYN, an echo request, a datagram, or eight octets of another protocol. `number` keeps flows apart. */
export function firstPacket(flow: Flow, number: number): IpPacket {
  const { source, destination, service } = flow;
  if (service.echo)
    return icmpPacket(
      { type: 'echo-request', identifier: number & 0xffff, sequence: 1, data: new Uint8Array(8) },
      source,
      destination,
    );
  const sourcePort = 1024 + (number % 40_000);
  const destinationPort = service.port ?? 0;
  const { proto: protocol } = service;
  if (protocol === PROTO.tcp) {
    const tcp = {
      sourcePort,
      destinationPort,
      sequence: number,
      acknowledgment: 0,
      syn: true,
      ack: false,
      fin: false,
      rst: false,
      psh: false,
      window: 65535,
      data: NOTHING,
    };
    return ipPacket({ source, destination, protocol, payload: encodeTcp(tcp, source, destination) });
  }
  const payload =
    protocol === PROTO.udp
      ? encodeUdp({ sourcePort, destinationPort, data: new Uint8Array(4) }, source, destination)
      : new Uint8Array(8);
  return ipPacket({ source, destination, protocol, payload });
}
