/**
 * What the box does with a packet, in the order in which it is done: its own business, known flows, the source check,
 * the box itself, the route, passing, leaving, the neighbour, departure. What it decides comes from `semantics`; this
 * file is when.
 */
import { contains, isIpv4, isLinkLocal, isNobodysSource, isUnrouted, nptAddress } from '#core/addr';
import type { Ip } from '#core/addr';
import {
  checkSource,
  decideAnswer,
  decideDoor,
  isAskedFor,
  decideLeave,
  decidePassage,
  decideSend,
  lookUp,
  nextHop,
  sharedRoute,
  wayBy,
} from '#core/semantics';
import type {
  Flow as SentFlow,
  LeaveRule,
  Route,
  Rules,
  SendRule,
  States,
  ThroughDoor,
} from '#core/semantics';
import type { Site } from '#core/site';
import {
  BROADCAST,
  ETHERTYPE,
  UNREACHABLE,
  decodeDhcp,
  encodeIp,
  encodeTcp,
  ipPacket,
  ipSize,
  quoteOf,
} from '#core/wire';
import type { Dhcp, Icmp, IpPacket } from '#core/wire';
import type { BoxInterface } from './box-interface';
import { FlowTable, fromSource, reversed, translated } from './flows';
import type { Flow, KnownFlow } from './flows';
import { relayed } from './dhcp-relay';
import { DHCP_CLIENT_PORT, DHCP_SERVER_PORT, EVERYONE, dhcpPacket } from './host';
import { icmpPacket, isEcho, readPacket, withClampedMss, withEnds, withQuote } from './packet';
import type { Ends, ReadPacket } from './packet';
import type { Scheduler } from './scheduler';
import type { EndedFlow, Step, StepCode, Tracer } from './trace';

/** What the box remembers of a flow. An empty interface name stands for the box itself. */
interface About {
  readonly arrival: string;
  readonly departure: string;
  /** Next hop of the forward direction. */
  readonly hop?: Ip;
}

/** What counts of the box at one moment. */
export interface Moment {
  readonly routes: readonly Route[];
  readonly states: States;
  readonly rules: Rules;
  /** The box's own addresses, by table. */
  readonly own: ReadonlyMap<string, ReadonlySet<Ip>>;
}

/** What forwarding needs of the box around it. */
export interface ForwardingSide {
  readonly name: string;
  readonly site: Site;
  readonly scheduler: Scheduler;
  readonly trace: Tracer;
  now(): Moment;
  interfaceNamed(name: string): BoxInterface | undefined;
  /** The interfaces of a table that ask DHCP servers elsewhere for their clients. */
  relaying(table: string): readonly BoxInterface[];
  /** A packet for the box itself. */
  deliver(read: ReadPacket, mark?: number): void;
}

/**
 * Whether a segment goes on with a connection whose answers take another way: to the box nobody has answered it, so that
 * it is no part of any connection (RFC 9293 §3.10.7.4; the same as a Linux box's tracking).
 */
const isOneSided = (flow: Flow<About>, { inner }: ReadPacket): boolean =>
  inner.protocol === 'tcp' &&
  !flow.answered &&
  !(inner.tcp.syn && !inner.tcp.ack) &&
  !inner.tcp.rst &&
  flow.about.arrival !== '' &&
  flow.about.departure !== '';

/** The table name under which the box's own side of flows is kept; no table of a site can be called that. */
const BOX = '';
const NOTHING = new Uint8Array(0);

export class Forwarding {
  private readonly flows = new FlowTable<About>();

  constructor(private readonly side: ForwardingSide) {}

  private step(
    mark: number | undefined,
    stage: Step['stage'],
    code: StepCode,
    packet: IpPacket,
    more: Partial<Step> = {},
  ): void {
    if (mark === undefined) return;
    this.side.trace(mark, {
      node: this.side.name,
      stage,
      code,
      packet,
      interface: more.interface,
      hop: more.hop,
      shown: more.shown,
      statement: more.statement,
      zones: more.zones,
      table: more.table,
      mtu: more.mtu,
      answer: more.answer,
      fault: more.fault,
    });
  }

  private ownAddresses(table: string): ReadonlySet<Ip> {
    return this.side.now().own.get(table) ?? NONE;
  }

