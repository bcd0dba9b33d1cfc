/**
 * The edge box, one packet at a time: frames in at its ports, the steps of what it does with a packet in their
 * order, frames out. What it decides comes from `semantics`; this file is when and in what bytes.
 */
import { contains, isIpv4 } from '#core/addr';
import type { Ipv4, Mac, Prefix, Services } from '#core/addr';
import {
  checkSource,
  compileRules,
  decideAnswer,
  decideLeave,
  decidePassage,
  lookUp,
  routesOf,
} from '#core/semantics';
import type { InterfaceState, LeaveRule, Route, Rules, States } from '#core/semantics';
import { foresee, interfaceMac } from '#core/site';
import type { Interface, Learned, Site, Wiring } from '#core/site';
import {
  BROADCAST,
  ETHERTYPE,
  UNREACHABLE,
  arpReply,
  decodeArp,
  decodeDhcp,
  decodeEthernet,
  decodeIpv4,
  encodeArp,
  encodeEthernet,
  encodeIcmp,
  encodeIpv4,
  encodeTcp,
  ipv4Packet,
  quoteOf,
} from '#core/wire';
import type { Dhcp, Icmp, Ipv4Packet } from '#core/wire';
import type { Seeded } from '../base';
import { DhcpClient } from './dhcp-client';
import type { Lease } from './dhcp-client';
import { DhcpServer } from './dhcp-server';
import { Endpoints } from './endpoints';
import type { HostSide, SendOptions } from './endpoints';
import { FlowTable, fromSource, reversed, translated } from './flows';
import type { Found } from './flows';
import { DHCP_CLIENT_PORT, DHCP_SERVER_PORT, dhcpPacket, leasePrefix } from './host';
import { Nic } from './link';
import type { Frame, Machine } from './link';
import { Neighbours } from './neighbours';
import { readPacket, withEnds, withQuote } from './packet';
import type { ReadPacket } from './packet';
import type { Scheduler } from './scheduler';
import type { Step, StepCode, Tracer } from './trace';
import { UplinkMonitor } from './uplinks';

/** What the box remembers of a flow. An empty interface name stands for the box itself. */
interface About {
  readonly arrival: string;
  readonly departure: string;
  /** Next hop of the forward direction. */
  readonly hop?: Ipv4;
}

/** One layer-3 interface at work. */
interface Running {
  readonly def: Interface;
  readonly mac: Mac;
  readonly nics: readonly Nic[];
  readonly mtu: number;
  readonly neighbours: Neighbours;
  readonly monitor?: UplinkMonitor;
  dhcp?: DhcpClient;
  server?: DhcpServer;
  /** Which member port a MAC address was seen on, for bridges. */
  readonly seenOn: Map<Mac, Nic>;
}

export class Box implements Machine, HostSide {
  readonly name: string;
  readonly silent = false;
  readonly endpoints: Endpoints;
  readonly ports = new Map<string, Nic>();
  /** Frames that no interface took, by port and tag (`p3 tag 30`). */
  readonly unclaimed = new Map<string, number>();
  private readonly running = new Map<string, Running>();
  private readonly flows = new FlowTable<About>();
  private cachedRoutes?: { routes: Route[]; states: States; rules: Rules };
  private readonly proxied = new Map<string, ReadonlySet<Ipv4>>();

  constructor(
    readonly site: Site,
    private readonly wiring: Wiring,
    private readonly scheduler: Scheduler,
    private readonly chance: Seeded,
    private readonly trace: Tracer,
  ) {
    this.name = site.box?.name || 'box';
    this.endpoints = new Endpoints(scheduler, this);
    for (const port of site.ports.values()) {
      const nic = new Nic(this, port.name);
      nic.on = !port.off;
      this.ports.set(port.name, nic);
    }
    for (const def of site.interfaces) if (!def.off) this.running.set(def.name, this.bring(def));
    if (site.box?.servesNames) this.serveNames();
    if (site.box?.servesTime) this.serveTime();
  }

