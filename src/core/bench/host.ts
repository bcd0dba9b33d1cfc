/**
 * An ordinary computer: one socket, addresses of its own, by DHCP or from what routers advertise, a gateway, and ends
 * of conversations.
 */
import { contains, isGroup, isIpv4, isLinkLocal, lengthOfMask } from '#core/addr';
import type { Ip, Ipv4, Ipv6, Mac, Prefix, Services } from '#core/addr';
import {
  ALL_ROUTERS,
  decodeDhcp,
  decodeEthernet,
  encodeDhcp,
  encodeFrame,
  encodeUdp,
  ipv4Packet,
} from '#core/wire';
import type { Dhcp, IpPacket, Ipv4Packet } from '#core/wire';
import type { Seeded } from '#core/base';
import { Autoconf } from './autoconf';
import { DhcpClient } from './dhcp-client';
import type { Lease } from './dhcp-client';
import { Endpoints } from './endpoints';
import type { HostSide, SendOptions } from './endpoints';
import { Nic } from './link';
import type { Frame, Machine } from './link';
import { Segment } from './segment';
import type { RouterMessage, SegmentSide } from './segment';
import type { Scheduler } from './scheduler';
import type { Tracer } from './trace';

export interface HostSetup {
  readonly name: string;
  readonly mac: Mac;
  /** Its own address; absent with `dhcp`, or where it has none. */
  readonly address?: Prefix<Ipv4>;
  readonly dhcp: boolean;
  readonly gateway?: Ipv4;
  /** A written IPv6 address; without one it makes its own where a router advertises. */
  readonly address6?: Prefix<Ipv6>;
  readonly gateway6?: Ipv6;
  readonly suffix?: bigint;
  readonly names: readonly Ip[];
  readonly listens: Services;
  readonly silent: boolean;
}

export const DHCP_SERVER_PORT = 67;
export const DHCP_CLIENT_PORT = 68;
const NOWHERE = 0 as Ipv4;
export const EVERYONE = 0xffffffff as Ipv4;

/** A DHCP message as the packet that carries it. */
export function dhcpPacket(message: Dhcp, source: Ipv4, destination: Ipv4): Ipv4Packet {
  const ports = message.reply
    ? { sourcePort: DHCP_SERVER_PORT, destinationPort: DHCP_CLIENT_PORT }
    : { sourcePort: DHCP_CLIENT_PORT, destinationPort: DHCP_SERVER_PORT };
  return ipv4Packet({
    source,
    destination,
    protocol: 17,
    payload: encodeUdp({ ...ports, data: encodeDhcp(message) }, source, destination),
  });
}

export class Host implements Machine, HostSide, SegmentSide {
  readonly nic: Nic;
  readonly endpoints: Endpoints;
  readonly dhcp?: DhcpClient;
  readonly isRouter = false;
  private readonly segment: Segment;
  private readonly autoconf: Autoconf;

  constructor(
    readonly setup: HostSetup,
    scheduler: Scheduler,
    chance: Seeded,
    private readonly trace: Tracer,
  ) {
    this.nic = new Nic(this, 'eth0');
    this.endpoints = new Endpoints(scheduler, this);
    this.segment = new Segment(scheduler, setup.mac, this);
    const { linkLocal, mac } = this.segment;
    this.autoconf = new Autoconf(
      scheduler,
      mac,
      true,
      {
        solicit: () => this.segment.sendNd({ type: 'router-ask', mac }, linkLocal, ALL_ROUTERS),
        probeFree: (address, then) => this.segment.probeFree(address, then),
      },
      () => {},
      setup.suffix,
    );
    if (setup.dhcp)
      this.dhcp = new DhcpClient(
        scheduler,
        chance,
        setup.mac,
        setup.name,
        (message, to) => this.sendDhcp(message, to),
        () => this.segment.neighbours.clear(),
      );
  }

  get name(): string {
    return this.setup.name;
  }

  get silent(): boolean {
    return this.setup.silent;
  }

  listens(): Services {
    return this.setup.listens;
  }

  speaks6(): boolean {
    return true;
  }

  /** Its IPv4 address with length at this moment. */
  get address(): Prefix<Ipv4> | undefined {
    const lease = this.dhcp?.lease;
    return lease ? leasePrefix(lease) : this.setup.address;
  }

  /** Its IPv6 addresses at this moment, the link-local one left out. */
  get addresses6(): Prefix<Ipv6>[] {
    const { address6 } = this.setup;
    // Who was given one by hand makes none.
    return address6 ? [address6] : this.autoconf.addresses;
  }

  /** Every address that others can reach it by. */
  get addresses(): Prefix[] {
    const own = this.address;
    return [...(own ? [own] : []), ...this.addresses6];
  }

  get gateway(): Ipv4 | undefined {
    return this.dhcp ? this.dhcp.lease?.gateway : this.setup.gateway;
  }

  get gateway6(): Ipv6 | undefined {
    return this.setup.gateway6 ?? this.autoconf.router;
  }

