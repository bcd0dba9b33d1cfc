/**
 * The provider's end of a circuit. It is not kind: it answers ARP only for its gateway, drops special-purpose
 * sources unless it translates, sends to its block on-link or by its routes, and remembers MAC addresses. A line is
 * plain Ethernet, or PPPoE; over either it may speak IPv6.
 */
import { contains, isIpv4, isLinkLocal } from '#core/addr';
import type { Ip, Ipv4, Ipv6, Mac, Prefix } from '#core/addr';
import { providerDrops } from '#core/semantics';
import type { Circuit } from '#core/site';
import { circuitMac, speaks6 } from '#core/site';
import {
  ALL_NODES,
  BROADCAST,
  ETHERTYPE,
  UNREACHABLE,
  decodeDhcp,
  decodeDhcpv6,
  decodeEthernet,
  decodeIp,
  encodeDhcpv6,
  encodeFrame,
  encodeIp,
  encodeNd,
  encodeUdp,
  etherTypeOf,
  ipPacket,
  quoteOf,
} from '#core/wire';
import type { IpPacket, Nd } from '#core/wire';
import type { Seeded } from '#core/base';
import { Advertiser, PREFIX_PREFERRED, PREFIX_VALID, ROUTER_LIFETIME } from './advertiser';
import { cloudFrame, packetIn, serveNames } from './cloud';
import { DhcpServer } from './dhcp-server';
import { Dhcpv6Server } from './dhcpv6-server';
import { Endpoints } from './endpoints';
import type { HostSide, SendOptions } from './endpoints';
import { FlowTable, fromSource, reversed, translated } from './flows';
import { DHCP_SERVER_PORT, EVERYONE, dhcpPacket } from './host';
import { Nic } from './link';
import type { Frame, Machine } from './link';
import { icmpPacket, readPacket, withEnds, withQuote } from './packet';
import type { ReadPacket } from './packet';
import { PPPOE_MTU } from './ppp';
import { PppoeServer } from './pppoe';
import { Segment, ndOf, ndPacket } from './segment';
import type { RouterMessage, SegmentSide } from './segment';
import type { Scheduler } from './scheduler';
import type { Tracer } from './trace';

/** Lease time of a provider's pool, seconds. */
const PROVIDER_LEASE = 6 * 3600;
export const DHCPV6_SERVER_PORT = 547;
export const DHCPV6_CLIENT_PORT = 546;

export class Provider implements Machine, HostSide, SegmentSide {
  /** Towards the customer. */
  readonly nic: Nic;
  /** Towards the internet. */
  readonly far: Nic;
  readonly endpoints: Endpoints;
  readonly dhcp?: DhcpServer;
  readonly isRouter = true;
  /** Nothing behind the gateway answers. */
  dead: boolean;
  private readonly mac: Mac;
  private readonly segment: Segment;
  private readonly pppoe?: PppoeServer;
  private readonly advertiser?: Advertiser;
  private readonly dhcpv6?: Dhcpv6Server;
  private readonly flows = new FlowTable<undefined>();
  /** Link-local addresses of who was delegated a prefix, by MAC. */
  private readonly customers = new Map<Mac, Ipv6>();