  private bring(def: Interface): Running {
    const mac = interfaceMac(this.site, def);
    const nics = def.ports.map((p) => this.ports.get(p)!).filter((n) => n !== undefined);
    const own = def.statement.mtu?.value;
    const mtu = own ?? Math.min(...def.ports.map((p) => this.site.ports.get(p)?.mtu ?? 1500), 65535);
    const neighbours = new Neighbours(this.scheduler, (target, mark) => this.askFor(running, target, mark));
    const running: Running = {
      def,
      mac,
      nics,
      mtu: nics.length ? mtu : 1500,
      neighbours,
      seenOn: new Map(),
      monitor: def.uplink ? this.watch(def) : undefined,
    };
    if (def.dynamic === 'dhcp')
      running.dhcp = new DhcpClient(
        this.scheduler,
        this.chance,
        mac,
        this.name,
        (message, to) => this.sendDhcp(running, message, to),
        () => {
          neighbours.clear();
          this.changed();
          running.monitor?.refresh();
        },
      );
    const primary = def.addresses.find((a) => a.primary)?.prefix;
    if (def.statement.lends.length && primary) running.server = this.pools(def, primary as Prefix<Ipv4>);
    this.proxied.set(def.name, proxiedFor(this.site, def));
    return running;
  }

  private pools(def: Interface, primary: Prefix<Ipv4>): DhcpServer {
    const own = def.addresses.map((a) => a.prefix).filter((p): p is Prefix<Ipv4> => isIpv4(p.address));
    // A server probes an address before it offers it (RFC 2131 §2.2), so what is fixed on the segment is not given.
    const fixed = this.wiring.stations.flatMap((s) => (s.address && !s.off ? [s.address.address] : []));
    const boxNames = (this.site.box?.names ?? []).map((n) => n.value).filter(isIpv4);
    return new DhcpServer({
      address: primary.address,
      pools: def.statement.lends.map((l) => ({ ranges: l.ranges.map((r) => r.value), seconds: l.seconds })),
      keeps: def.statement.keeps.flatMap((k) =>
        isIpv4(k.address.value) ? [{ address: k.address.value, mac: k.mac }] : [],
      ),
      taken: new Set([...own.map((p) => p.address), ...fixed]),
      terms: (address) => {
        const home = own.find((p) => contains(p, address));
        if (!home) return undefined;
        const pool =
          def.statement.lends.find((l) =>
            l.ranges.some((r) => address >= (r.value.first as Ipv4) && address <= (r.value.last as Ipv4)),
          ) ?? def.statement.lends[0]!;
        const names = pool.names.map((n) => n.value).filter(isIpv4);
        return {
          length: home.length,
          gateway: (pool.gateway?.value as Ipv4 | undefined) ?? home.address,
          names: names.length ? names : this.site.box?.servesNames ? [home.address] : boxNames,
        };
      },
    });
  }

  private watch(def: Interface): UplinkMonitor {
    const { statement } = def;
    const running = () => this.running.get(def.name)!;
    return new UplinkMonitor(
      this.scheduler,
      {
        name: def.name,
        every: statement.watchEvery,
        lost: statement.watchLost,
        settle: statement.settle,
        watches: statement.watch.map((w) => w.value).filter(isIpv4),
        carrier: () => this.carrierOf(running()),
        addressed: () => this.addressesOf(running()).length > 0,
        gateway: () => this.gatewayOf(running()),
        probeNeighbour: (address, then) =>
          running().neighbours.probe(address, (mac) => then(mac !== undefined)),
        ping: (address) => this.endpoints.ping(address, { bind: def.name }),
      },
      () => {
        this.changed();
        if (!running().monitor!.alive) this.flows.forgetWhere((about) => about.departure === def.name);
      },
    );
  }

  /** Powers up: clients ask for their addresses, uplinks are watched. */
  start(): void {
    for (const running of this.running.values()) {
      if (this.carrierOf(running)) running.dhcp?.start();
      running.monitor?.start();
    }
  }

  // ---- what others may ask of it

  /** The state of every interface at this moment. */
  states(): States {
    return this.current().states;
  }

  routes(): readonly Route[] {
    return this.current().routes;
  }

  rules(): Rules {
    return this.current().rules;
  }

  /** The lease of an interface that is a DHCP client. */
  leaseOf(name: string): Lease | undefined {
    return this.running.get(name)?.dhcp?.lease;
  }

  /** The DHCP client of an interface, for saying what it tried. */
  clientOf(name: string): DhcpClient | undefined {
    return this.running.get(name)?.dhcp;
  }

  serverOf(name: string): DhcpServer | undefined {
    return this.running.get(name)?.server;
  }

