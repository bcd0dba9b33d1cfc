/**
 * One layer-3 interface of the box at work: its frames on a port, a tag, a bridge or in a session, and all that gets
 * it addresses: DHCP, PPPoE, router advertisements, DHCPv6, and what is delegated elsewhere.
 */
import { contains, isIpv4, isLinkLocal, networkOf } from '#core/addr';
import type { Ip, Ipv4, Ipv6, Mac, Prefix } from '#core/addr';
import { carriedMtu, delegatedAddresses, interfaceMac, linkMtu, wantsDelegation } from '#core/site';
import type { Interface, Site } from '#core/site';
import {
  ALL_NODES,
  ALL_ROUTERS,
  BROADCAST,
  ETHERTYPE,
  VRRP_GROUP,
  VRRP_GROUP_MAC,
  VRRP_PROTOCOL,
  decodeDhcpv6,
  decodeIp,
  decodeVrrp,
  encodeDhcpv6,
  encodeFrame,
  encodeIp,
  encodeNd,
  encodeUdp,
  encodeVrrp,
  etherTypeOf,
  ipPacket,
  isGroupMac,
  isIpv4Packet,
  virtualMac,
} from '#core/wire';
import type { Dhcp, Dhcpv6, Ethernet, IpPacket, Nd } from '#core/wire';
import type { Seeded } from '#core/base';
import {
  Advertiser,
  DELEGATED_PREFERRED,
  DELEGATED_VALID,
  PREFIX_PREFERRED,
  PREFIX_VALID,
  ROUTER_LIFETIME,
} from './advertiser';
import { Autoconf } from './autoconf';
import { DhcpClient } from './dhcp-client';
import { DhcpRelay } from './dhcp-relay';
import type { DhcpServer } from './dhcp-server';
import { Dhcpv6Client } from './dhcpv6-client';
import { segmentFor } from './endpoints';
import { EVERYONE, dhcpPacket, leasePrefix } from './host';
import type { Frame, Nic } from './link';
import { readPacket } from './packet';
import type { ReadPacket } from './packet';
import { PppoeClient } from './pppoe';
import { DHCPV6_CLIENT_PORT, DHCPV6_SERVER_PORT } from './provider';
import { Segment, ndOf, ndPacket } from './segment';
import type { RouterMessage, SegmentSide } from './segment';
import type { Scheduler } from './scheduler';
import type { UplinkMonitor } from './uplinks';
import { VirtualRouter } from './virtual-router';

/** What an interface needs of the box around it. */
export interface InterfaceSide {
  readonly site: Site;
  readonly boxName: string;
  readonly scheduler: Scheduler;
  readonly chance: Seeded;
  readonly ports: ReadonlyMap<string, Nic>;
  /** An address, a gateway or the carrier changed. */
  changed(iface: BoxInterface): void;
  /** A packet arrived that is no neighbour's business. */
  arrived(iface: BoxInterface, read: ReadPacket, mark?: number): void;
  /** The prefix delegated on another interface. */
  delegated(uplink: string): Prefix<Ipv6> | undefined;
  /** The priority of the box among two (RFC 9568 §5.2.4). */
  priority(): number;
  /** It has what it shares with the twin now, or has it no more. */
  tookOver(iface: BoxInterface): void;
  /** Sends a packet of the box itself by this interface. */
  sendBy(iface: BoxInterface, packet: IpPacket): void;
}

/** Where DHCPv6 clients find servers (RFC 8415 §7.1). */
const ALL_DHCP_SERVERS = ((0xff02n << 112n) | 0x10002n) as Ipv6;

export class BoxInterface implements SegmentSide {
  readonly name: string;
  readonly mac: Mac;
  readonly nics: readonly Nic[];
  /** The largest packet, octets. */
  readonly mtu: number;
  /** The largest packet that its ports take, octets, whatever it believes itself. */
  readonly carries: number;
  readonly segment: Segment;
  readonly isRouter = true;
  readonly dhcp?: DhcpClient;
  readonly session?: PppoeClient;
  readonly autoconf?: Autoconf;
  readonly dhcpv6?: Dhcpv6Client;
  readonly advertiser?: Advertiser;
  server?: DhcpServer;
  /** Asks DHCP servers elsewhere for the clients here. */
  readonly relay?: DhcpRelay;
  monitor?: UplinkMonitor;
  /** Of what it shares with a twin. */
  readonly shared?: VirtualRouter;
  /** It is on demand, and was not called: it neither sends nor hears anything. */
  rests = false;
  /** Which member port a MAC address was seen on, for bridges. */
  private readonly seenOn = new Map<Mac, Nic>();
  private cached?: Prefix[];
  /** Whether IPv6 was open in the session when last looked at. */
  private wasOpen6 = false;

