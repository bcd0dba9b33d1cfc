/**
 * The provider's end of a circuit. It is not kind: it answers ARP only for its gateway, drops special-purpose
 * sources unless it translates, sends to its block on-link or by its routes, and remembers MAC addresses.
 */
import { contains } from '#core/addr';
import type { Ipv4, Mac, Prefix } from '#core/addr';
import { providerDrops } from '#core/semantics';
import type { Circuit } from '#core/site';
import { macFor } from '#core/site';
import {
  BROADCAST,
  ETHERTYPE,
  arpReply,
  decodeArp,
  decodeDhcp,
  decodeEthernet,
  decodeIpv4,
  encodeArp,
  encodeEthernet,
  encodeIpv4,
} from '#core/wire';
import type { Ipv4Packet } from '#core/wire';
import { cloudFrame, packetIn, serveNames } from './cloud';
import { DhcpServer } from './dhcp-server';
import { Endpoints } from './endpoints';
import type { HostSide, SendOptions } from './endpoints';
import { FlowTable, fromSource, translated } from './flows';
import { DHCP_SERVER_PORT, dhcpPacket } from './host';
import { Nic } from './link';
import type { Frame, Machine } from './link';
import { Neighbours } from './neighbours';
import { readPacket, withEnds } from './packet';
import type { Scheduler } from './scheduler';
import type { Tracer } from './trace';

/** Lease time of a provider's pool, seconds. */
const PROVIDER_LEASE = 6 * 3600;

export class Provider implements Machine, HostSide {
  /** Towards the customer. */
  readonly nic: Nic;
  /** Towards the internet. */
  readonly far: Nic;
  readonly endpoints: Endpoints;
  readonly dhcp?: DhcpServer;
  /** Nothing behind the gateway answers. */
  dead: boolean;
  private readonly mac: Mac;
  private readonly neighbours: Neighbours;
  private readonly flows = new FlowTable<undefined>();