  monitorOf(name: string): UplinkMonitor | undefined {
    return this.running.get(name)?.monitor;
  }

  /** Whether an interface has light on its cable (any member's, for a bridge). */
  hasCarrier(name: string): boolean {
    const running = this.running.get(name);
    return !!running && this.carrierOf(running);
  }

  /** Asks a neighbour on the segment of an interface; calls back with whether it answered. */
  probe(name: string, address: Ipv4, then: (mac: Mac | undefined) => void): void {
    const running = this.running.get(name);
    if (running) running.neighbours.probe(address, then);
    else then(undefined);
  }

  /** Resolvers that the box itself asks, in their order, each with the uplink it is asked through. */
  resolvers(): { readonly address: Ipv4; readonly bind?: string }[] {
    const out: { address: Ipv4; bind?: string }[] = [];
    const uplinks = [...this.running.values()]
      .filter((r) => r.def.uplink && r.monitor?.alive)
      .sort((a, b) => a.def.priority - b.def.priority);
    for (const running of uplinks)
      for (const address of this.namesOf(running.def.name)) out.push({ address, bind: running.def.name });
    for (const name of this.site.box?.names ?? []) if (isIpv4(name.value)) out.push({ address: name.value });
    return out;
  }

  /** The resolvers that belong to one uplink: written, or learned with its lease. */
  namesOf(name: string): Ipv4[] {
    const running = this.running.get(name);
    if (!running) return [];
    const { names } = running.def;
    return [...names.addresses.filter(isIpv4), ...(names.learned ? (running.dhcp?.lease?.names ?? []) : [])];
  }

  // ---- state

  private carrierOf(running: Running): boolean {
    return running.nics.length === 0
      ? running.def.statement.carrier?.by === 'loopback'
      : running.nics.some((n) => n.carrier);
  }

  private addressesOf(running: Running): Prefix<Ipv4>[] {
    const own = running.def.addresses
      .map((a) => a.prefix)
      .filter((p): p is Prefix<Ipv4> => isIpv4(p.address));
    const lease = running.dhcp?.lease;
    return lease ? [leasePrefix(lease), ...own] : own;
  }

  private gatewayOf(running: Running): Ipv4 | undefined {
    const { gateway } = running.def;
    if (gateway.by === 'address') return isIpv4(gateway.address) ? gateway.address : undefined;
    return gateway.by === 'learned' ? running.dhcp?.lease?.gateway : undefined;
  }

  private changed(): void {
    this.cachedRoutes = undefined;
  }

  private current(): NonNullable<typeof this.cachedRoutes> {
    if (this.cachedRoutes) return this.cachedRoutes;
    const states = new Map<string, InterfaceState>();
    const observed = new Map<string, Learned>();
    for (const running of this.running.values()) {
      states.set(running.def.name, {
        up: this.carrierOf(running),
        alive: running.monitor?.alive ?? true,
        addresses: this.addressesOf(running),
        gateway: this.gatewayOf(running),
      });
      const lease = running.dhcp?.lease;
      if (lease)
        observed.set(running.def.name, {
          address: leasePrefix(lease),
          gateway: lease.gateway,
          names: lease.names,
          from: 'lease',
          supposed: false,
        });
    }
    const rules = compileRules(this.site, this.wiring, foresee(this.site, this.wiring, observed));
    this.cachedRoutes = { routes: routesOf(this.site, states), states, rules };
    return this.cachedRoutes;
  }

  carrierChanged(nic: Nic): void {
    this.changed();
    for (const running of this.running.values()) {
      if (!running.nics.includes(nic)) continue;
      running.neighbours.clear();
      running.seenOn.clear();
      if (nic.carrier && running.dhcp && !running.dhcp.lease) running.dhcp.start();
      else if (nic.carrier) running.dhcp?.renew();
      running.monitor?.refresh();
    }
  }

  // ---- frames

  private sendFrame(
    running: Running,
    destination: Mac,
    type: number,
    payload: Uint8Array,
    mark?: number,
  ): void {
    const { tag } = running.def;
    const bytes = encodeEthernet({
      destination,
      source: running.mac,
      vlan: tag === undefined ? undefined : { id: tag, pcp: running.def.statement.carrier?.pcp?.value ?? 0 },
      type,
      payload,
    });
    const known = destination === BROADCAST ? undefined : running.seenOn.get(destination);
    for (const nic of known ? [known] : running.nics) nic.send({ bytes, mark });
  }