  constructor(
    readonly def: Interface,
    private readonly side: InterfaceSide,
    /** Addresses answered for without being held: those of doors and of leaving. */
    private readonly proxied: ReadonlySet<Ip>,
  ) {
    const { site, scheduler, chance } = side;
    this.name = def.name;
    this.mac = interfaceMac(site, def);
    this.nics = def.ports.map((p) => side.ports.get(p)!).filter((n) => n !== undefined);
    this.mtu = linkMtu(site, def);
    this.carries = carriedMtu(site, def);
    this.segment = new Segment(scheduler, this.mac, this);
    const tell = () => {
      this.cached = undefined;
      side.changed(this);
    };
    const primary = def.addresses.find((a) => a.primary)?.prefix.address;
    if (def.relays.length && primary !== undefined && isIpv4(primary))
      this.relay = new DhcpRelay(primary, def.relays, def.name);
    if (primary !== undefined && isIpv4(primary)) this.shared = this.share(scheduler, primary);
    if (def.carrier === 'pppoe')
      this.session = new PppoeClient(
        scheduler,
        chance,
        { as: 'caller', user: def.login?.user ?? '', secret: def.login?.secret ?? '', chap: true },
        {
          address: 0 as Ipv4,
          names: [],
          identifier: this.speaks6() ? this.segment.linkLocal & 0xffffffffffffffffn : undefined,
        },
        (destination, type, payload, mark) => this.emit(destination, type, payload, mark),
        (type, payload, mark) => this.fromSession(type, payload, mark),
        () => {
          const open6 = !!this.session?.link?.open6;
          if (open6 && !this.wasOpen6) this.start6();
          this.wasOpen6 = open6;
          tell();
        },
      );
    if (def.dynamic === 'dhcp' && !this.session)
      this.dhcp = new DhcpClient(
        scheduler,
        chance,
        this.mac,
        side.boxName,
        (message, to) => this.sendDhcp(message, to),
        () => {
          this.segment.neighbours.clear();
          tell();
        },
      );
    const { slaac, dhcpv6 } = def.auto6;
    if (slaac || dhcpv6 || def.gateway6.by === 'learned')
      this.autoconf = new Autoconf(
        scheduler,
        this.mac,
        slaac,
        {
          solicit: () =>
            this.sendRouterMessage(
              { type: 'router-ask', mac: this.session ? undefined : this.mac },
              ALL_ROUTERS,
            ),
          // A session has one neighbour, whose address cannot be ours (RFC 5072 §5).
          probeFree: (address, then) => (this.session ? then(true) : this.segment.probeFree(address, then)),
        },
        tell,
      );
    const prefix = wantsDelegation(site, def);
    if (dhcpv6 || prefix)
      this.dhcpv6 = new Dhcpv6Client(
        scheduler,
        chance,
        this.mac,
        { address: dhcpv6, prefix },
        (message) => this.sendDhcpv6(message),
        tell,
      );
    if (def.advertises)
      this.advertiser = new Advertiser(
        scheduler,
        () => this.advertisement(),
        (message) => this.sendRouterMessage(message, ALL_NODES),
      );
  }

  // ---- what it is at the moment

  get carrier(): boolean {
    if (this.rests) return false;
    return this.nics.length === 0 ? this.def.carrier === 'loopback' : this.nics.some((n) => n.carrier);
  }

  /** Whether IPv6 is spoken on it. */
  speaks6(): boolean {
    return this.def.speaks6 || wantsDelegation(this.side.site, this.def);
  }

  /** All addresses, the primary IPv4 address first. */
  get addresses(): readonly Prefix[] {
    return (this.cached ??= this.gather());
  }

  /** What was delegated changed, so that its own addresses may have. */
  refresh(): void {
    this.cached = undefined;
  }