  constructor(
    readonly circuit: Circuit,
    names: ReadonlyMap<string, readonly Ipv4[]>,
    private readonly scheduler: Scheduler,
    private readonly trace: Tracer,
  ) {
    this.nic = new Nic(this, 'line');
    this.nic.on = !circuit.down;
    this.far = new Nic(this, 'far');
    this.mac = macFor(`circuit ${circuit.name}`);
    this.dead = circuit.deadBeyond;
    this.endpoints = new Endpoints(scheduler, this);
    this.neighbours = new Neighbours(scheduler, (target, mark) => this.askFor(target, mark));
    if (circuit.gateway !== undefined && circuit.names.includes(circuit.gateway))
      serveNames(this.endpoints, names);
    const { lends, prefix, gateway } = circuit;
    if (lends && prefix && gateway !== undefined)
      this.dhcp = new DhcpServer({
        address: gateway,
        pools: [{ ranges: [lends], seconds: PROVIDER_LEASE }],
        keeps: [],
        taken: new Set([gateway]),
        terms: (address) =>
          contains(prefix, address)
            ? {
                length: prefix.length,
                gateway,
                names: circuit.names.filter((n): n is Ipv4 => typeof n === 'number'),
              }
            : undefined,
      });
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

  sourceFor(): Ipv4 | undefined {
    return this.circuit.gateway;
  }

  private askFor(target: Ipv4, mark?: number): void {
    const senderIp = this.circuit.gateway;
    if (senderIp === undefined) return;
    this.line(
      BROADCAST,
      ETHERTYPE.arp,
      encodeArp({
        operation: 'request',
        senderMac: this.mac,
        senderIp,
        targetMac: 0 as Mac,
        targetIp: target,
      }),
      mark,
    );
  }

  private line(destination: Mac, type: number, payload: Uint8Array, mark?: number): void {
    this.nic.send({ bytes: encodeEthernet({ destination, source: this.mac, type, payload }), mark });
  }

  receive(nic: Nic, frame: Frame): void {
    if (nic === this.far) this.fromInternet(frame);
    else this.fromCustomer(frame);
  }

  carrierChanged(): void {
    this.neighbours.clear();
  }

  private fromCustomer(frame: Frame): void {
    const ethernet = decodeEthernet(frame.bytes);
    if (!ethernet.ok || ethernet.value.vlan) return;
    const { destination, type, payload } = ethernet.value;
    if (destination !== BROADCAST && destination !== this.mac) return;
    if (type === ETHERTYPE.arp) {
      const arp = decodeArp(payload);
      if (!arp.ok) return;
      this.neighbours.learn(arp.value);
      const { gateway } = this.circuit;
      if (arp.value.operation === 'request' && gateway !== undefined && arp.value.targetIp === gateway)
        this.line(arp.value.senderMac, ETHERTYPE.arp, encodeArp(arpReply(arp.value, this.mac)), frame.mark);
      return;
    }
    if (type !== ETHERTYPE.ipv4) return;
    const packet = decodeIpv4(payload);
    if (!packet.ok) return;
    const read = readPacket(packet.value);
    if (read.inner.protocol === 'udp' && read.inner.udp.destinationPort === DHCP_SERVER_PORT) {
      this.serveDhcp(read.inner.udp.data, packet.value.source);
      return;
    }
    if (packet.value.destination === this.circuit.gateway) {
      this.endpoints.deliver(read, { mark: frame.mark });
      return;
    }
    this.outward(packet.value, frame.mark);
  }

  private serveDhcp(data: Uint8Array, source: Ipv4): void {
    const message = decodeDhcp(data);
    const { gateway } = this.circuit;
    if (!this.dhcp || !message.ok || message.value.reply || gateway === undefined) return;
    const answer = this.dhcp.answer(message.value, this.scheduler.now);
    if (!answer) return;
    const unicast = source !== 0 && answer.type !== 'nak';
    this.line(
      unicast ? message.value.clientMac : BROADCAST,
      ETHERTYPE.ipv4,
      encodeIpv4(dhcpPacket(answer, gateway, unicast ? source : (0xffffffff as Ipv4))),
    );
  }

  /** From the customer to the internet. */
  private outward(packet: Ipv4Packet, mark?: number): void {
    const step = (code: Parameters<Tracer>[1]['code'], shown?: Ipv4) =>
      this.trace(mark, { node: this.name, stage: 'provider', code, packet, shown });
    if (this.dead) {
      step('provider-dead');
      return;
    }
    const show = this.circuit.translatesTo;
    if (show === undefined) {
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
    if (this.circuit.translatesTo !== undefined) {
      const read = readPacket(packet);
      const found = this.flows.find('far', packet.protocol, read.ends, this.scheduler.now);
      if (!found) return;
      found.flow.lastSeen = this.scheduler.now;
      packet = withEnds(read, translated(found));
    }
    this.send({ ...packet, ttl: packet.ttl - 1 }, { mark: frame.mark });
  }

  /** Sends a packet to the customer's side. */
  send(packet: Ipv4Packet, options: SendOptions): void {
    const { prefix, routes } = this.circuit;
    const { mark } = options;
    const onLink = prefix && contains(prefix as Prefix, packet.destination);
    const hop = onLink ? packet.destination : routes.find((r) => contains(r.prefix, packet.destination))?.via;
    if (hop === undefined) {
      // Its own answers to hosts elsewhere go the other way.
      if (packet.source === this.circuit.gateway) this.far.send(cloudFrame(packet, mark));
      else this.trace(mark, { node: this.name, stage: 'provider', code: 'provider-no-route', packet });
      return;
    }
    this.neighbours.resolve(
      hop,
      (mac) => {
        if (mac === undefined)
          this.trace(mark, { node: this.name, stage: 'neighbour', code: 'no-neighbour', packet, hop });
        else this.line(mac, ETHERTYPE.ipv4, encodeIpv4(packet), mark);
      },
      mark,
    );
  }
}