  receive(nic: Nic, frame: Frame): void {
    const decoded = decodeEthernet(frame.bytes);
    if (!decoded.ok) return;
    const { destination, source, vlan, type, payload } = decoded.value;
    const tag = vlan && vlan.id !== 0 ? vlan.id : undefined;
    const running = this.takerOf(nic, tag);
    if (!running) {
      const where = tag === undefined ? nic.name : `${nic.name} tag ${tag}`;
      this.unclaimed.set(where, (this.unclaimed.get(where) ?? 0) + 1);
      const packet = frame.mark === undefined ? undefined : decodeIpv4(payload);
      if (packet?.ok)
        this.trace(frame.mark, {
          node: this.name,
          stage: 'arrival',
          code: 'no-interface',
          packet: packet.value,
          detail: where,
        });
      return;
    }
    if (running.nics.length > 1 && this.bridge(running, nic, frame, source, destination)) return;
    if (destination !== BROADCAST && destination !== running.mac) return;
    if (type === ETHERTYPE.arp) this.receiveArp(running, payload, frame.mark);
    else if (type === ETHERTYPE.ipv4) {
      const packet = decodeIpv4(payload);
      if (packet.ok) this.receivePacket(running, readPacket(packet.value), frame.mark);
    }
  }

  private takerOf(nic: Nic, tag: number | undefined): Running | undefined {
    for (const running of this.running.values())
      if (running.def.tag === tag && running.nics.includes(nic)) return running;
    return undefined;
  }

  /** Learns and forwards between the members of a bridge; returns whether the frame is no business of the box. */
  private bridge(running: Running, from: Nic, frame: Frame, source: Mac, destination: Mac): boolean {
    running.seenOn.set(source, from);
    if (destination === running.mac) return false;
    const known = destination === BROADCAST ? undefined : running.seenOn.get(destination);
    for (const nic of known ? [known] : running.nics) if (nic !== from) nic.send(frame);
    return destination !== BROADCAST;
  }

  // ---- neighbours

  private askFor(running: Running, targetIp: Ipv4, mark?: number): void {
    const senderIp = this.sourceOn(running, targetIp);
    if (senderIp === undefined) return;
    const arp = encodeArp({
      operation: 'request',
      senderMac: running.mac,
      senderIp,
      targetMac: 0 as Mac,
      targetIp,
    });
    this.sendFrame(running, BROADCAST, ETHERTYPE.arp, arp, mark);
  }

  private receiveArp(running: Running, payload: Uint8Array, mark?: number): void {
    const arp = decodeArp(payload);
    if (!arp.ok) return;
    const { operation, targetIp, senderMac } = arp.value;
    running.neighbours.learn(arp.value);
    const mine =
      this.addressesOf(running).some((a) => a.address === targetIp) ||
      this.proxied.get(running.def.name)!.has(targetIp);
    if (operation === 'request' && mine)
      this.sendFrame(running, senderMac, ETHERTYPE.arp, encodeArp(arpReply(arp.value, running.mac)), mark);
  }

  /** The address it shows on a segment: the one in the other's subnet, else the primary. */
  private sourceOn(running: Running, towards: Ipv4): Ipv4 | undefined {
    const own = this.addressesOf(running);
    return (own.find((a) => contains(a, towards)) ?? own[0])?.address;
  }

  // ---- packets in

  private step(
    mark: number | undefined,
    stage: Step['stage'],
    code: StepCode,
    packet: Ipv4Packet,
    more: Partial<Step> = {},
  ): void {
    if (mark !== undefined) this.trace(mark, { node: this.name, stage, code, packet, ...more });
  }

