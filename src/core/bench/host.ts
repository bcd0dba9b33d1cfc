/**
 * An ordinary computer: one socket, addresses of its own, by DHCP or from what routers advertise, a gateway, and ends
 * of conversations.
 */
import { contains, isGroup, isIpv4, isLinkLocal, lengthOfMask, prefixEquals } from '#core/addr';
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
import { poolOf } from '#core/site';
import type { Interface, LentPool } from '#core/site';
import { Autoconf } from './autoconf';
import { DhcpClient } from './dhcp-client';
import type { Lease } from './dhcp-client';
import { DhcpServer, Patient, toldBeside } from './dhcp-server';
import { Endpoints } from './endpoints';
import type { HostSide, SendOptions } from './endpoints';
import { Nic } from './link';
import type { Frame, Machine } from './link';
import { Segment } from './segment';
import type { RouterMessage, SegmentSide } from './segment';
import type { Milliseconds, Scheduler } from './scheduler';
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
  /** Of the DHCP server that runs on it. */
  readonly lends: readonly LentPool[];
  readonly options: Interface['options'];
  readonly reserved: Interface['reserved'];
}

export const DHCP_SERVER_PORT = 67;
export const DHCP_CLIENT_PORT = 68;
const NOWHERE = 0 as Ipv4;
export const EVERYONE = 0xffffffff as Ipv4;

/** A DHCP message as the packet that carries it; servers and relays speak from one port to the same (`between`). */
export function dhcpPacket(message: Dhcp, source: Ipv4, destination: Ipv4, between?: number): Ipv4Packet {
  const [server, client] = [between ?? DHCP_SERVER_PORT, between ?? DHCP_CLIENT_PORT];
  const ports = message.reply
    ? { sourcePort: server, destinationPort: client }
    : { sourcePort: client, destinationPort: server };
  return ipv4Packet({
    source,
    destination,
    protocol: 17,
    payload: encodeUdp({ ...ports, data: encodeDhcp(message) }, source, destination),
  });
}

/** The DHCP server of a station for one network: its own, or one that relays ask it for. */
class LendingIn {
  private readonly server: DhcpServer;
  /** Who asked last for clients of a network elsewhere: their way out, where the pool says no other. */
  private relay?: Ipv4;

  constructor(
    readonly network: Prefix<Ipv4>,
    { lends, gateway, options, reserved }: HostSetup,
    own: Prefix<Ipv4>,
    fixed: readonly Ipv4[],
  ) {
    const pools = lends.filter((p) => prefixEquals(p.network, network));
    const near = contains(network, own.address);
    this.server = new DhcpServer({
      address: own.address,
      pools,
      keeps: reserved.flatMap(({ address, mac }) =>
        isIpv4(address) && contains(network, address) ? [{ address, mac }] : [],
      ),
      taken: new Set([own.address, ...fixed]),
      terms: (address) => {
        if (!contains(network, address)) return undefined;
        const pool = poolOf(pools, address) ?? pools[0]!;
        const said = pool.gateway as Ipv4 | undefined;
        return {
          length: network.length,
          gateway: said ?? (near ? gateway : this.relay),
          names: pool.names.filter(isIpv4),
          others: toldBeside({ options }, address),
        };
      },
    });
  }

  /** The answer to a message of a client or of a relay. */
  answer(message: Dhcp, now: Milliseconds): Dhcp | undefined {
    this.relay = message.relay ?? this.relay;
    return this.server.answer(message, now);
  }
}

export class Host implements Machine, HostSide, SegmentSide {
  readonly nic: Nic;
  readonly endpoints: Endpoints;
  readonly dhcp?: DhcpClient;
  readonly isRouter = false;
  private readonly segment: Segment;
  private readonly autoconf: Autoconf;
  /** One for each network that it lends in. */
  private readonly servers: readonly LendingIn[];
  private readonly patient: Patient;

  constructor(
    readonly setup: HostSetup,
    /** Addresses in use in a network, which its server does not lend. */
    fixed: (network: Prefix<Ipv4>) => readonly Ipv4[],
    private readonly scheduler: Scheduler,
    chance: Seeded,
    private readonly trace: Tracer,
    /** How long its DHCP server looks whether anybody has an address, before it offers that. */
    probing: Milliseconds = 0,
  ) {
    this.patient = new Patient(scheduler, probing);
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
    const own = setup.address;
    const networks = own ? setup.lends.map((p) => p.network) : [];
    this.servers = networks
      .filter((n, i) => networks.findIndex((m) => prefixEquals(m, n)) === i)
      .map((network) => new LendingIn(network, setup, own!, fixed(network)));
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

  /** Answers a client on its own segment, or the relay that asks for one, by whose address it knows the network. */
  private lend(message: Dhcp, client: Ipv4): void {
    const own = this.address?.address;
    if (message.reply || own === undefined) return;
    const { relay, clientIp } = message;
    // Who renews asks from the address that it has, without a relay.
    const asker = relay ?? (clientIp || own);
    const here = this.servers.find((s) => contains(s.network, asker));
    if (!here) return;
    this.patient.take(message, () => {
      const answer = here.answer(message, this.scheduler.now);
      if (!answer) return;
      if (relay !== undefined) this.send(dhcpPacket(answer, own, relay, DHCP_SERVER_PORT), {});
      else if (client !== 0 && answer.type !== 'nak') this.send(dhcpPacket(answer, own, client), {});
      else this.segment.send(dhcpPacket(answer, own, EVERYONE), EVERYONE, () => {});
    });
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
    if (!this.servers.length && isOthersDhcp(frame.bytes, this.setup.mac)) return;
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
    if (inner.protocol === 'udp' && inner.udp.destinationPort === DHCP_SERVER_PORT && this.servers.length) {
      const message = decodeDhcp(inner.udp.data);
      if (message.ok) {
        this.lend(message.value, packet.source as Ipv4);
        return;
      }
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
