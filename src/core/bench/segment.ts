/**
 * The place where a machine meets an Ethernet segment: it answers who has which of its addresses, asks for those of
 * others, and puts packets into frames. ARP for IPv4 (RFC 826), neighbour discovery for IPv6 (RFC 4861 §7).
 */
import { identifierOf, isGroup, isIpv4, linkLocal } from '#core/addr';
import type { Ip, Ipv4, Ipv6, Mac } from '#core/addr';
import {
  ALL_NODES,
  BROADCAST,
  ETHERTYPE,
  arpReply,
  decodeArp,
  decodeIp,
  decodeNd,
  encodeArp,
  encodeNd,
  etherTypeOf,
  groupMac,
  solicitedNode,
} from '#core/wire';
import type { Ethernet, Icmp, IpPacket, Nd } from '#core/wire';
import { Neighbours } from './neighbours';
import { icmpPacket, readPacket } from './packet';
import type { ReadPacket } from './packet';
import type { Milliseconds, Scheduler } from './scheduler';

/** What a router says or is asked. */
export type RouterMessage = Extract<Nd, { type: 'router' | 'router-ask' }>;

/** What a segment needs of its machine. */
export interface SegmentSide {
  /** Puts a payload into a frame and sends it. */
  emit(destination: Mac, type: number, payload: Uint8Array | IpPacket, mark?: number, source?: Mac): void;
  /** Whether it answers when somebody asks for this address here. Its link-local address is always its own. */
  holds(address: Ip): boolean;
  /** The IPv4 address that it asks from, or undefined while it has none. */
  askFrom(target: Ipv4): Ipv4 | undefined;
  /** Whether it speaks IPv6 at all. */
  speaks6(): boolean;
  /** Told of router solicitations and advertisements. */
  heardRouter(message: RouterMessage, from: Ipv6): void;
  readonly isRouter: boolean;
  /** Where one of its IPv4 addresses is, where that is not the segment's own MAC address. */
  macOf?(address: Ipv4): Mac | undefined;
}

/** ff02::… and 255.255.255.255 reach everybody and need no neighbour. */
const EVERYONE = 0xffffffff as Ipv4;
const UNSPECIFIED = 0n as Ipv6;
/** How long an address is tried before it is taken for free (RFC 4862 §5.4, one probe as RFC 4861 §10 times it). */
const PROBE_WAIT: Milliseconds = 1000;

/** The neighbour discovery message that a packet holds. RFC 4861 §6.1: only with the full hop limit. */
export function ndOf(read: ReadPacket): Nd | undefined {
  if (isIpv4(read.packet.source) || read.packet.ttl !== 255) return undefined;
  if (read.inner.protocol !== 'icmp' || read.inner.icmp.type !== 'other') return undefined;
  const nd = decodeNd(read.inner.icmp);
  return nd.ok ? nd.value : undefined;
}

/** A neighbour discovery message as a packet. */
export const ndPacket = (icmp: Icmp, source: Ipv6, destination: Ipv6): IpPacket => ({
  ...icmpPacket(icmp, source, destination),
  ttl: 255,
});

export class Segment {
  readonly linkLocal: Ipv6;
  readonly neighbours: Neighbours;
  /** Addresses being tried, with what to do when another has them. */
  private readonly tried = new Map<Ipv6, () => void>();

  constructor(
    private readonly scheduler: Scheduler,
    readonly mac: Mac,
    private readonly side: SegmentSide,
  ) {
    this.linkLocal = linkLocal(identifierOf(mac));
    this.neighbours = new Neighbours(scheduler, (target, mark) =>
      isIpv4(target) ? this.askArp(target, mark) : this.askNd(target, mark),
    );
  }

  /** Tells everybody who has an address now: an ARP request that asks for itself (RFC 5227 §3). */
  announce(address: Ipv4, mac: Mac): void {
    const arp = { senderMac: mac, senderIp: address, targetMac: 0 as Mac, targetIp: address };
    this.side.emit(BROADCAST, ETHERTYPE.arp, encodeArp({ operation: 'request', ...arp }), undefined, mac);
  }

  /** Whether a frame with this destination is for this machine. */
  takes(destination: Mac): boolean {
    return (
      destination === this.mac ||
      destination === BROADCAST ||
      (Math.floor(destination / 2 ** 32) === 0x3333 && this.side.speaks6())
    );
  }