  private receivePacket(arrival: Running, read: ReadPacket, mark?: number): void {
    const { packet } = read;
    if (read.inner.protocol === 'udp' && this.ownBusiness(arrival, read)) return;
    this.step(mark, 'arrival', 'arrived', packet, { interface: arrival.def.name });
    const own = this.ownAddresses(arrival.def.table);
    if (own.has(packet.source) || packet.source >>> 24 === 127) {
      this.step(mark, 'source-check', 'own-source', packet, { interface: arrival.def.name });
      return;
    }
    const { now } = this.scheduler;
    const found = this.flows.find(arrival.def.table, packet.protocol, read.ends, now);
    if (found) {
      this.known(found, read, mark);
      return;
    }
    if (read.about) {
      this.related(arrival, read, mark);
      return;
    }
    if (!read.starts) {
      this.step(mark, 'known-flow', 'malformed', packet, {
        detail: read.inner.protocol === 'bad' ? read.inner.why : '',
      });
      return;
    }
    const { routes, states } = this.current();
    const wrong = checkSource(this.site, routes, states, arrival.def, packet.source);
    if (wrong) {
      this.step(mark, 'source-check', wrong === 'no-route-back' ? wrong : 'guard', packet, {
        interface: arrival.def.name,
        statement: arrival.def.statement,
        detail: wrong,
      });
      return;
    }
    if (own.has(packet.destination)) this.forBox(arrival, read, mark);
    else this.routeNew(arrival, read, mark);
  }

  /** Step 3: DHCP to a client or server interface. Returns whether it was that. */
  private ownBusiness(arrival: Running, read: ReadPacket): boolean {
    if (read.inner.protocol !== 'udp') return false;
    const { destinationPort, data } = read.inner.udp;
    if (destinationPort === DHCP_CLIENT_PORT && arrival.dhcp) {
      const message = decodeDhcp(data);
      if (message.ok) arrival.dhcp.receive(message.value);
      return true;
    }
    if (destinationPort !== DHCP_SERVER_PORT || !arrival.server) return false;
    const message = decodeDhcp(data);
    if (!message.ok || message.value.reply) return true;
    const answer = arrival.server.answer(message.value, this.scheduler.now);
    if (!answer) return true;
    const client = read.packet.source;
    const unicast = client !== 0 && answer.type !== 'nak';
    const packet = dhcpPacket(answer, arrival.server.setup.address, unicast ? client : EVERYONE);
    this.sendFrame(
      arrival,
      unicast ? message.value.clientMac : BROADCAST,
      ETHERTYPE.ipv4,
      encodeIpv4(packet),
    );
    return true;
  }

  private ownAddresses(table: string): Set<Ipv4> {
    const out = new Set<Ipv4>();
    for (const running of this.running.values())
      if (running.def.table === table) for (const a of this.addressesOf(running)) out.add(a.address);
    return out;
  }

  /** Step 4: a packet of a flow that is known. */
  private known(found: Found<About>, read: ReadPacket, mark?: number): void {
    const { flow, direction } = found;
    flow.lastSeen = this.scheduler.now;
    const to = direction === 'forward' ? flow.about.departure : flow.about.arrival;
    const packet = withEnds(read, translated(found));
    this.step(mark, 'known-flow', direction === 'forward' ? 'known-forward' : 'known-back', packet, {
      interface: to || undefined,
    });
    if (to === '') this.endpoints.deliver(readPacket(packet), { mark });
    else this.relay(to, packet, direction === 'forward' ? flow.about.hop : undefined, mark);
  }

  /** An ICMP error about a packet of a known flow, translated as its flow is. */
  private related(arrival: Running, read: ReadPacket, mark?: number): void {
    const quoted = read.about!;
    const found = this.flows.find(
      arrival.def.table,
      quoted.packet.protocol,
      reversed(quoted.ends),
      this.scheduler.now,
    );
    if (!found) {
      this.step(mark, 'known-flow', 'malformed', read.packet, { detail: 'error' });
      return;
    }
    const ends = translated(found);
    const to = found.direction === 'forward' ? found.flow.about.departure : found.flow.about.arrival;
    const asIs = found.direction === 'forward' && read.packet.source === found.flow.forward.source;
    const packet = withQuote(
      { ...read.packet, source: asIs ? ends.source : read.packet.source, destination: ends.destination },
      read,
      reversed(ends),
    );
    if (to === '') this.endpoints.deliver(readPacket(packet), { mark });
    else this.relay(to, packet, undefined, mark);
  }