  /** An uplink died: its flows may start again elsewhere. */
  forgetFlowsBy(departure: string): EndedFlow[] {
    return this.flows.forgetWhere((about) => about.departure === departure).map(asBegun);
  }

  /** The flows that pass out by some interfaces. */
  flowsBy(departures: ReadonlySet<string>): EndedFlow[] {
    const { now } = this.side.scheduler;
    return this.flows
      .where((about) => about.arrival !== '' && departures.has(about.departure), now)
      .map(asBegun);
  }

  /** Forgets what passes through, so that what is asked next is not taken for its answer. */
  forgetPassing(): void {
    this.flows.forgetWhere((about) => about.arrival !== '' && about.departure !== '');
  }

  // ---- packets in

  arrived(arrival: BoxInterface, read: ReadPacket, mark?: number): void {
    const { packet } = read;
    if (this.ownBusiness(arrival, read)) return;
    this.step(mark, 'arrival', 'arrived', packet, { interface: arrival.name });
    const { table } = arrival.def;
    const own = this.ownAddresses(table);
    if (own.has(packet.source) || isNobodysSource(packet.source)) {
      this.step(mark, 'source-check', 'own-source', packet, { interface: arrival.name });
      return;
    }
    const found = this.flows.find(table, packet.protocol, read.ends, this.side.scheduler.now);
    if (found && fitsDirection(found.direction, read)) {
      this.known(arrival, found, read, mark);
      return;
    }
    if (read.about) {
      this.related(arrival, read, mark);
      return;
    }
    if (!read.starts) {
      this.step(mark, 'known-flow', 'malformed', packet, {
        fault: read.inner.protocol === 'bad' ? read.inner.why : '',
      });
      return;
    }
    // What is valid on the link only has no route, and goes no further than this link.
    const near = !isIpv4(packet.source) && isLinkLocal(packet.source);
    const { routes, states } = this.side.now();
    const wrong = near ? undefined : checkSource(this.side.site, routes, states, arrival.def, packet.source);
    if (wrong) {
      this.step(mark, 'source-check', wrong === 'no-route-back' ? wrong : 'guard', packet, {
        interface: arrival.name,
        statement: arrival.def.statement,
      });
      return;
    }
    const mine = own.has(packet.destination) || packet.destination === arrival.segment.linkLocal;
    const door = near ? undefined : this.doorFor(arrival, read, mark);
    if (door) this.routeNew(arrival, read, mark, door);
    else if (mine) this.forBox(arrival, read, mark);
    else if (!near) this.routeNew(arrival, read, mark);
  }

  /** Step 3: DHCP to a client or server interface. Returns whether it was that. */
  private ownBusiness(arrival: BoxInterface, read: ReadPacket): boolean {
    if (read.inner.protocol !== 'udp' || !isIpv4(read.packet.source)) return false;
    const { destinationPort, data } = read.inner.udp;
    if (destinationPort === DHCP_CLIENT_PORT && arrival.dhcp) {
      const message = decodeDhcp(data);
      if (message.ok) arrival.dhcp.receive(message.value);
      return true;
    }
    if (destinationPort !== DHCP_SERVER_PORT) return false;
    // Of two boxes only the active one lends and asks for others.
    if (!arrival.isActive) return !!arrival.server || !!arrival.relay;
    const { server } = arrival;
    const message = decodeDhcp(data);
    if (message.ok && this.relayed(arrival, read.packet, message.value)) return true;
    if (!server) return false;
    if (!message.ok || message.value.reply) return true;
    const answer = server.answer(message.value, this.side.scheduler.now);
    if (!answer) return true;
    const client = read.packet.source;
    const unicast = client !== 0 && answer.type !== 'nak';
    const packet = dhcpPacket(answer, server.setup.address, unicast ? client : EVERYONE);
    arrival.emit(unicast ? message.value.clientMac : BROADCAST, ETHERTYPE.ipv4, packet);
    return true;
  }