  private holds(address: Ip): boolean {
    return this.side.holds(address) || (address === this.linkLocal && this.side.speaks6());
  }

  private askArp(targetIp: Ipv4, mark?: number): void {
    const senderIp = this.side.askFrom(targetIp);
    if (senderIp === undefined) return;
    const arp = encodeArp({
      operation: 'request',
      senderMac: this.mac,
      senderIp,
      targetMac: 0 as Mac,
      targetIp,
    });
    this.side.emit(BROADCAST, ETHERTYPE.arp, arp, mark);
  }

  private askNd(target: Ipv6, mark?: number): void {
    this.sendNd({ type: 'ask', target, mac: this.mac }, this.linkLocal, solicitedNode(target), mark);
  }

  /** Sends a neighbour discovery message to a group or a known neighbour. */
  sendNd(nd: Nd, source: Ipv6, destination: Ipv6, mark?: number): void {
    this.send(ndPacket(encodeNd(nd), source, destination), destination, () => {}, mark);
  }

  /**
   * Takes what a frame holds. Questions and answers about neighbours are dealt with here; any other packet is
   * handed back, read.
   */
  receive(frame: Pick<Ethernet, 'type' | 'payload'>, mark?: number): ReadPacket | undefined {
    if (frame.type === ETHERTYPE.arp) {
      this.receiveArp(frame.payload, mark);
      return undefined;
    }
    const packet = decodeIp(frame.type, frame.payload);
    if (!packet || (!isIpv4(packet.source) && !this.side.speaks6())) return undefined;
    const read = readPacket(packet);
    const nd = ndOf(read);
    if (!nd) return read;
    this.receiveNd(nd, packet.source as Ipv6, mark);
    return undefined;
  }

  private receiveArp(payload: Uint8Array, mark?: number): void {
    const arp = decodeArp(payload);
    if (!arp.ok) return;
    const { operation, targetIp, senderIp, senderMac } = arp.value;
    if (senderIp !== 0) this.neighbours.learn(senderIp, senderMac);
    if (operation === 'request' && this.holds(targetIp))
      this.side.emit(
        senderMac,
        ETHERTYPE.arp,
        encodeArp(arpReply(arp.value, this.side.macOf?.(targetIp) ?? this.mac)),
        mark,
      );
  }

  private receiveNd(nd: Nd, from: Ipv6, mark?: number): void {
    switch (nd.type) {
      case 'ask': {
        if (from === UNSPECIFIED) this.tried.get(nd.target)?.();
        else if (nd.mac !== undefined) this.neighbours.learn(from, nd.mac);
        if (!this.holds(nd.target)) return;
        const solicited = from !== UNSPECIFIED;
        this.sendNd(
          { type: 'answer', target: nd.target, router: this.side.isRouter, solicited, mac: this.mac },
          nd.target,
          solicited ? from : ALL_NODES,
          mark,
        );
        return;
      }
      case 'answer':
        this.tried.get(nd.target)?.();
        if (nd.mac !== undefined) this.neighbours.learn(nd.target, nd.mac);
        return;
      case 'router':
      case 'router-ask':
        if (nd.mac !== undefined && from !== UNSPECIFIED) this.neighbours.learn(from, nd.mac);
        this.side.heardRouter(nd, from);
    }
  }

  /** Asks whether anybody has an address already (RFC 4862 §5.4), and calls back with whether it is free. */
  probeFree(address: Ipv6, then: (free: boolean) => void): void {
    const timer = this.scheduler.after(PROBE_WAIT, () => {
      this.tried.delete(address);
      then(true);
    });
    this.tried.set(address, () => {
      this.scheduler.cancel(timer);
      this.tried.delete(address);
      then(false);
    });
    this.sendNd({ type: 'ask', target: address }, UNSPECIFIED, solicitedNode(address));
  }

  /** Sends a packet to the next hop's MAC address; `lost` where nobody answers for it, `leaving` just before it goes. */
  send(packet: IpPacket, hop: Ip, lost: () => void, mark?: number, leaving?: () => void): void {
    const out = (mac: Mac) => {
      leaving?.();
      this.side.emit(mac, etherTypeOf(packet), packet, mark);
    };
    if (isIpv4(hop) ? hop === EVERYONE : isGroup(hop)) {
      out(isIpv4(hop) ? BROADCAST : groupMac(hop));
      return;
    }
    this.neighbours.resolve(hop, (mac) => (mac === undefined ? lost() : out(mac)), mark);
  }
}
