/**
 * A router inside, or a switch that routes: it forwards IPv4 by its networks, its routes and its gateway (RFC 1812 §5),
 * lends addresses on its sides, and neither translates nor forbids anything. It sends no redirects.
 */
import { contains, isIpv4, isUnrouted } from '#core/addr';
import type { Ip, Ipv4, Mac, Services } from '#core/addr';
import { wayInside } from '#core/site';
import type { InsideRouter, RouterLeg } from '#core/site';
import {
  BROADCAST,
  ETHERTYPE,
  UNREACHABLE,
  decodeDhcp,
  decodeEthernet,
  encodeFrame,
  encodeIp,
  quoteOf,
} from '#core/wire';
import type { Dhcp, Icmp, IpPacket } from '#core/wire';
import { DhcpRelay, relayed } from './dhcp-relay';
import { DhcpServer, Patient } from './dhcp-server';
import { Endpoints } from './endpoints';
import type { HostSide, SendOptions } from './endpoints';
import { DHCP_SERVER_PORT, EVERYONE, dhcpPacket } from './host';
import { Nic } from './link';
import type { Frame, Machine } from './link';
import { icmpPacket } from './packet';
import type { ReadPacket } from './packet';
import { Segment } from './segment';
import type { Milliseconds, Scheduler } from './scheduler';
import type { Step, StepCode, Tracer } from './trace';

/** One side of it. */
interface Side {
  readonly leg: RouterLeg;
  readonly nic: Nic;
  readonly segment: Segment;
  readonly server?: DhcpServer;
  readonly relay?: DhcpRelay;
}

/** It only answers pings. */
const NOTHING: Services = [];

export class Router implements Machine, HostSide {
  readonly endpoints: Endpoints;
  private readonly sides: readonly Side[];
  private readonly patient: Patient;

  constructor(
    readonly setup: InsideRouter,
    /** Addresses in use on a leg's segment, which its server does not lend. */
    fixed: (leg: RouterLeg) => readonly Ipv4[],
    private readonly scheduler: Scheduler,
    private readonly trace: Tracer,
    /** How long its DHCP server looks whether anybody has an address, before it offers that. */
    probing: Milliseconds = 0,
  ) {
    this.patient = new Patient(scheduler, probing);
    this.endpoints = new Endpoints(scheduler, this);
    this.sides = setup.legs.map((leg) => this.sideOf(leg, fixed(leg)));
  }

  get name(): string {
    return this.setup.name;
  }

  get silent(): boolean {
    return this.setup.silent;
  }

  listens(): Services {
    return NOTHING;
  }

  /** The socket of a leg. */
  nicOf(leg: RouterLeg): Nic | undefined {
    return this.sides.find((s) => s.leg === leg)?.nic;
  }

  private sideOf(leg: RouterLeg, fixed: readonly Ipv4[]): Side {
    const nic = new Nic(this, leg.name);
    const { address: own, pool, mac } = leg;
    const segment = new Segment(this.scheduler, mac, {
      isRouter: true,
      holds: (address) => address === own.address,
      askFrom: () => own.address,
      speaks6: () => false,
      heardRouter: () => {},
      emit: (destination, type, payload, mark) =>
        nic.send({ bytes: encodeFrame({ destination, source: mac, type }, payload), mark }),
    });
    const names = pool?.names.filter(isIpv4) ?? [];
    const server =
      pool &&
      new DhcpServer({
        address: own.address,
        pools: [pool],
        keeps: [],
        taken: new Set([own.address, ...fixed]),
        terms: (address) =>
          contains(own, address)
            ? { length: own.length, gateway: (pool.gateway as Ipv4 | undefined) ?? own.address, names }
            : undefined,
      });
    const relay = leg.relays.length ? new DhcpRelay(own.address, leg.relays, leg.name) : undefined;
    return { leg, nic, segment, server, relay };
  }

  private get addresses(): readonly Ip[] {
    return this.setup.legs.map((l) => l.address.address);
  }

  carrierChanged(nic: Nic): void {
    this.sides.find((s) => s.nic === nic)?.segment.neighbours.clear();
  }

