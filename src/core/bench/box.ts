/**
 * The edge box: its ports and interfaces, what counts of them at each moment, and the ends of its own conversations.
 * What happens to a packet is `forwarding`; how an interface gets its addresses, `box-interface`.
 */
import { isIpv4 } from '#core/addr';
import type { Ip, Ipv6, Prefix, Services } from '#core/addr';
import { modelAt } from '#core/model';
import { proxiedBy } from '#core/semantics';
import type { InterfaceState, Route, Rules, States } from '#core/semantics';
import { coveredBy, macFor } from '#core/site';
import type { Interface, Learned, Learned6, Port, Site, Wiring } from '#core/site';
import { ETHERTYPE, decodeEthernet, decodeIp } from '#core/wire';
import type { IpPacket } from '#core/wire';
import type { Seeded } from '#core/base';
import { Aggregate } from './aggregate';
import { BoxInterface } from './box-interface';
import { NamesAsked } from './box-names';
import { poolsOf, serveBoxNames, serveTime } from './box-services';
import type { Asked } from './box-services';
import { Endpoints } from './endpoints';
import type { HostSide, SendOptions } from './endpoints';
import { Forwarding } from './forwarding';
import type { Moment } from './forwarding';
import { Nic } from './link';
import type { Frame, Machine } from './link';
import type { Scheduler } from './scheduler';
import type { Told, Tracer } from './trace';
import { ADDRESS_PATIENCE, UplinkMonitor } from './uplinks';
import type { DeadBecause } from './uplinks';

export class Box implements Machine, HostSide {
  readonly name: string;
  readonly silent = false;
  readonly endpoints: Endpoints;
  /** What interfaces are on: ports, and aggregations of several. */
  readonly ports = new Map<string, Nic>();
  /** What cables are plugged into. */
  readonly sockets = new Map<string, Nic>();
  private readonly aggregates: Aggregate[] = [];
  /** Frames that no interface took, by port and tag (`p3 tag 30`). */
  readonly unclaimed = new Map<string, number>();
  private readonly interfaces = new Map<string, BoxInterface>();
  private readonly forwarding: Forwarding;
  private cached?: Moment;
  /** What the names that rules speak of lead to. */
  readonly names: NamesAsked;

  constructor(
    readonly site: Site,
    private readonly wiring: Wiring,
    private readonly scheduler: Scheduler,
    chance: Seeded,
    private readonly trace: Tracer,
    private readonly tell: Told = () => {},
  ) {
    this.name = site.box?.name || 'box';
    this.endpoints = new Endpoints(scheduler, this);
    this.forwarding = new Forwarding({
      name: this.name,
      site,
      scheduler,
      trace,
      now: () => this.now(),
      interfaceNamed: (name) => this.interfaces.get(name),
      relaying: (table) => [...this.interfaces.values()].filter((i) => i.relay && i.def.table === table),
      deliver: (read, mark) => this.endpoints.deliver(read, { mark }),
    });
    for (const port of site.ports.values()) {
      const { over } = port;
      if (over) this.aggregate(port.name, over);
      // What is part of an aggregation is made with that, and carries frames of nobody else.
      if (over || port.within !== undefined) continue;
      const nic = new Nic(this, port.name);
      nic.on = !port.off;
      this.ports.set(port.name, nic);
      this.sockets.set(port.name, nic);
    }
    for (const def of site.interfaces) if (!def.off) this.bring(def, chance);
    this.names = new NamesAsked(
      site,
      scheduler,
      this.endpoints,
      () => this.resolvers(),
      () => (this.cached = undefined),
    );
    if (site.box?.servesNames) serveBoxNames(this.endpoints, site, () => this.resolvers());
    if (site.box?.servesTime) serveTime(this.endpoints);
  }

  private aggregate(name: string, over: NonNullable<Port['over']>): void {
    const made = new Aggregate(
      this,
      {
        name,
        sockets: over.ports,
        mode: over.mode,
        fast: over.fast,
        system: macFor(`box ${this.name} ${name}`),
      },
      this.scheduler,
    );
    this.aggregates.push(made);
    made.nic.on = !this.site.ports.get(name)?.off;
    this.ports.set(name, made.nic);
    for (const socket of made.sockets) {
      socket.on = !this.site.ports.get(socket.name)?.off && made.nic.on;
      this.sockets.set(socket.name, socket);
    }
  }