  private gather(): Prefix[] {
    const lease = this.dhcp?.lease;
    const session = this.session?.link;
    const six = this.dhcpv6?.lease?.address;
    return [
      ...(lease ? [leasePrefix(lease)] : []),
      ...(session?.open && session.address !== undefined ? [{ address: session.address, length: 32 }] : []),
      ...this.def.addresses.filter((a) => !a.virtual || this.isActive).map((a) => a.prefix),
      ...(this.autoconf?.addresses ?? []),
      ...(six === undefined ? [] : [{ address: six, length: this.autoconf?.lengthOf(six) ?? 128 }]),
      ...delegatedAddresses(this.def, (uplink) => this.side.delegated(uplink)),
    ];
  }

  get gateway(): Ipv4 | undefined {
    const { gateway } = this.def;
    if (gateway.by === 'address') return isIpv4(gateway.address) ? gateway.address : undefined;
    if (gateway.by === 'none') return undefined;
    return this.session ? this.session.link?.peer : this.dhcp?.lease?.gateway;
  }

  get gateway6(): Ipv6 | undefined {
    const { gateway6 } = this.def;
    if (gateway6.by === 'address') return isIpv4(gateway6.address) ? undefined : gateway6.address;
    return gateway6.by === 'learned' ? this.autoconf?.router : undefined;
  }

  /** The resolvers that belong to it: written, or learned with what it got. */
  get names(): Ip[] {
    const { names } = this.def;
    if (!names.learned) return [...names.addresses];
    return [
      ...names.addresses,
      ...(this.dhcp?.lease?.names ?? []),
      ...(this.session?.link?.names ?? []),
      ...(this.dhcpv6?.lease?.names ?? []),
      ...(this.autoconf?.names ?? []).filter((n) => !this.dhcpv6?.lease?.names.includes(n)),
    ];
  }

  /** The address it shows towards another: one in the other's subnet, else the first of the family. */
  sourceTowards(address: Ip): Ip | undefined {
    if (!isIpv4(address) && isLinkLocal(address)) return this.segment.linkLocal;
    const own = this.addresses.filter((a) => isIpv4(a.address) === isIpv4(address));
    return (own.find((a) => contains(a, address)) ?? own[0])?.address;
  }

  /** The largest segment that a SYN may offer through it, or undefined where that is left alone. */
  mssTowards(address: Ip): number | undefined {
    const said = this.def.mss ?? (this.session ? 'auto' : 'off');
    if (said === 'off') return undefined;
    return said === 'auto' ? segmentFor(this.mtu, address) : said;
  }

  // ---- switching on, cables

  start(): void {
    this.advertiser?.start();
    this.ask();
  }

  /** Asks for its addresses, where anybody may hear it. */
  private ask(): void {
    if (!this.carrier) return;
    this.dhcp?.start();
    this.session?.start();
    if (!this.session) this.start6();
  }

  /** Called from its rest: it asks for its addresses as after power-up. */
  wake(): void {
    this.rests = false;
    this.ask();
    this.monitor?.refresh();
  }

  /** Back to rest: a session is ended, and what it got is gone; who lent it is told nothing, as when a cable is pulled. */
  rest(): void {
    this.session?.stop();
    this.rests = true;
    this.segment.neighbours.clear();
    this.dhcp?.stop();
    this.autoconf?.stop();
    this.dhcpv6?.stop();
    this.monitor?.refresh();
  }

  private start6(): void {
    this.autoconf?.start();
    this.dhcpv6?.start();
  }

  carrierChanged(nic: Nic): void {
    this.segment.neighbours.clear();
    this.seenOn.clear();
    if (this.rests) return;
    if (nic.carrier) {
      if (this.dhcp?.lease) this.dhcp.renew();
      else this.dhcp?.start();
      this.session?.start();
      if (!this.session) this.start6();
      this.advertiser?.speak();
    } else if (!this.carrier) {
      this.session?.lose();
      this.autoconf?.stop();
    }
    this.monitor?.refresh();
  }

  // ---- frames

  emit(
    destination: Mac,
    type: number,
    payload: Uint8Array | IpPacket,
    mark?: number,
    source = this.mac,
  ): void {
    if (this.rests) return;
    const { tag, pcp } = this.def;
    const vlan = tag === undefined ? undefined : { id: tag, pcp };
    const bytes = encodeFrame({ destination, source, vlan, type }, payload);
    const known = destination === BROADCAST ? undefined : this.seenOn.get(destination);
    for (const nic of known ? [known] : this.nics) nic.send({ bytes, mark });
  }