  /** Step 7: a new flow to one of the box's own addresses. */
  private forBox(arrival: Running, read: ReadPacket, mark?: number): void {
    const { packet } = read;
    const rule = decideAnswer(this.rules(), arrival.def.name, {
      source: packet.source,
      destination: packet.destination,
      service: read.service,
    });
    if (!rule) {
      this.step(mark, 'box', 'box-silent', packet, {
        interface: arrival.def.name,
        statement: arrival.def.statement,
      });
      return;
    }
    this.step(mark, 'box', 'box-answers', packet, {
      interface: arrival.def.name,
      statement: arrival.def.statement,
      detail: rule.name,
    });
    this.flows.add(
      packet.protocol,
      read.ends,
      read.ends,
      { forward: arrival.def.table, back: BOX },
      { arrival: arrival.def.name, departure: '' },
      this.scheduler.now,
    );
    this.endpoints.deliver(read, { mark });
  }

  /** Steps 8 to 12 for a new flow. */
  private routeNew(arrival: Running, read: ReadPacket, mark?: number): void {
    const { packet } = read;
    if (packet.destination === EVERYONE || packet.destination >>> 28 >= 14) return;
    const { routes, rules } = this.current();
    const route = lookUp(routes, arrival.def.table, packet.destination);
    const departure = route?.interface === undefined ? undefined : this.running.get(route.interface);
    if (!route || !departure) {
      this.step(mark, 'route', 'no-route', packet, { detail: arrival.def.table });
      this.sendError(arrival, packet, { type: 'unreachable', code: UNREACHABLE.net, mtu: 0, about: NOTHING });
      return;
    }
    const hop = (route.via as Ipv4 | undefined) ?? packet.destination;
    this.step(mark, 'route', 'routed', packet, {
      interface: departure.def.name,
      hop,
      statement: route.statement,
    });
    const flow = { source: packet.source, destination: packet.destination, service: read.service };
    const { verdict, decided } = decidePassage(rules, arrival.def, departure.def, flow);
    const statement = 'statement' in decided ? decided.statement : undefined;
    const zones = `${arrival.def.zone?.name ?? 'no zone'} > ${departure.def.zone?.name ?? 'no zone'}`;
    if (verdict !== 'allow') {
      const code: StepCode =
        verdict === 'reject'
          ? 'rejected'
          : decided.by === 'default'
            ? 'dropped-default'
            : decided.by === 'within'
              ? 'dropped-within'
              : 'dropped';
      this.step(mark, 'passage', code, packet, { statement, detail: zones });
      if (verdict === 'reject') this.turnAway(arrival, read);
      return;
    }
    this.step(mark, 'passage', decided.by === 'within' ? 'passed-within' : 'passed', packet, {
      statement,
      detail: zones,
    });
    const leave = decideLeave(rules, arrival.def, departure.def, packet.source);
    if (leave?.action.as === 'never') {
      this.step(mark, 'leave', 'left-never', packet, { statement: leave.statement });
      return;
    }
    const shown = this.shownBy(leave, departure) ?? packet.source;
    const added = this.flows.add(
      packet.protocol,
      read.ends,
      fromSource(read.ends, shown),
      { forward: arrival.def.table, back: departure.def.table },
      { arrival: arrival.def.name, departure: departure.def.name, hop },
      this.scheduler.now,
    );
    if (!added) {
      this.step(mark, 'leave', 'no-free-port', packet, { statement: leave?.statement });
      return;
    }
    if (leave)
      this.step(mark, 'leave', shown === packet.source ? 'left-unchanged' : 'left-as', packet, {
        shown,
        statement: leave.statement,
        interface: departure.def.name,
      });
    const out = withEnds(read, translated({ flow: added, direction: 'forward' }));
    this.relay(departure.def.name, out, hop, mark, arrival);
  }

  private shownBy(leave: LeaveRule | undefined, departure: Running): Ipv4 | undefined {
    if (leave?.action.as === 'address')
      return isIpv4(leave.action.address) ? leave.action.address : undefined;
    return leave?.action.as === 'interface' ? this.addressesOf(departure)[0]?.address : undefined;
  }

  /** Step 9, `reject`: a RST for TCP (RFC 9293 §3.10.7.1), "admin prohibited" for the rest (RFC 1812 §5.2.7.1). */
  private turnAway(arrival: Running, read: ReadPacket): void {
    const { packet, inner } = read;
    if (inner.protocol !== 'tcp') {
      this.sendError(arrival, packet, {
        type: 'unreachable',
        code: UNREACHABLE.adminProhibited,
        mtu: 0,
        about: NOTHING,
      });
      return;
    }
    const { tcp } = inner;
    const payload = encodeTcp(
      {
        sourcePort: tcp.destinationPort,
        destinationPort: tcp.sourcePort,
        sequence: 0,
        acknowledgment: (tcp.sequence + 1) >>> 0,
        syn: false,
        ack: true,
        fin: false,
        rst: true,
        psh: false,
        window: 0,
        data: NOTHING,
      },
      packet.destination,
      packet.source,
    );
    this.transmit(
      arrival,
      ipv4Packet({ source: packet.destination, destination: packet.source, protocol: 6, payload }),
      undefined,
    );
  }