  /** The sockets of what an interface is on. */
  socketsOf(nic: Nic): readonly Nic[] {
    return this.aggregates.find((a) => a.nic === nic)?.sockets ?? [nic];
  }

  /** The aggregation that a socket is part of. */
  private aggregateOf(socket: Nic): Aggregate | undefined {
    return this.aggregates.find((a) => a.sockets.includes(socket));
  }

  private bring(def: Interface, chance: Seeded): void {
    const iface = new BoxInterface(
      def,
      {
        site: this.site,
        boxName: this.name,
        scheduler: this.scheduler,
        chance,
        ports: this.ports,
        changed: (i) => this.interfaceChanged(i),
        arrived: (i, read, mark) => this.forwarding.arrived(i, read, mark),
        delegated: (uplink) => this.delegatedOn(uplink),
        sendBy: (i, packet) => this.forwarding.transmit(i, packet, undefined),
        priority: () => this.priority,
        tookOver: (i) => this.tookOver(i),
      },
      proxiedBy(this.site, def),
    );
    iface.server = poolsOf(this.site, this.wiring, def);
    if (def.uplink) iface.monitor = this.watch(iface);
    this.interfaces.set(def.name, iface);
  }

  /** Its priority among two boxes, as far as no dead uplink lowers it; at least 1. */
  private get priority(): number {
    const { priority = 1, lowers = [] } = this.site.box ?? {};
    const dead = (name: string) => !this.interfaces.get(name)?.monitor?.alive;
    return lowers.reduce(
      (left, l) => Math.max(1, l.without.some((u) => dead(u.name)) ? left - l.by : left),
      priority,
    );
  }

  private get sharing(): BoxInterface[] {
    return [...this.interfaces.values()].filter((i) => i.shared);
  }

  /**
   * All that is shared goes together: a box that has lost the cable of one side would be active on the other, and what
   * comes to it there would get nowhere.
   */
  private startShared(): void {
    const { sharing } = this;
    const whole = sharing.every((i) => i.carrier);
    for (const { shared } of sharing)
      if (whole) shared!.start();
      else shared!.stop();
  }

  private tookOver(iface: BoxInterface): void {
    const what = iface.isActive ? 'took-over' : 'stood-by';
    this.tell({ time: this.scheduler.now, interface: iface.name, what, box: this.name });
  }

  private watch(iface: BoxInterface): UplinkMonitor {
    const { every, lost, settle, addresses } = iface.def.watch;
    return new UplinkMonitor(
      this.scheduler,
      {
        name: iface.name,
        every,
        lost,
        settle,
        watches: addresses,
        rests: () => iface.rests,
        carrier: () => iface.carrier,
        addressed: () => iface.addresses.length > 0,
        gateway: () => iface.gateway ?? iface.gateway6,
        probeNeighbour: (address, then) => iface.probe(address, then),
        ping: (address) => this.endpoints.ping(address, { bind: iface.name }),
      },
      () => {
        this.cached = undefined;
        this.uplinkChanged(iface, iface.monitor!.dead);
        this.callOnDemand();
        if (iface.monitor!.dead === 'address')
          this.scheduler.after(ADDRESS_PATIENCE, () => this.callOnDemand());
      },
    );
  }

  private uplinkChanged(iface: BoxInterface, dead: DeadBecause | undefined): void {
    const happening = { time: this.scheduler.now, interface: iface.name };
    this.tell({ ...happening, what: 'uplink', dead });
    if (dead === undefined) {
      const others = [...this.interfaces.values()].filter(
        ({ def }) => def.uplink && !def.onDemand && def !== iface.def && def.table === iface.def.table,
      );
      const stay = this.forwarding.flowsBy(new Set(others.map((o) => o.name)));
      if (stay.length) this.tell({ ...happening, what: 'flows-stay', flows: stay });
      return;
    }
    const flows = this.forwarding.forgetFlowsBy(iface.name);
    if (flows.length) this.tell({ ...happening, what: 'flows-ended', flows });
  }

