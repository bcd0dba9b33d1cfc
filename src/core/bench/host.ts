/** An ordinary computer: one socket, ARP, an address of its own or by DHCP, a gateway, and ends of conversations. */
import { contains, lengthOfMask } from '#core/addr';
import type { Ipv4, Mac, Prefix, Services } from '#core/addr';
import {
  BROADCAST,
  ETHERTYPE,
  arpReply,
  decodeArp,
  decodeDhcp,
  decodeEthernet,
  decodeIpv4,
  encodeArp,
  encodeDhcp,
  encodeEthernet,
  encodeIpv4,
  encodeUdp,
  ipv4Packet,
} from '#core/wire';
import type { Dhcp, Ipv4Packet } from '#core/wire';
import type { Seeded } from '../base';
import { DhcpClient } from './dhcp-client';
import type { Lease } from './dhcp-client';
import { Endpoints } from './endpoints';
import type { HostSide, SendOptions } from './endpoints';
import { Nic } from './link';
import type { Frame, Machine } from './link';
import { Neighbours } from './neighbours';
import { readPacket } from './packet';
import type { ReadPacket } from './packet';
import type { Scheduler } from './scheduler';
import type { Tracer } from './trace';

export interface HostSetup {
  readonly name: string;
  readonly mac: Mac;
  /** Its own address; absent with `dhcp`, or where it has none. */
  readonly address?: Prefix<Ipv4>;
  readonly dhcp: boolean;
  readonly gateway?: Ipv4;
  readonly names: readonly Ipv4[];
  readonly listens: Services;
  readonly silent: boolean;
}

export const DHCP_SERVER_PORT = 67;
export const DHCP_CLIENT_PORT = 68;
const NOWHERE = 0 as Ipv4;
const EVERYONE = 0xffffffff as Ipv4;

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

export class Host implements Machine, HostSide {
  readonly nic: Nic;
  readonly endpoints: Endpoints;
  readonly dhcp?: DhcpClient;
  private readonly neighbours: Neighbours;

  constructor(
    readonly setup: HostSetup,
    scheduler: Scheduler,
    chance: Seeded,
    private readonly trace: Tracer,
  ) {
    this.nic = new Nic(this, 'eth0');
    this.endpoints = new Endpoints(scheduler, this);
    this.neighbours = new Neighbours(scheduler, (target, mark) => this.askFor(target, mark));
    if (setup.dhcp)
      this.dhcp = new DhcpClient(
        scheduler,
        chance,
        setup.mac,
        setup.name,
        (message, to) => this.sendDhcp(message, to),
        () => this.neighbours.clear(),
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

  /** Its address with length at this moment. */
  get address(): Prefix<Ipv4> | undefined {
    const lease = this.dhcp?.lease;
    return lease ? leasePrefix(lease) : this.setup.address;
  }

  get gateway(): Ipv4 | undefined {
    return this.dhcp ? this.dhcp.lease?.gateway : this.setup.gateway;
  }

  get names(): readonly Ipv4[] {
    return this.dhcp ? (this.dhcp.lease?.names ?? []) : this.setup.names;
  }

  /** Switches it on: a DHCP client begins to ask. */
  start(): void {
    if (this.nic.carrier) this.dhcp?.start();
  }

  carrierChanged(nic: Nic): void {
    this.neighbours.clear();
    if (nic.carrier) this.dhcp?.start();
  }

  sourceFor(destination: Ipv4): Ipv4 | undefined {
    const own = this.address;
    return own && (contains(own, destination) || this.gateway !== undefined) ? own.address : undefined;
  }

  private askFor(targetIp: Ipv4, mark?: number): void {
    const senderIp = this.address?.address;
    if (senderIp === undefined) return;
    const { mac } = this.setup;
    const arp = encodeArp({ operation: 'request', senderMac: mac, senderIp, targetMac: 0 as Mac, targetIp });
    this.sendFrame(BROADCAST, ETHERTYPE.arp, arp, mark);
  }

  private sendFrame(destination: Mac, type: number, payload: Uint8Array, mark?: number): void {
    this.nic.send({
      bytes: encodeEthernet({ destination, source: this.setup.mac, type, payload }),
      mark,
    });
  }

  private sendDhcp(message: Dhcp, to: Ipv4 | 'broadcast'): void {
    if (to === 'broadcast')
      this.sendFrame(BROADCAST, ETHERTYPE.ipv4, encodeIpv4(dhcpPacket(message, NOWHERE, EVERYONE)));
    else this.send(dhcpPacket(message, this.address?.address ?? NOWHERE, to), {});
  }

  send(packet: Ipv4Packet, options: SendOptions): void {
    const own = this.address;
    const { mark } = options;
    const hop = own && contains(own, packet.destination) ? packet.destination : this.gateway;
    if (hop === undefined) {
      this.trace(mark, { node: this.name, stage: 'route', code: 'host-no-gateway', packet });
      return;
    }
    this.trace(mark, { node: this.name, stage: 'sent', code: 'sent', packet });
    this.neighbours.resolve(
      hop,
      (mac) => {
        if (mac === undefined)
          this.trace(mark, { node: this.name, stage: 'neighbour', code: 'no-neighbour', packet, hop });
        else this.sendFrame(mac, ETHERTYPE.ipv4, encodeIpv4(packet), mark);
      },
      mark,
    );
  }

  receive(_nic: Nic, frame: Frame): void {
    const ethernet = decodeEthernet(frame.bytes);
    if (!ethernet.ok || (ethernet.value.vlan && ethernet.value.vlan.id !== 0)) return;
    const { destination, type, payload } = ethernet.value;
    if (destination !== BROADCAST && destination !== this.setup.mac) return;
    if (type === ETHERTYPE.arp) {
      const arp = decodeArp(payload);
      if (!arp.ok) return;
      this.neighbours.learn(arp.value);
      if (arp.value.operation === 'request' && arp.value.targetIp === this.address?.address)
        this.sendFrame(
          arp.value.senderMac,
          ETHERTYPE.arp,
          encodeArp(arpReply(arp.value, this.setup.mac)),
          frame.mark,
        );
      return;
    }
    if (type !== ETHERTYPE.ipv4) return;
    const packet = decodeIpv4(payload);
    if (!packet.ok) return;
    const read = readPacket(packet.value);
    if (read.inner.protocol === 'udp' && read.inner.udp.destinationPort === DHCP_CLIENT_PORT) {
      const message = decodeDhcp(read.inner.udp.data);
      if (message.ok) this.dhcp?.receive(message.value);
      return;
    }
    if (packet.value.destination !== this.address?.address) return;
    this.accept(read, frame.mark);
  }

  private accept(read: ReadPacket, mark?: number): void {
    this.trace(mark, { node: this.name, stage: 'received', code: 'received', packet: read.packet });
    this.endpoints.deliver(read, { mark });
  }
}

/** The address of a lease with the length of its mask; a mask with holes counts as a host's. */
export const leasePrefix = (lease: Lease): Prefix<Ipv4> => ({
  address: lease.address,
  length: lengthOfMask(lease.mask) ?? 32,
});