  /** Asks servers elsewhere for a client, or gives the client what a server answered. Returns whether it was that. */
  private relayed(arrival: BoxInterface, packet: IpPacket, message: Dhcp): boolean {
    const { table } = arrival.def;
    const made = relayed(arrival, () => this.side.relaying(table), packet, message);
    if (!made) return false;
    if ('toClient' in made) made.side.emit(made.destination, ETHERTYPE.ipv4, made.toClient);
    else
      for (const asked of made.toServers) {
        const route = lookUp(this.side.now().routes, table, asked.destination);
        const out = route?.interface === undefined ? undefined : this.side.interfaceNamed(route.interface);
        if (route && out) this.transmit(out, asked, nextHop(route, asked.destination));
      }
    return true;
  }

  /** Step 4: a packet of a flow that is known. */
  private known(arrival: BoxInterface, found: KnownFlow<About>, read: ReadPacket, mark?: number): void {
    const { flow, direction } = found;
    if (direction === 'back') flow.answered = true;
    else if (isOneSided(flow, read)) {
      this.step(mark, 'known-flow', 'one-sided', read.packet);
      return;
    }
    flow.lastSeen = this.side.scheduler.now;
    const to = direction === 'forward' ? flow.about.departure : flow.about.arrival;
    const packet = withEnds(read, translated(found));
    this.step(mark, 'known-flow', direction === 'forward' ? 'known-forward' : 'known-back', packet, {
      interface: to || undefined,
    });
    if (to === '') this.side.deliver(readPacket(packet), mark);
    else this.relay(to, packet, direction === 'forward' ? flow.about.hop : undefined, mark, arrival);
  }

  /** An ICMP error about a packet of a known flow, translated as its flow is. */
  private related(arrival: BoxInterface, read: ReadPacket, mark?: number): void {
    const quoted = read.about!;
    const found = this.flows.find(
      arrival.def.table,
      quoted.packet.protocol,
      reversed(quoted.ends),
      this.side.scheduler.now,
    );
    if (!found) {
      this.step(mark, 'known-flow', 'malformed', read.packet, { fault: 'error' });
      return;
    }
    const ends = translated(found);
    const to = found.direction === 'forward' ? found.flow.about.departure : found.flow.about.arrival;
    // Whoever sends it behind a translated address shows that address, so that it comes home.
    const own = found.direction === 'forward' ? found.flow.forward.source : found.flow.back.source;
    const source = ends.source === own ? read.packet.source : ends.source;
    const packet = withQuote(read, source, ends.destination, reversed(ends));
    if (to === '') this.side.deliver(readPacket(packet), mark);
    else this.relay(to, packet, undefined, mark, arrival);
  }

  /** Step 7: a new flow to one of the box's own addresses. */
  private forBox(arrival: BoxInterface, read: ReadPacket, mark?: number): void {
    const { packet } = read;
    const rule = decideAnswer(this.side.now().rules, arrival.name, {
      source: packet.source,
      destination: packet.destination,
      service: read.service,
    });
    const about = { interface: arrival.name, statement: arrival.def.statement };
    if (!rule) {
      this.step(mark, 'box', 'box-silent', packet, about);
      return;
    }
    this.step(mark, 'box', 'box-answers', packet, { ...about, answer: rule.name });
    const added = this.addFlow(arrival.def.table, BOX, packet.protocol, read.ends, read.ends, {
      arrival: arrival.name,
      departure: '',
    });
    // Two tables may hold the same stations and the same address of the box: the port then tells their flows apart.
    if (added)
      this.side.deliver(readPacket(withEnds(read, translated({ flow: added, direction: 'forward' }))), mark);
  }

  /** Step 6. A door that is there but closed to whoever asks is told, since it is the likeliest surprise. */
  private doorFor(arrival: BoxInterface, read: ReadPacket, mark?: number): ThroughDoor | undefined {
    const { routes, rules } = this.side.now();
    if (!rules.doors.length) return undefined;
    const { source, destination } = read.packet;
    const flow = { source, destination, service: read.service };
    const open = decideDoor(this.side.site, rules, routes, arrival.def, flow);
    const closed = open ? undefined : rules.doors.find((rule) => isAskedFor(rule, flow));
    if (closed)
      this.step(mark, 'door', 'door-closed', read.packet, {
        statement: closed.statement,
        shown: closed.inside,
        zones: closed.sources ? '' : (arrival.def.zone?.name ?? ''),
      });
    return open;
  }