  constructor(
    readonly circuit: Circuit,
    names: ReadonlyMap<string, readonly Ip[]>,
    private readonly scheduler: Scheduler,
    chance: Seeded,
    private readonly trace: Tracer,
  ) {
    this.nic = new Nic(this, 'line');
    this.nic.on = !circuit.down;
    this.far = new Nic(this, 'far');
    this.mac = circuitMac(circuit.name);
    this.dead = circuit.deadBeyond;
    this.endpoints = new Endpoints(scheduler, this);
    this.segment = new Segment(scheduler, this.mac, this);
    const own: (Ip | undefined)[] = [circuit.gateway, circuit.gateway6];
    if (own.some((a) => a !== undefined && circuit.names.includes(a))) serveNames(this.endpoints, names);
    const { lends, prefix, gateway, session } = circuit;
    const names4 = circuit.names.filter(isIpv4);
    if (lends && prefix && gateway !== undefined)
      this.dhcp = new DhcpServer({
        address: gateway,
        pools: [{ ranges: [lends], seconds: PROVIDER_LEASE }],
        keeps: [],
        taken: new Set([gateway]),
        terms: (address) =>
          contains(prefix, address) ? { length: prefix.length, gateway, names: names4 } : undefined,
      });
    if (session)
      this.pppoe = new PppoeServer(
        scheduler,
        chance,
        {
          name: circuit.name,
          login: {
            as: 'judge',
            // A secret that was left out of an export opens nothing.
            secretOf: (user) => (user === session.user ? session.secret || undefined : undefined),
            anyone: circuit.supposed,
          },
          terms: {
            address: session.peer,
            gives: session.gives,
            names: names4,
            identifier: speaks6(circuit) ? this.segment.linkLocal & 0xffffffffffffffffn : undefined,
          },
        },
        (destination, type, payload, mark) => this.emit(destination, type, payload, mark),
        (type, payload, mark) => {
          const packet = decodeIp(type, payload);
          if (packet) this.fromLine(readPacket(packet), mark);
        },
        () => this.advertiser?.speak(),
      );
    if (!speaks6(circuit)) return;
    const names6 = circuit.names.filter((n): n is Ipv6 => !isIpv4(n));
    this.dhcpv6 = new Dhcpv6Server({
      mac: this.mac,
      lends: circuit.lends6,
      delegates: circuit.delegates6,
      names: names6,
      seconds: PROVIDER_LEASE,
    });
    const prefixOf = (p: Prefix<Ipv6> | undefined, autonomous: boolean) =>
      p
        ? [{ prefix: p, onLink: !session, autonomous, valid: PREFIX_VALID, preferred: PREFIX_PREFERRED }]
        : [];
    const content: Extract<Nd, { type: 'router' }> = {
      type: 'router',
      managed: !!circuit.lends6,
      other: !!circuit.delegates6,
      lifetime: ROUTER_LIFETIME,
      mac: session ? undefined : this.mac,
      prefixes: [
        ...prefixOf(circuit.block6, circuit.block6?.length === 64),
        ...(circuit.lends6?.address === circuit.block6?.address ? [] : prefixOf(circuit.lends6, false)),
      ],
      names: names6,
    };
    this.advertiser = new Advertiser(
      scheduler,
      () => content,
      (message) => this.toLine(ndPacket(encodeNd(message), this.segment.linkLocal, ALL_NODES), ALL_NODES),
    );
  }

  get name(): string {
    return this.circuit.name;
  }

  get silent(): boolean {
    return this.circuit.silent;
  }

  listens(): [] {
    return [];
  }

  sourceFor(destination: Ip): Ip | undefined {
    if (isIpv4(destination)) return this.circuit.gateway;
    return isLinkLocal(destination) ? this.segment.linkLocal : this.circuit.gateway6;
  }

  /** Begins to advertise, where it speaks IPv6. */
  start(): void {
    this.advertiser?.start();
  }

  /** Delegates another prefix from now on; undefined where it delegates none. */
  renumber(): Prefix<Ipv6> | undefined {
    return this.dhcpv6?.renumber();
  }

  // ---- the segment

  speaks6(): boolean {
    return !!this.dhcpv6;
  }

  holds(address: Ip): boolean {
    return (
      !this.pppoe &&
      (address === this.circuit.gateway || (this.speaks6() && address === this.circuit.gateway6))
    );
  }

  askFrom(): Ipv4 | undefined {
    return this.circuit.gateway;
  }

  heardRouter(message: RouterMessage): void {
    if (message.type === 'router-ask') this.advertiser?.speak();
  }

  emit(destination: Mac, type: number, payload: Uint8Array | IpPacket, mark?: number): void {
    this.nic.send({ bytes: encodeFrame({ destination, source: this.mac, type }, payload), mark });
  }

  receive(nic: Nic, frame: Frame): void {
    if (nic === this.far) this.fromInternet(frame);
    else this.fromCustomer(frame);
  }