  /** Steps 11 and 12 for a packet that passes through. */
  private relay(
    to: string,
    packet: Ipv4Packet,
    hop: Ipv4 | undefined,
    mark?: number,
    arrival?: Running,
  ): void {
    const departure = this.running.get(to);
    if (!departure) return;
    if (packet.ttl <= 1) {
      this.step(mark, 'departure', 'ttl', packet, { interface: to });
      if (arrival) this.sendError(arrival, packet, { type: 'time-exceeded', code: 0, about: NOTHING });
      return;
    }
    this.transmit(departure, { ...packet, ttl: packet.ttl - 1 }, hop, mark, arrival);
  }

  /** Sends a packet by an interface: MTU, next hop, neighbour, frame. */
  private transmit(
    departure: Running,
    packet: Ipv4Packet,
    hop: Ipv4 | undefined,
    mark?: number,
    arrival?: Running,
  ): void {
    const name = departure.def.name;
    const next = hop ?? this.hopBy(departure, packet.destination);
    if (next === undefined) {
      this.step(mark, 'route', 'no-route', packet, { interface: name, detail: departure.def.table });
      return;
    }
    const bytes = encodeIpv4(packet);
    if (bytes.length > departure.mtu) {
      this.step(mark, 'departure', 'too-big', packet, { interface: name, detail: String(departure.mtu) });
      if (arrival)
        this.sendError(arrival, packet, {
          type: 'unreachable',
          code: UNREACHABLE.fragmentationNeeded,
          mtu: departure.mtu,
          about: NOTHING,
        });
      return;
    }
    departure.neighbours.resolve(
      next,
      (mac) => {
        if (mac === undefined) {
          this.step(mark, 'neighbour', 'no-neighbour', packet, { interface: name, hop: next });
          if (arrival)
            this.sendError(arrival, packet, {
              type: 'unreachable',
              code: UNREACHABLE.host,
              mtu: 0,
              about: NOTHING,
            });
          return;
        }
        this.step(mark, 'departure', 'departed', packet, { interface: name, hop: next });
        this.sendFrame(departure, mac, ETHERTYPE.ipv4, bytes, mark);
      },
      mark,
    );
  }

  /** The next hop by one interface, whether or not its uplink counts as live. */
  private hopBy(departure: Running, destination: Ipv4): Ipv4 | undefined {
    let best: Route | undefined;
    for (const route of this.current().routes)
      if (
        route.interface === departure.def.name &&
        contains(route.prefix, destination) &&
        (!best || route.prefix.length > best.prefix.length)
      )
        best = route;
    return best && ((best.via as Ipv4 | undefined) ?? destination);
  }

  /** Sends an ICMP error about a packet back the way it came, from an address of that interface. */
  private sendError(
    arrival: Running,
    about: Ipv4Packet,
    icmp: Exclude<Icmp, { type: 'echo-request' | 'echo-reply' | 'other' }>,
  ): void {
    const source = this.sourceOn(arrival, about.source);
    if (source === undefined) return;
    const payload = encodeIcmp({ ...icmp, about: quoteOf(encodeIpv4(about)) });
    this.transmit(
      arrival,
      ipv4Packet({ source, destination: about.source, protocol: 1, payload }),
      undefined,
    );
  }

  // ---- the box's own conversations

  listens(): Services {
    return [...this.rules().answers.values()]
      .flat()
      .filter((r) => r.name !== 'dns' && r.name !== 'time' && r.name !== 'ping')
      .flatMap((r) => r.services);
  }

  sourceFor(destination: Ipv4, options: SendOptions): Ipv4 | undefined {
    const out = this.outFor(destination, options.bind);
    return out && this.sourceOn(out.departure, out.hop);
  }