  /** Resolvers, those of a lease before advertised ones. */
  get names(): readonly Ip[] {
    return [...(this.dhcp ? (this.dhcp.lease?.names ?? []) : this.setup.names), ...this.autoconf.names];
  }

  /** Switches it on: it asks for an address and for routers. */
  start(): void {
    if (!this.nic.carrier) return;
    this.dhcp?.start();
    this.autoconf.start();
  }

  carrierChanged(nic: Nic): void {
    this.segment.neighbours.clear();
    if (nic.carrier) this.start();
    else this.autoconf.stop();
  }

  sourceFor(destination: Ip): Ip | undefined {
    if (isIpv4(destination)) {
      const own = this.address;
      return own && (contains(own, destination) || this.gateway !== undefined) ? own.address : undefined;
    }
    if (isLinkLocal(destination)) return this.segment.linkLocal;
    const own = this.addresses6;
    const near = own.find((a) => contains(a, destination));
    return (near ?? (this.gateway6 === undefined ? undefined : own[0]))?.address;
  }

  // ---- the segment

  holds(address: Ip): boolean {
    return isIpv4(address)
      ? address === this.address?.address
      : this.addresses6.some((a) => a.address === address);
  }

  askFrom(): Ipv4 | undefined {
    return this.address?.address;
  }

  heardRouter(message: RouterMessage, from: Ipv6): void {
    if (message.type === 'router') this.autoconf.heard(message, from);
  }

  emit(destination: Mac, type: number, payload: Uint8Array | IpPacket, mark?: number): void {
    this.nic.send({ bytes: encodeFrame({ destination, source: this.setup.mac, type }, payload), mark });
  }

  private sendDhcp(message: Dhcp, to: Ipv4 | 'broadcast'): void {
    if (to === 'broadcast') this.segment.send(dhcpPacket(message, NOWHERE, EVERYONE), EVERYONE, () => {});
    else this.send(dhcpPacket(message, this.address?.address ?? NOWHERE, to), {});
  }

  private hopFor(destination: Ip): Ip | undefined {
    if (isIpv4(destination)) {
      const own = this.address;
      return own && contains(own, destination) ? destination : this.gateway;
    }
    if (isLinkLocal(destination) || isGroup(destination)) return destination;
    return this.addresses6.some((a) => contains(a, destination)) ? destination : this.gateway6;
  }

  send(packet: IpPacket, options: SendOptions): void {
    const { mark } = options;
    const hop = this.hopFor(packet.destination);
    if (hop === undefined) {
      this.trace(mark, { node: this.name, stage: 'route', code: 'host-no-gateway', packet });
      return;
    }
    this.trace(mark, { node: this.name, stage: 'sent', code: 'sent', packet });
    const lost = () =>
      this.trace(mark, { node: this.name, stage: 'neighbour', code: 'no-neighbour', packet, hop });
    this.segment.send(packet, hop, lost, mark);
  }

  receive(_nic: Nic, frame: Frame): void {
    if (isOthersDhcp(frame.bytes, this.setup.mac)) return;
    const ethernet = decodeEthernet(frame.bytes);
    if (!ethernet.ok || (ethernet.value.vlan && ethernet.value.vlan.id !== 0)) return;
    if (!this.segment.takes(ethernet.value.destination)) return;
    const read = this.segment.receive(ethernet.value, frame.mark);
    if (!read) return;
    const { packet, inner } = read;
    if (inner.protocol === 'udp' && inner.udp.destinationPort === DHCP_CLIENT_PORT) {
      const message = decodeDhcp(inner.udp.data);
      if (message.ok) this.dhcp?.receive(message.value);
      return;
    }
    if (!this.holds(packet.destination) && packet.destination !== this.segment.linkLocal) return;
    this.trace(frame.mark, { node: this.name, stage: 'received', code: 'received', packet });
    this.endpoints.deliver(read, { mark: frame.mark });
  }
}

/**
 * Whether a frame carries DHCP for servers, or for another client: what everybody hears when hundreds switch on, and
 * nobody but those reads. Looked at in place: Ethernet without a tag, IPv4 without options, UDP, then BOOTP's own
 * hardware address (RFC 2131 §2) at octet 70.
 */
function isOthersDhcp(bytes: Uint8Array, mac: Mac): boolean {
  if (bytes.length < 76 || bytes[12] !== 0x08 || bytes[13] !== 0 || bytes[14] !== 0x45 || bytes[23] !== 17)
    return false;
  const port = (bytes[36]! << 8) | bytes[37]!;
  if (port === DHCP_SERVER_PORT) return true;
  if (port !== DHCP_CLIENT_PORT) return false;
  let client = 0;
  for (let i = 70; i < 76; i++) client = client * 256 + bytes[i]!;
  return client !== mac;
}

/** The address of a lease with the length of its mask; a mask with holes counts as a host's. */
export const leasePrefix = (lease: Lease): Prefix<Ipv4> => ({
  address: lease.address,
  length: lengthOfMask(lease.mask) ?? 32,
});