  /** Step 8: `send` first for what would go out by an uplink, then the usual lookup. The rule itself: it never goes. */
  private routeFor(arrival: BoxInterface, flow: SentFlow, table: string): Route | SendRule | undefined {
    const { routes, rules, states } = this.side.now();
    const ordinary = lookUp(routes, table, flow.destination);
    const usual = sharedRoute(rules, this.side.now(), arrival.name, flow, ordinary);
    const outward = !usual?.interface || this.side.interfaceNamed(usual.interface)?.def.uplink;
    const send = outward && rules.sends.length ? decideSend(rules, arrival.def, flow) : undefined;
    if (!send) return usual;
    const by = (name: string): Route | undefined => wayBy(routes, states, name, flow.destination);
    const chosen = by(send.by);
    if (chosen || send.otherwise === undefined) return chosen ?? usual;
    return send.otherwise === 'never' ? send : (by(send.otherwise.interface) ?? send);
  }

  /** Steps 8 to 12 for a new flow, which a door may have sent to another address. */
  private routeNew(arrival: BoxInterface, read: ReadPacket, mark?: number, door?: ThroughDoor): void {
    const { packet } = read;
    if (isUnrouted(packet.destination)) return;
    const { rules } = this.side.now();
    const destination = door?.address ?? packet.destination;
    const service = door?.port === undefined ? read.service : { ...read.service, port: door.port };
    if (door)
      this.step(mark, 'door', 'door-opens', packet, { shown: destination, statement: door.rule.statement });
    const flow = { source: packet.source, destination, service };
    const route = this.routeFor(arrival, flow, door?.table ?? arrival.def.table);
    if (route && 'by' in route) {
      const { statement } = route;
      this.step(mark, 'route', 'send-never', packet, { statement, zones: arrival.def.zone?.name ?? '' });
      return;
    }
    const departure = route?.interface === undefined ? undefined : this.side.interfaceNamed(route.interface);
    if (!route || !departure) {
      this.step(mark, 'route', 'no-route', packet, { table: arrival.def.table });
      this.sendError(arrival, packet, UNREACHABLE.net);
      return;
    }
    const hop = nextHop(route, destination);
    this.step(mark, 'route', 'routed', packet, {
      interface: departure.name,
      hop,
      statement: route.statement,
    });
    const { verdict, decided } = door
      ? ({ verdict: 'allow', decided: { by: 'statement', statement: door.rule.statement } } as const)
      : decidePassage(rules, arrival.def, departure.def, flow);
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
      this.step(mark, 'passage', code, packet, { statement, zones });
      if (verdict === 'reject') this.turnAway(arrival, read);
      return;
    }
    this.step(mark, 'passage', decided.by === 'within' ? 'passed-within' : 'passed', packet, {
      statement,
      zones,
    });
    // Out by where it came in: the target must answer the box, not the asker beside it (hairpin).
    const hairpin = door && departure === arrival ? departure.sourceTowards(destination) : undefined;
    const leave =
      hairpin === undefined ? decideLeave(rules, arrival.def, departure.def, packet.source) : undefined;
    if (leave?.action.as === 'never') {
      this.step(mark, 'leave', 'left-never', packet, { statement: leave.statement });
      return;
    }
    const shown = hairpin ?? shownBy(leave, departure, packet.source) ?? packet.source;
    const asked: Ends = {
      ...read.ends,
      destination,
      destinationPort: door?.port ?? read.ends.destinationPort,
    };
    const added = this.addFlow(
      arrival.def.table,
      departure.def.table,
      packet.protocol,
      read.ends,
      fromSource(asked, shown),
      { arrival: arrival.name, departure: departure.name, hop },
    );
    if (!added) {
      this.step(mark, 'leave', 'no-free-port', packet, { statement: leave?.statement });
      return;
    }
    if (leave || hairpin !== undefined)
      this.step(mark, 'leave', shown === packet.source ? 'left-unchanged' : 'left-as', packet, {
        shown,
        statement: leave?.statement,
        interface: departure.name,
      });
    const out = withEnds(read, translated({ flow: added, direction: 'forward' }));
    this.relay(departure.name, out, hop, mark, arrival);
  }

  private addFlow(
    forward: string,
    back: string,
    protocol: number,
    ends: Ends,
    shown: Ends,
    about: About,
  ): Flow<About> | undefined {
    return this.flows.add(protocol, ends, shown, { forward, back }, about, this.side.scheduler.now);
  }

  /** Step 9, `reject`: a RST for TCP (RFC 9293 §3.10.7.1), "admin prohibited" for the rest (RFC 1812 §5.2.7.1). */
  private turnAway(arrival: BoxInterface, read: ReadPacket): void {
    const { packet, inner } = read;
    if (inner.protocol !== 'tcp') {
      this.sendError(arrival, packet, UNREACHABLE.adminProhibited);
      return;
    }
    const { tcp } = inner;
    const { source: destination, destination: source } = packet;
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
      source,
      destination,
    );
    this.transmit(arrival, ipPacket({ source, destination, protocol: 6, payload }), undefined);
  }

  // ---- packets out

  /** Steps 11 and 12 for a packet that passes through. */
  private relay(
    to: string,
    packet: IpPacket,
    hop: Ip | undefined,
    mark: number | undefined,
    arrival: BoxInterface,
  ): void {
    const departure = this.side.interfaceNamed(to);
    if (!departure) return;
    if (packet.ttl <= 1) {
      this.step(mark, 'departure', 'ttl', packet, { interface: to });
      this.sendIcmp(arrival, packet, { type: 'time-exceeded', code: 0, about: NOTHING });
      return;
    }
    this.transmit(departure, { ...packet, ttl: packet.ttl - 1 }, hop, mark, arrival);
  }

  /** Sends a packet by an interface: segment size, MTU, next hop, neighbour, frame. `arrival` is where it came in. */
  transmit(
    departure: BoxInterface,
    whole: IpPacket,
    hop: Ip | undefined,
    mark?: number,
    arrival?: BoxInterface,
  ): void {
    const { name } = departure;
    const limits = [departure, arrival].flatMap((i) => i?.mssTowards(whole.destination) ?? []);
    const packet = limits.length ? withClampedMss(whole, Math.min(...limits)) : whole;
    const next = hop ?? this.hopBy(departure, packet.destination);
    if (next === undefined) {
      this.step(mark, 'route', 'no-route', packet, { interface: name, table: departure.def.table });
      return;
    }
    const size = ipSize(packet);
    if (size > departure.mtu) {
      this.step(mark, 'departure', 'too-big', packet, { interface: name, mtu: departure.mtu });
      if (arrival) this.sendError(arrival, packet, UNREACHABLE.fragmentationNeeded, departure.mtu);
      return;
    }
    if (size > departure.carries) {
      // The box takes it to fit, its port does not: it is lost without a word.
      this.step(mark, 'departure', 'too-big', packet, { interface: name, mtu: departure.carries });
      return;
    }
    departure.send(
      packet,
      next,
      () => {
        this.step(mark, 'neighbour', 'no-neighbour', packet, { interface: name, hop: next });
        if (arrival) this.sendError(arrival, packet, UNREACHABLE.host);
      },
      mark,
      () => this.step(mark, 'departure', 'departed', packet, { interface: name, hop: next }),
    );
  }

  /** The next hop by one interface, whether or not its uplink counts as live. */
  private hopBy(departure: BoxInterface, destination: Ip): Ip | undefined {
    if (!isIpv4(destination) && isLinkLocal(destination)) return destination;
    let best: Route | undefined;
    for (const route of this.side.now().routes)
      if (
        route.interface === departure.name &&
        contains(route.prefix, destination) &&
        (!best || route.prefix.length > best.prefix.length)
      )
        best = route;
    return best && nextHop(best, destination);
  }

  private sendError(arrival: BoxInterface, about: IpPacket, code: number, mtu = 0): void {
    this.sendIcmp(arrival, about, { type: 'unreachable', code, mtu, about: NOTHING });
  }

  /** Sends an ICMP error about a packet back the way it came, from an address of that interface. */
  private sendIcmp(
    arrival: BoxInterface,
    about: IpPacket,
    icmp: Exclude<Icmp, { type: 'echo-request' | 'echo-reply' | 'other' }>,
  ): void {
    const source = this.sourceBy(arrival, about.source);
    if (source === undefined) return;
    const error = icmpPacket({ ...icmp, about: quoteOf(encodeIp(about)) }, source, about.source);
    this.transmit(arrival, error, undefined);
  }

  /**
   * The address that the box shows by an interface. One without an address of the family shows another's of its
   * table, as an uplink does that only has a prefix delegated.
   */
  private sourceBy(departure: BoxInterface, destination: Ip, hop = destination): Ip | undefined {
    const usable = (a: Ip | undefined) =>
      a !== undefined && (isIpv4(a) || !isLinkLocal(a) || isLinkLocal(destination as typeof a));
    // The next hop of IPv6 is mostly a link-local address, which says nothing about whose network it is in.
    const near = departure.sourceTowards(!isIpv4(hop) && isLinkLocal(hop) ? destination : hop);
    if (usable(near)) return near;
    for (const own of this.ownAddresses(departure.def.table))
      if (isIpv4(own) === isIpv4(destination)) return own;
    return undefined;
  }

  // ---- the box's own conversations

  private outFor(destination: Ip, bind?: string): { departure: BoxInterface; hop: Ip } | undefined {
    if (bind !== undefined) {
      const departure = this.side.interfaceNamed(bind);
      const hop = departure && this.hopBy(departure, destination);
      return departure && hop !== undefined ? { departure, hop } : undefined;
    }
    const route = lookUp(this.side.now().routes, 'main', destination);
    const departure = route?.interface === undefined ? undefined : this.side.interfaceNamed(route.interface);
    return departure && route ? { departure, hop: nextHop(route, destination) } : undefined;
  }

  /** The address that a conversation of the box with a destination begins from. */
  sourceFor(destination: Ip, bind?: string): Ip | undefined {
    const out = this.outFor(destination, bind);
    return out && this.sourceBy(out.departure, destination, out.hop);
  }

  /** The largest packet that the box sends there, octets. */
  mtuTo(destination: Ip, bind?: string): number | undefined {
    return this.outFor(destination, bind)?.departure.mtu;
  }

  /** Sends a packet of the box itself. */
  sendOwn(packet: IpPacket, bind?: string, mark?: number): void {
    const read = readPacket(packet);
    const { now } = this.side.scheduler;
    const found = this.flows.find(BOX, packet.protocol, read.ends, now);
    if (found) {
      found.flow.lastSeen = now;
      const back = found.direction === 'back';
      const by = this.side.interfaceNamed(back ? found.flow.about.arrival : found.flow.about.departure);
      const out = withEnds(read, translated(found));
      if (by) this.transmit(by, out, back ? undefined : found.flow.about.hop, mark);
      return;
    }
    const out = this.outFor(packet.destination, bind);
    if (!out) return;
    const { departure, hop } = out;
    this.step(mark, 'sent', 'sent', packet, { interface: departure.name });
    if (!read.starts) {
      this.transmit(departure, packet, hop, mark);
      return;
    }
    const added = this.addFlow(BOX, departure.def.table, packet.protocol, read.ends, read.ends, {
      arrival: '',
      departure: departure.name,
      hop,
    });
    if (added)
      this.transmit(departure, withEnds(read, translated({ flow: added, direction: 'forward' })), hop, mark);
  }
}