  carrierChanged(nic: Nic): void {
    this.segment.neighbours.clear();
    if (nic === this.nic && nic.carrier) this.advertiser?.speak();
  }

  private fromCustomer(frame: Frame): void {
    const ethernet = decodeEthernet(frame.bytes);
    if (!ethernet.ok || ethernet.value.vlan) return;
    const { destination, source, type, payload } = ethernet.value;
    if (!this.segment.takes(destination)) return;
    if (type === ETHERTYPE.pppoeDiscovery || type === ETHERTYPE.pppoeSession) {
      this.pppoe?.receive(source, type, payload, frame.mark);
      return;
    }
    // A line that sells sessions takes nothing else.
    if (this.pppoe) return;
    const read = this.segment.receive(ethernet.value, frame.mark);
    if (read) this.fromLine(read, frame.mark);
  }

  /** Takes a packet from the customer's side, however it was carried. */
  private fromLine(read: ReadPacket, mark?: number): void {
    const { packet, inner } = read;
    const nd = ndOf(read);
    if (nd) {
      if (nd.type === 'router-ask') this.heardRouter(nd);
      return;
    }
    if (inner.protocol === 'udp' && inner.udp.destinationPort === DHCP_SERVER_PORT) {
      this.serveDhcp(inner.udp.data, packet.source);
      return;
    }
    if (inner.protocol === 'udp' && inner.udp.destinationPort === DHCPV6_SERVER_PORT) {
      this.serveDhcpv6(inner.udp.data, packet.source);
      return;
    }
    const { gateway, gateway6 } = this.circuit;
    const mine =
      packet.destination === gateway ||
      (this.speaks6() && (packet.destination === gateway6 || packet.destination === this.segment.linkLocal));
    if (mine) this.endpoints.deliver(read, { mark });
    else if (isIpv4(packet.source) || this.speaks6()) this.outward(packet, mark);
  }

  private serveDhcp(data: Uint8Array, source: Ip): void {
    const message = decodeDhcp(data);
    const { gateway } = this.circuit;
    if (!this.dhcp || !message.ok || message.value.reply || gateway === undefined || !isIpv4(source)) return;
    const answer = this.dhcp.answer(message.value, this.scheduler.now);
    if (!answer) return;
    const unicast = source !== 0 && answer.type !== 'nak';
    const packet = dhcpPacket(answer, gateway, unicast ? source : EVERYONE);
    this.emit(unicast ? message.value.clientMac : BROADCAST, ETHERTYPE.ipv4, packet);
  }

  private serveDhcpv6(data: Uint8Array, source: Ip): void {
    const message = decodeDhcpv6(data);
    if (!this.dhcpv6 || !message.ok || isIpv4(source)) return;
    const answer = this.dhcpv6.answer(message.value, this.scheduler.now);
    if (!answer) return;
    if (message.value.client !== undefined) this.customers.set(message.value.client, source);
    const payload = encodeUdp(
      {
        sourcePort: DHCPV6_SERVER_PORT,
        destinationPort: DHCPV6_CLIENT_PORT,
        data: encodeDhcpv6(answer),
      },
      this.segment.linkLocal,
      source,
    );
    this.toLine(
      ipPacket({ source: this.segment.linkLocal, destination: source, protocol: 17, payload }),
      source,
    );
  }

  /** Sends a packet down the line to a next hop: in a frame, or in the session. */
  private toLine(packet: IpPacket, hop: Ip, mark?: number): void {
    if (this.pppoe) {
      const bytes = encodeIp(packet);
      if (bytes.length > PPPOE_MTU) this.tooBig(packet, mark);
      else this.pppoe.link?.send(etherTypeOf(packet), bytes, mark);
      return;
    }
    const lost = () =>
      this.trace(mark, { node: this.name, stage: 'neighbour', code: 'no-neighbour', packet, hop });
    this.segment.send(packet, hop, lost, mark);
  }