  /** Takes a frame that arrived on one of its ports with its tag. */
  receive(nic: Nic, frame: Frame, ethernet: Ethernet): void {
    if (this.rests) return;
    const { source, destination, type, payload } = ethernet;
    if (this.nics.length > 1 && this.bridge(nic, frame, source, destination)) return;
    if (!this.segment.takes(destination) && !this.takesShared(destination)) return;
    if (this.session) {
      this.session.receive(source, type, payload, frame.mark);
      return;
    }
    const read = this.segment.receive(ethernet, frame.mark);
    if (read) this.arrived(read, frame.mark);
  }

  /** Learns and forwards between the members of a bridge; returns whether the frame is no business of the box. */
  private bridge(from: Nic, frame: Frame, source: Mac, destination: Mac): boolean {
    this.seenOn.set(source, from);
    if (destination === this.mac || this.takesShared(destination)) return false;
    const group = isGroupMac(destination);
    const known = group ? undefined : this.seenOn.get(destination);
    for (const nic of known ? [known] : this.nics) if (nic !== from) nic.send(frame);
    return !group;
  }

  /** Takes a packet that came over its session. */
  fromSession(type: number, payload: Uint8Array, mark?: number): void {
    const packet = decodeIp(type, payload);
    if (!packet) return;
    const read = readPacket(packet);
    const nd = ndOf(read);
    if (!nd) this.arrived(read, mark);
    else if (nd.type === 'router' && !isIpv4(packet.source)) this.heardRouter(nd, packet.source);
  }

  private arrived(read: ReadPacket, mark?: number): void {
    if (this.heardShared(read)) return;
    const { inner } = read;
    if (inner.protocol === 'udp' && inner.udp.destinationPort === DHCPV6_CLIENT_PORT && this.dhcpv6) {
      const message = decodeDhcpv6(inner.udp.data);
      if (message.ok) this.dhcpv6.receive(message.value);
      return;
    }
    this.side.arrived(this, read, mark);
  }

  /** Sends a packet to a next hop on this interface; `lost` where nobody answers for it. */
  send(packet: IpPacket, hop: Ip, lost: () => void, mark?: number, leaving?: () => void): void {
    if (this.session) {
      const { link } = this.session;
      if (!link || (isIpv4(packet.source) ? !link.open : !link.open6)) {
        lost();
        return;
      }
      leaving?.();
      link.send(etherTypeOf(packet), encodeIp(packet), mark);
      return;
    }
    this.segment.send(packet, hop, lost, mark, leaving);
  }

  /** Asks a next hop for a sign of life: its MAC address, or an echo of the session's line. */
  probe(address: Ip, then: (answered: boolean) => void): void {
    if (!this.session) {
      // Whoever watches a line asks once and waits a second, whatever else is still being asked.
      let isTold = false;
      const tell = (answered: boolean) => {
        if (!isTold) then(answered);
        isTold = true;
      };
      this.segment.neighbours.probe(address, (mac) => tell(mac !== undefined));
      this.side.scheduler.after(1000, () => tell(false));
    } else if (this.session.link) this.session.link.echo(then);
    else then(false);
  }

  // ---- what it shares with a twin

  /** Whether it has what it shares with the twin; an interface that shares nothing always has all of its own. */
  get isActive(): boolean {
    return this.shared?.isActive ?? true;
  }

  /** The group of virtual routers, and the MAC address of the active one. */
  private takesShared(destination: Mac): boolean {
    if (!this.shared) return false;
    return (
      destination === VRRP_GROUP_MAC || (this.isActive && destination === virtualMac(this.def.shared!.id))
    );
  }

  macOf(address: Ipv4): Mac | undefined {
    const { shared } = this.def;
    if (!shared || !this.isActive) return undefined;
    return shared.addresses.includes(address) || this.proxied.has(address)
      ? virtualMac(shared.id)
      : undefined;
  }