  private outFor(destination: Ipv4, bind?: string): { departure: Running; hop: Ipv4 } | undefined {
    if (bind !== undefined) {
      const departure = this.running.get(bind);
      const hop = departure && this.hopBy(departure, destination);
      return departure && hop !== undefined ? { departure, hop } : undefined;
    }
    const route = lookUp(this.routes(), 'main', destination);
    const departure = route?.interface === undefined ? undefined : this.running.get(route.interface);
    return departure && route
      ? { departure, hop: (route.via as Ipv4 | undefined) ?? destination }
      : undefined;
  }

  send(packet: Ipv4Packet, options: SendOptions): void {
    const read = readPacket(packet);
    const { mark } = options;
    const { now } = this.scheduler;
    const found = this.flows.find(BOX, packet.protocol, read.ends, now);
    if (found) {
      found.flow.lastSeen = now;
      const back = found.direction === 'back';
      const by = this.running.get(back ? found.flow.about.arrival : found.flow.about.departure);
      if (by)
        this.transmit(by, withEnds(read, translated(found)), back ? undefined : found.flow.about.hop, mark);
      return;
    }
    const out = this.outFor(packet.destination, options.bind);
    if (!out) return;
    this.step(mark, 'sent', 'sent', packet, { interface: out.departure.def.name });
    if (!read.starts) {
      this.transmit(out.departure, packet, out.hop, mark);
      return;
    }
    const added = this.flows.add(
      packet.protocol,
      read.ends,
      read.ends,
      { forward: BOX, back: out.departure.def.table },
      { arrival: '', departure: out.departure.def.name, hop: out.hop },
      now,
    );
    if (added)
      this.transmit(
        out.departure,
        withEnds(read, translated({ flow: added, direction: 'forward' })),
        out.hop,
        mark,
      );
  }

  private sendDhcp(running: Running, message: Dhcp, to: Ipv4 | 'broadcast'): void {
    if (to !== 'broadcast') {
      const own = this.addressesOf(running)[0];
      if (own) this.transmit(running, dhcpPacket(message, own.address, to), undefined);
      return;
    }
    this.sendFrame(running, BROADCAST, ETHERTYPE.ipv4, encodeIpv4(dhcpPacket(message, 0 as Ipv4, EVERYONE)));
  }

  /** The box as resolver: it asks its own resolvers one after another and hands the first answer on. */
  private serveNames(): void {
    this.endpoints.serveUdp(53, (data, _from, reply) => {
      const question = data.slice();
      const servers = this.resolvers();
      const next = (i: number) => {
        const server = servers[i];
        if (!server) return;
        const attempt = this.endpoints.ask(server.address, 53, question, { bind: server.bind });
        const then = () => (attempt.data ? reply(attempt.data) : next(i + 1));
        if (attempt.done) then();
        else attempt.then = then;
      };
      next(0);
    });
  }

  /** The box tells the time: an NTP server's answer in form (RFC 5905 §7.3), with a clock of the bench. */
  private serveTime(): void {
    this.endpoints.serveUdp(123, (data, _from, reply) => {
      const answer = new Uint8Array(48);
      answer.set(data.subarray(0, 48));
      // Version as asked, mode 4 (server), stratum 3.
      answer[0] = ((data[0] ?? 0x23) & 0x38) | 4;
      answer[1] = 3;
      answer.set(data.subarray(40, 48), 24);
      reply(answer);
    });
  }
}

/** The table name under which the box's own side of flows is kept; no table of a site can be called that. */
const BOX = '';
const EVERYONE = 0xffffffff as Ipv4;
const NOTHING = new Uint8Array(0);

/** Addresses that an uplink answers ARP for without holding them: what doors and `leave … as` use of its subnet or block. */
function proxiedFor(site: Site, def: Interface): Set<Ipv4> {
  if (!def.uplink) return new Set();
  const block = def.statement.block?.value;
  const nets = [...def.addresses.map((a) => a.prefix), ...(block && !block.routed ? [block.prefix] : [])];
  const wanted = [
    ...site.leaves.flatMap((l) => (l.as?.by === 'address' ? [l.as.address.value] : [])),
    ...site.doors.flatMap((d) =>
      d.outside && 'address' in d.outside.value ? [d.outside.value.address] : [],
    ),
  ];
  return new Set(wanted.filter((a): a is Ipv4 => isIpv4(a) && nets.some((n) => contains(n, a))));
}