const NONE: ReadonlySet<Ip> = new Set();

const asBegun = ({ protocol, forward }: Flow<About>): EndedFlow => ({
  protocol,
  source: forward.source,
  destination: forward.destination,
  port: isEcho(protocol) ? 0 : forward.destinationPort,
});

/** An echo request is no answer to another, though its ends and identifier fit (RFC 5508 §3.1). */
const fitsDirection = (direction: 'forward' | 'back', { inner }: ReadPacket): boolean =>
  inner.protocol !== 'icmp' ||
  (inner.icmp.type !== 'echo-request' && inner.icmp.type !== 'echo-reply') ||
  (inner.icmp.type === 'echo-request') === (direction === 'forward');

/** The address that a rule of leaving shows; undefined: the flow's own. */
function shownBy(leave: LeaveRule | undefined, departure: BoxInterface, source: Ip): Ip | undefined {
  const sameFamily = (a: Ip) => isIpv4(a) === isIpv4(source);
  if (leave?.action.as === 'address')
    return sameFamily(leave.action.address) ? leave.action.address : undefined;
  if (leave?.action.as === 'prefix')
    return isIpv4(source) ? undefined : nptAddress(source, leave.action.from, leave.action.to);
  if (leave?.action.as !== 'interface') return undefined;
  return departure.addresses.map((a) => a.address).find(sameFamily);
}