  private share(scheduler: Scheduler, own: Ipv4): VirtualRouter | undefined {
    const { shared } = this.def;
    // On a port that is off nobody is there to share with.
    if (!shared || this.session || !this.nics.some((n) => n.on)) return undefined;
    const { id, addresses } = shared;
    const source = virtualMac(id);
    return new VirtualRouter(scheduler, {
      id,
      addresses,
      own,
      priority: () => this.side.priority(),
      announce: () => {
        for (const address of [...addresses, ...[...this.proxied].filter(isIpv4)])
          this.segment.announce(address, source);
      },
      changed: () => {
        this.cached = undefined;
        this.side.changed(this);
        this.side.tookOver(this);
      },
      send: (message) => {
        const payload = encodeVrrp(message, own, VRRP_GROUP);
        const packet = ipPacket({
          source: own,
          destination: VRRP_GROUP,
          protocol: VRRP_PROTOCOL,
          ttl: 255,
          payload,
        });
        this.emit(VRRP_GROUP_MAC, ETHERTYPE.ipv4, packet, undefined, source);
      },
    });
  }

  /** What another virtual router of the segment says. A TTL below 255 has crossed a router and is not believed (§7.1). */
  private heardShared({ packet }: ReadPacket): boolean {
    if (!this.shared || packet.protocol !== VRRP_PROTOCOL || !isIpv4Packet(packet)) return false;
    const read = decodeVrrp(packet.payload, packet.source, packet.destination);
    if (read.ok && packet.ttl === 255) this.shared.heard(read.value, packet.source);
    return true;
  }

  // ---- the segment's questions

  holds(address: Ip): boolean {
    if (this.session) return false;
    return this.addresses.some((a) => a.address === address) || (this.isActive && this.proxied.has(address));
  }

  askFrom(target: Ipv4): Ipv4 | undefined {
    return this.sourceTowards(target) as Ipv4 | undefined;
  }

  heardRouter(message: RouterMessage, from: Ipv6): void {
    if (message.type === 'router') this.autoconf?.heard(message, from);
    else this.advertiser?.speak();
  }

  // ---- its own conversations

  private sendRouterMessage(nd: Nd, group: Ipv6): void {
    const source = this.segment.linkLocal;
    if (!this.session) {
      this.segment.sendNd(nd, source, group);
      return;
    }
    this.session.link?.send(ETHERTYPE.ipv6, encodeIp(ndPacket(encodeNd(nd), source, group)));
  }

  private sendDhcp(message: Dhcp, to: Ipv4 | 'broadcast'): void {
    if (to === 'broadcast') this.segment.send(dhcpPacket(message, 0 as Ipv4, EVERYONE), EVERYONE, () => {});
    else {
      const own = this.dhcp?.lease?.address;
      if (own !== undefined) this.side.sendBy(this, dhcpPacket(message, own, to));
    }
  }

  private sendDhcpv6(message: Dhcpv6): void {
    const source = this.segment.linkLocal;
    const payload = encodeUdp(
      {
        sourcePort: DHCPV6_CLIENT_PORT,
        destinationPort: DHCPV6_SERVER_PORT,
        data: encodeDhcpv6(message),
      },
      source,
      ALL_DHCP_SERVERS,
    );
    const packet = ipPacket({ source, destination: ALL_DHCP_SERVERS, protocol: 17, payload });
    this.send(packet, ALL_DHCP_SERVERS, () => {});
  }

  /** What it tells the stations of its segment: its networks of length 64, and who resolves names. */
  private advertisement(): Extract<Nd, { type: 'router' }> | undefined {
    const own = this.addresses.filter(
      (a): a is Prefix<Ipv6> => !isIpv4(a.address) && a.length === 64 && !isLinkLocal(a.address),
    );
    if (!own.length) return undefined;
    const written = new Set(this.def.addresses.map((a) => a.prefix.address));
    const { box } = this.side.site;
    const answersNames = this.def.answers.some((a) => a.services.some((s) => s.name === 'dns'));
    const names =
      box?.servesNames && answersNames
        ? [own[0]!.address]
        : (box?.names ?? []).flatMap((n) => (isIpv4(n.value) ? [] : [n.value]));
    return {
      type: 'router',
      managed: false,
      other: false,
      lifetime: ROUTER_LIFETIME,
      mac: this.mac,
      mtu: this.mtu === 1500 ? undefined : this.mtu,
      prefixes: own.map((a) => ({
        prefix: networkOf(a),
        onLink: true,
        autonomous: true,
        ...(written.has(a.address)
          ? { valid: PREFIX_VALID, preferred: PREFIX_PREFERRED }
          : { valid: DELEGATED_VALID, preferred: DELEGATED_PREFERRED }),
      })),
      names,
    };
  }
}