  /** Calls uplinks on demand where no other of their table lives, and lets them rest again as soon as one does. */
  private callOnDemand(): void {
    for (const iface of this.interfaces.values()) {
      const covered = this.covering(iface);
      if (!covered.length) continue;
      const needed = covered.every((m) => m.isGone);
      if (needed && iface.rests) {
        this.tell({ time: this.scheduler.now, interface: iface.name, what: 'called' });
        iface.wake();
      } else if (!needed && !iface.rests) iface.rest();
    }
  }

  /** The monitors of the uplinks that one on demand waits for. */
  private covering({ def }: BoxInterface): UplinkMonitor[] {
    return coveredBy(this.site, def).flatMap((i) => this.interfaces.get(i.name)?.monitor ?? []);
  }

  /** Powers up: clients ask for their addresses, uplinks are watched. */
  start(): void {
    for (const aggregate of this.aggregates) aggregate.start();
    for (const iface of this.interfaces.values()) iface.rests = this.covering(iface).length > 0;
    for (const iface of this.interfaces.values()) {
      iface.start();
      iface.monitor?.start();
    }
    this.startShared();
    this.names.start();
  }

  // ---- what others may ask of it

  /** The state of every interface at this moment. */
  states(): States {
    return this.now().states;
  }

  routes(): readonly Route[] {
    return this.now().routes;
  }

  rules(): Rules {
    return this.now().rules;
  }

  /** An interface at work, for saying what it tried and got; undefined where it is off. */
  interface(name: string): BoxInterface | undefined {
    return this.interfaces.get(name);
  }

  /** Forgets the flows of others, as when time has passed over them. */
  forgetPassing(): void {
    this.forwarding.forgetPassing();
  }

  /** Whether an interface has all the addresses that it asks for. */
  isAddressed(name: string): boolean {
    const iface = this.interfaces.get(name);
    if (!iface || iface.rests) return !!iface;
    const { def } = iface;
    if (def.dynamic === 'dhcp' && !iface.dhcp?.lease) return false;
    if (def.dynamic === 'pppoe' && !iface.session?.link?.open) return false;
    if (def.auto6.slaac && !iface.autoconf?.addresses.length) return false;
    return !iface.dhcpv6 || !!iface.dhcpv6.lease;
  }

  /** Resolvers that the box itself asks, in their order, each with the uplink it is asked through. */
  resolvers(): Asked[] {
    const uplinks = [...this.interfaces.values()]
      .filter((i) => i.def.uplink && i.monitor?.alive)
      .sort((a, b) => a.def.priority - b.def.priority);
    return [
      ...uplinks.flatMap((i) => i.names.map((address) => ({ address, bind: i.name }))),
      ...(this.site.box?.names ?? []).map((name) => ({ address: name.value })),
    ];
  }

  // ---- state

  private delegatedOn(uplink: string): Prefix<Ipv6> | undefined {
    return this.interfaces.get(uplink)?.dhcpv6?.lease?.delegated;
  }

  private interfaceChanged(changed: BoxInterface): void {
    this.cached = undefined;
    changed.monitor?.refresh();
    // What was delegated may number interfaces inside, which then have something new to advertise.
    for (const iface of this.interfaces.values())
      if (iface.def.auto6.from.some((f) => f.interface === changed.name)) {
        iface.refresh();
        iface.advertiser?.refresh();
      }
  }

  private now(): Moment {
    if (this.cached) return this.cached;
    const states = new Map<string, InterfaceState>();
    const uplinks = new Map<string, Learned>();
    const uplinks6 = new Map<string, Learned6>();
    const own = new Map<string, Set<Ip>>();
    for (const iface of this.interfaces.values()) {
      const { name, def, addresses } = iface;
      states.set(name, {
        up: iface.carrier,
        alive: iface.monitor?.alive ?? true,
        addresses,
        gateway: iface.gateway,
        gateway6: iface.gateway6,
      });
      const table = own.get(def.table) ?? new Set();
      own.set(def.table, table);
      for (const a of addresses) table.add(a.address);
      const learned = learnedBy(iface);
      if (learned) uplinks.set(name, learned);
      const learned6 = learnedBy6(iface);
      if (learned6) uplinks6.set(name, learned6);
    }
    const { routes, rules } = modelAt(
      { site: this.site, wiring: this.wiring },
      { uplinks, uplinks6, named: this.names.found },
      states,
    );
    this.cached = { routes, states, rules, own };
    return this.cached;
  }