  receive(nic: Nic, frame: Frame): void {
    const side = this.sides.find((s) => s.nic === nic);
    const ethernet = decodeEthernet(frame.bytes);
    if (!side || !ethernet.ok || (ethernet.value.vlan && ethernet.value.vlan.id !== 0)) return;
    if (!side.segment.takes(ethernet.value.destination)) return;
    const read = side.segment.receive(ethernet.value, frame.mark);
    if (!read || !isIpv4(read.packet.source)) return;
    const { packet, inner } = read;
    if (inner.protocol === 'udp' && inner.udp.destinationPort === DHCP_SERVER_PORT) {
      const message = decodeDhcp(inner.udp.data);
      if (message.ok && this.relayed(side, packet, message.value)) return;
      if (packet.destination === EVERYONE || packet.destination === side.leg.address.address) {
        if (message.ok) this.lend(side, message.value, packet.source as Ipv4);
        return;
      }
    }
    if (ethernet.value.destination === BROADCAST) return;
    if (this.addresses.includes(packet.destination)) this.endpoints.deliver(read, { mark: frame.mark });
    else this.forward(side, read, frame.mark);
  }

  /** Asks servers elsewhere for a client, or gives the client what a server answered. Returns whether it was that. */
  private relayed(arrival: Side, packet: IpPacket, message: Dhcp): boolean {
    const made = relayed(arrival, () => this.sides, packet, message);
    if (!made) return false;
    if ('toClient' in made) this.hand(made.side, made.destination, made.toClient);
    else for (const asked of made.toServers) this.onward(asked, undefined);
    return true;
  }

  private lend(side: Side, message: Dhcp, client: Ipv4): void {
    if (!side.server || message.reply) return;
    const { server } = side;
    this.patient.take(message, () => {
      const answer = server.answer(message, this.scheduler.now);
      if (!answer) return;
      const unicast = client !== 0 && answer.type !== 'nak';
      const packet = dhcpPacket(answer, side.leg.address.address, unicast ? client : EVERYONE);
      this.hand(side, unicast ? message.clientMac : BROADCAST, packet);
    });
  }

  /** Sends a packet to somebody whose MAC address is known. */
  private hand({ nic, leg }: Side, destination: Mac, packet: IpPacket): void {
    nic.send({ bytes: encodeFrame({ destination, source: leg.mac, type: ETHERTYPE.ipv4 }, packet) });
  }

  private forward(side: Side, { packet }: ReadPacket, mark?: number): void {
    if (isUnrouted(packet.destination)) return;
    if (packet.ttl <= 1) {
      this.step(mark, 'route', 'ttl', packet, { interface: side.leg.name });
      this.tell(packet, { type: 'time-exceeded', code: 0, about: quoteOf(encodeIp(packet)) });
      return;
    }
    this.onward({ ...packet, ttl: packet.ttl - 1 }, mark, packet);
  }

  /** Sends a packet on its way; `from` is the packet as it came, where somebody is to be told of a failure. */
  private onward(packet: IpPacket, mark: number | undefined, from?: IpPacket): void {
    const { destination } = packet;
    const way = isIpv4(destination) ? wayInside(this.setup, destination) : undefined;
    const out = way && this.sides.find((s) => s.leg === way.leg);
    if (!way || !out) {
      this.step(mark, 'route', 'router-no-route', packet);
      if (from) this.unreachable(from, UNREACHABLE.net);
      return;
    }
    const hop = way.via ?? destination;
    if (from) this.step(mark, 'route', 'router-forwards', packet, { interface: out.leg.name, hop });
    const lost = () => {
      this.step(mark, 'neighbour', 'no-neighbour', packet, { interface: out.leg.name, hop });
      if (from) this.unreachable(from, UNREACHABLE.host);
    };
    out.segment.send(packet, hop, lost, mark);
  }

  private unreachable(packet: IpPacket, code: number): void {
    this.tell(packet, { type: 'unreachable', code, mtu: 0, about: quoteOf(encodeIp(packet)) });
  }

  /** Tells the sender of a packet what became of it, from the address that is nearest to them (RFC 1812 §4.3.2.4). */
  private tell(packet: IpPacket, icmp: Icmp): void {
    const source = this.sourceFor(packet.source);
    if (source !== undefined) this.send(icmpPacket(icmp, source, packet.source), {});
  }

  sourceFor(destination: Ip): Ip | undefined {
    return isIpv4(destination) ? wayInside(this.setup, destination)?.leg.address.address : undefined;
  }

  send(packet: IpPacket, { mark }: SendOptions): void {
    this.onward(packet, mark);
  }

  private step(
    mark: number | undefined,
    stage: Step['stage'],
    code: StepCode,
    packet: IpPacket,
    more: Pick<Step, 'interface' | 'hop'> = {},
  ): void {
    this.trace(mark, { node: this.name, stage, code, packet, ...more });
  }
}