  private tooBig(packet: IpPacket, mark?: number): void {
    this.trace(mark, {
      node: this.name,
      stage: 'departure',
      code: 'too-big',
      packet,
      interface: 'the line',
      mtu: PPPOE_MTU,
    });
    const source = this.sourceFor(packet.source);
    if (source === undefined) return;
    const about = quoteOf(encodeIp(packet));
    const code = UNREACHABLE.fragmentationNeeded;
    const error = icmpPacket({ type: 'unreachable', code, mtu: PPPOE_MTU, about }, source, packet.source);
    this.far.send(cloudFrame(error, mark));
  }

  /** From the customer to the internet. */
  private outward(packet: IpPacket, mark?: number): void {
    const step = (code: Parameters<Tracer>[1]['code'], shown?: Ip) =>
      this.trace(mark, { node: this.name, stage: 'provider', code, packet, shown });
    if (this.dead) {
      step('provider-dead');
      return;
    }
    const show = this.circuit.translatesTo;
    if (show === undefined || !isIpv4(packet.source)) {
      if (providerDrops(packet.source)) step('provider-drops-private');
      else {
        step('provider-forwards');
        this.far.send(cloudFrame({ ...packet, ttl: packet.ttl - 1 }, mark));
      }
      return;
    }
    const read = readPacket(packet);
    const { now } = this.scheduler;
    const known = this.flows.find('', packet.protocol, read.ends, now);
    const flow =
      known?.flow ??
      this.flows.add(
        packet.protocol,
        read.ends,
        fromSource(read.ends, show),
        { forward: '', back: 'far' },
        undefined,
        now,
      );
    if (!flow) return;
    flow.lastSeen = now;
    step('provider-translates', show);
    const out = withEnds(read, translated(known ?? { flow, direction: 'forward' }));
    this.far.send(cloudFrame({ ...out, ttl: packet.ttl - 1 }, mark));
  }

  /** From the internet to the customer: on-link for its block, by its routes for what is behind. */
  private fromInternet(frame: Frame): void {
    let packet = packetIn(frame);
    if (!packet || this.dead) return;
    if (this.circuit.translatesTo !== undefined && isIpv4(packet.source)) {
      const read = readPacket(packet);
      // An error is about a packet of a flow, and is translated as that flow is (RFC 5508 §4.2).
      const { protocol } = read.about?.packet ?? packet;
      const ends = read.about ? reversed(read.about.ends) : read.ends;
      const found = this.flows.find('far', protocol, ends, this.scheduler.now);
      if (!found) return;
      found.flow.lastSeen = this.scheduler.now;
      const back = translated(found);
      packet = read.about
        ? withQuote(read, packet.source, back.destination, reversed(back))
        : withEnds(read, back);
    }
    this.send({ ...packet, ttl: packet.ttl - 1 }, { mark: frame.mark });
  }

  /** The next hop on the customer's side, or undefined where the address is not there. */
  private hopFor(destination: Ip): Ip | undefined {
    const { prefix, block6, lends6, session, routes, beside } = this.circuit;
    const onLink = [prefix, block6, lends6, ...beside].some((net) => net && contains(net, destination));
    if (onLink || destination === session?.gives || (!isIpv4(destination) && isLinkLocal(destination)))
      return destination;
    const routed = routes.find((r) => contains(r.prefix, destination))?.via;
    if (routed !== undefined) return routed;
    const held = this.dhcpv6?.delegated(this.scheduler.now).find((d) => contains(d.prefix, destination));
    return held && this.customers.get(held.mac);
  }

  /** Sends a packet to the customer's side. */
  send(packet: IpPacket, options: SendOptions): void {
    const { mark } = options;
    const hop = this.hopFor(packet.destination);
    if (hop === undefined) {
      // Its own answers to hosts elsewhere go the other way.
      const own = packet.source === this.circuit.gateway || packet.source === this.circuit.gateway6;
      if (own) this.far.send(cloudFrame(packet, mark));
      else this.trace(mark, { node: this.name, stage: 'provider', code: 'provider-no-route', packet });
      return;
    }
    this.toLine(packet, hop, mark);
  }
}