  carrierChanged(nic: Nic): void {
    this.aggregateOf(nic)?.carrierChanged(nic);
    this.cached = undefined;
    for (const iface of this.interfaces.values()) if (iface.nics.includes(nic)) iface.carrierChanged(nic);
    this.startShared();
  }

  // ---- frames

  receive(socket: Nic, frame: Frame): void {
    const aggregate = this.aggregateOf(socket);
    if (aggregate && !aggregate.receive(socket, frame)) return;
    const nic = aggregate?.nic ?? socket;
    const decoded = decodeEthernet(frame.bytes);
    if (!decoded.ok) return;
    const { vlan, type, payload } = decoded.value;
    const tag = vlan && vlan.id !== 0 ? vlan.id : undefined;
    const inSession = type === ETHERTYPE.pppoeDiscovery || type === ETHERTYPE.pppoeSession;
    let heard = false;
    for (const iface of this.interfaces.values()) {
      if (iface.def.tag !== tag || !iface.nics.includes(nic)) continue;
      heard = true;
      // A line may carry sessions and, beside them, the plain frames of the modem.
      if (!!iface.session !== inSession) continue;
      iface.receive(nic, frame, decoded.value);
      return;
    }
    if (heard) return;
    const where = tag === undefined ? nic.name : `${nic.name} tag ${tag}`;
    this.unclaimed.set(where, (this.unclaimed.get(where) ?? 0) + 1);
    const packet = frame.mark === undefined ? undefined : decodeIp(type, payload);
    if (packet)
      this.trace(frame.mark, {
        node: this.name,
        stage: 'arrival',
        code: 'no-interface',
        packet,
        where,
      });
  }

  // ---- the box's own conversations

  listens(): Services {
    return [...this.rules().answers.values()]
      .flat()
      .filter((r) => (r.name === 'dns' ? this.site.box?.servesNames : r.name !== 'time' && r.name !== 'ping'))
      .flatMap((r) => r.services);
  }

  sourceFor(destination: Ip, options: SendOptions): Ip | undefined {
    return this.forwarding.sourceFor(destination, options.bind);
  }

  mtuTo(destination: Ip, options: SendOptions): number {
    return this.forwarding.mtuTo(destination, options.bind) ?? 1500;
  }

  send(packet: IpPacket, options: SendOptions): void {
    this.forwarding.sendOwn(packet, options.bind, options.mark);
  }
}

/** What an uplink really got for IPv4, as the rest of the program speaks of it. */
function learnedBy(iface: BoxInterface): Learned | undefined {
  const lease = iface.dhcp?.lease;
  const session = iface.session?.link;
  const first = iface.addresses[0];
  if (!first || !isIpv4(first.address) || (!lease && !session?.open)) return undefined;
  return {
    address: { address: first.address, length: first.length },
    gateway: lease ? lease.gateway : session?.peer,
    names: lease ? lease.names : (session?.names ?? []),
    from: lease ? 'lease' : 'session',
    supposed: false,
  };
}

/** The same for IPv6; empty where it asked and got nothing yet. */
function learnedBy6(iface: BoxInterface): Learned6 | undefined {
  const { autoconf, dhcpv6 } = iface;
  if (!autoconf && !dhcpv6) return undefined;
  const six = dhcpv6?.lease?.address;
  return {
    addresses: [
      ...(autoconf?.addresses ?? []),
      ...(six === undefined ? [] : [{ address: six, length: autoconf?.lengthOf(six) ?? 128 }]),
    ],
    gateway: autoconf?.router,
    names: [...(dhcpv6?.lease?.names ?? []), ...(autoconf?.names ?? [])],
    delegated: dhcpv6?.lease?.delegated,
    from: 'lease',
    supposed: false,
  };
}
