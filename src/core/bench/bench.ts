/** Puts a site on the bench: machines, cables, and the order of switching on. */
import type { Model } from '#core/model';
import { contains, hostPrefix, isIpv4 } from '#core/addr';
import type { Ip, Ipv4, Ipv6, Prefix } from '#core/addr';
import type { Flow } from '#core/semantics';
import type { Plug, StatementOf } from '#core/notation';
import {
  announcedBy,
  isLooped,
  jackCarries,
  landed,
  macFor,
  pairedInterfaces,
  routingSwitch,
  segmentOf,
  twinAddresses,
  twinSite,
} from '#core/site';
import type { Circuit, Far, Landing, Port, RouterLeg, Site, Station, Wiring } from '#core/site';
import { encodeEthernet, encodeIp, etherTypeOf } from '#core/wire';
import { Seeded, memo } from '#core/base';
import { Box } from './box';
import { Cloud, FarHost } from './cloud';
import { firstPacket } from './forged';
import { Host } from './host';
import { Link, Nic } from './link';
import type { Tap } from './link';
import { Provider } from './provider';
import { Router } from './router';
import { Scheduler } from './scheduler';
import type { Milliseconds } from './scheduler';
import { Switch } from './switch';
import type { Step, Told, Tracer } from './trace';

export interface BenchOptions {
  /** The same seed gives the same run, bit for bit. */
  readonly seed?: number;
  /** Sees every frame on the box's ports. */
  readonly tap?: Tap;
  /** Stations put beside those of the wiring, to ask from places where nobody sits. */
  readonly probes?: readonly Station[];
  /** Far hosts put beside those of the wiring. */
  readonly fars?: readonly Far[];
  /** Hears what happens without anybody asking. */
  readonly tell?: Told;
  /** How many events one wait may take; by the number of stations where absent. */
  readonly most?: number;
}

/** What is plugged into a port of the box or a jack of a switch, or arrives there. */
interface Attachment {
  readonly name: string;
  /** The tag that its frames have in the socket. */
  readonly tag?: number;
  readonly nic: Nic;
  /** VLANs that a switch carries tagged. */
  readonly trunk?: ReadonlySet<number>;
  readonly circuit?: string;
}

/** How long addresses may take at switching on: four tries of DHCP with their pauses. */
const LEASE_PATIENCE: Milliseconds = 12_000;
/** How long a backup waits until it takes over, and everybody knows (RFC 9568 §6.1). */
const TAKE_OVER: Milliseconds = 4_000;
/** How long a line is out while its provider changes what it delegates. */
const FLAP: Milliseconds = 1000;
/** How long an uplink on demand takes until it is called and has its addresses. */
const CALL_PATIENCE: Milliseconds = 40_000;
/** How long a station waits for what routers advertise: the answer to its question, and trying its address. */
const ADVERTISED: Milliseconds = 1_500;
/** One way between a provider and the rest of the internet, where the circuit does not say. */
const FAR_DELAY: Milliseconds = 2;

/**
 * How many events one wait may take. On a segment of n stations that boot, each hears each: a few times n². What needs
 * ten times that feeds itself, and would go on for ever.
 */
const mostEvents = (stations: number): number => 1_000_000 + 50 * stations * stations;

export class Bench {
  readonly scheduler: Scheduler;
  readonly wiring: Wiring;
  readonly box: Box;
  /** The other of two boxes. */
  readonly twin?: Box;
  readonly hosts = new Map<string, Host>();
  readonly providers = new Map<string, Provider>();
  readonly routers = new Map<string, Router>();
  readonly fars = new Map<string, FarHost>();
  /** Steps of marked packets, in their order, by mark. */
  private readonly steps = new Map<number, Step[]>();
  private readonly chance: Seeded;
  private readonly cables = new Map<string, Link>();
  private readonly circuitsOn = new Map<string, string[]>();
  /** The way between each provider and the internet. */
  private readonly lines = new Map<string, Link>();
  private readonly cloud: Cloud;
  /** The sockets of the internet that providers are on. */
  private readonly sockets = new Map<string, Nic>();
  /** Switches that have something to say when they are switched on. */
  private readonly speaking: Switch[] = [];
  private readonly cutCircuits = new Set<string>();
  private marks = 0;

  readonly site: Site;

  /** Of the model the site and its wiring are built; what is learned, they learn. */
  constructor(
    readonly model: Model,
    private readonly options: BenchOptions = {},
  ) {
    this.chance = new Seeded(options.seed ?? 1);
    const { site, wiring } = model;
    this.site = site;
    this.wiring = {
      ...wiring,
      stations: [...wiring.stations, ...(options.probes ?? [])],
      fars: [...wiring.fars, ...(options.fars ?? [])],
    };
    this.scheduler = new Scheduler(options.most ?? mostEvents(this.wiring.stations.length));
    const trace: Tracer = (mark, step) => {
      if (mark === undefined) return;
      const list = this.steps.get(mark);
      // Written out, so that all steps have one shape: there are thousands, and a spread of many shapes is slow.
      const full: Step = {
        time: this.scheduler.now,
        mark,
        node: step.node,
        stage: step.stage,
        code: step.code,
        packet: step.packet,
        interface: step.interface,
        hop: step.hop,
        shown: step.shown,
        statement: step.statement,
        zones: step.zones,
        table: step.table,
        mtu: step.mtu,
        answer: step.answer,
        where: step.where,
        jack: step.jack,
        fault: step.fault,
        tag: step.tag,
      };
      if (list) list.push(full);
      else this.steps.set(mark, [full]);
    };
    this.box = new Box(site, this.wiring, this.scheduler, this.chance, trace, options.tell);
    const other = twinSite(site);
    // Of the twin only what it shares is told: its uplinks are those of the box.
    const told: Told = (h) => (h.what === 'took-over' || h.what === 'stood-by') && options.tell?.(h);
    // A wiring of its own, as what is remembered of one speaks of the interfaces of one site.
    if (other) this.twin = new Box(other, { ...this.wiring }, this.scheduler, this.chance, trace, told);
    const names = new Map(
      this.wiring.fars.map((f) => [f.name, f.addresses] as const).filter(([, a]) => a.length),
    );
    this.cloud = new Cloud(trace);
    for (const far of this.wiring.fars) this.addFar(far, names, trace);
    for (const circuit of this.wiring.circuits) this.addCircuit(circuit, names, trace);
    for (const station of this.wiring.stations) if (!station.off) this.addStation(station, trace);
    for (const r of this.wiring.routers)
      this.routers.set(
        r.name,
        new Router(r, (leg) => this.fixedOn(leg), this.scheduler, trace, 20 + this.routers.size),
      );
    this.plugIn(trace);
  }

  /** The addresses that stations and other routers have on the segment of a leg. */
  private fixedOn({ segment }: RouterLeg): Ipv4[] {
    const { stations, routers } = this.wiring;
    const here = stations.filter((s) => !s.off && segmentOf(this.site, s.landing) === segment);
    return [
      ...here.flatMap((s) => (s.address ? [s.address.address] : [])),
      ...routers.flatMap((r) => r.legs).flatMap((l) => (l.segment === segment ? [l.address.address] : [])),
    ];
  }

  /** The addresses of a network that are written for anybody; a server asks for one before it offers it (RFC 2131 §3.1). */
  private fixedIn(network: Prefix<Ipv4>): Ipv4[] {
    const all: Ip[] = [
      ...this.wiring.stations.flatMap((s) => (s.address && !s.off ? [s.address.address] : [])),
      ...this.wiring.routers.flatMap((r) => r.legs.map((l) => l.address.address)),
      ...this.site.interfaces.flatMap((i) => i.addresses.map((a) => a.prefix.address)),
      ...twinAddresses(this.site.interfaces),
    ];
    return all.filter(isIpv4).filter((a) => contains(network, a));
  }

  private addFar(
    far: Wiring['fars'][number],
    names: ReadonlyMap<string, readonly Ip[]>,
    trace: Tracer,
  ): void {
    const { addresses } = far;
    const host = new FarHost(
      {
        name: far.name,
        addresses,
        listens: far.listens,
        silent: far.silent,
        resolves: far.resolves ? names : undefined,
      },
      this.scheduler,
      trace,
    );
    this.fars.set(far.name, host);
    new Link(this.scheduler, this.chance, this.cloud.socket(addresses.map(hostPrefix)), host.nic, FAR_DELAY);
  }

  private addCircuit(circuit: Circuit, names: ReadonlyMap<string, readonly Ip[]>, trace: Tracer): void {
    const provider = new Provider(circuit, names, this.scheduler, this.chance, trace);
    this.providers.set(circuit.name, provider);
    const delay = Math.max(FAR_DELAY, circuit.delay);
    const socket = this.cloud.socket(announcedBy(circuit));
    this.sockets.set(circuit.name, socket);
    const line = new Link(this.scheduler, this.chance, socket, provider.far, delay, circuit.loss);
    this.lines.set(circuit.name, line);
  }

  private addStation(station: Station, trace: Tracer): void {
    const fixed = (network: Prefix<Ipv4>) => this.fixedIn(network);
    // Of several servers each takes its time, so that who offers first does not hang on a cable's length.
    const lending = this.wiring.stations.filter((s) => s.lends.length).indexOf(station);
    const host = new Host(station, fixed, this.scheduler, this.chance, trace, 100 + 5 * lending);
    this.hosts.set(station.name, host);
  }

  /** Lays the cables: one thing straight into a socket; several over a splitter that keeps their tags apart. */
  private plugIn(trace: Tracer): void {
    const switches = new Map(this.site.switches.map((s) => [s.name, new Switch(s.name, trace)]));
    const onPorts = new Map<string, Attachment[]>();
    const onJacks = new Map<string, Attachment[]>();
    const attach = (plug: Plug, at: Attachment) =>
      plug.to === 'port'
        ? memo(onPorts, plug.port, () => []).push({ ...at, tag: plug.tag })
        : memo(onJacks, `${plug.switch}/${plug.jack}`, () => []).push({ ...at, tag: plug.tag });
    for (const s of this.site.switches) {
      const trunk = new Set(s.carries.map((c) => c.value).filter((t) => t !== s.native));
      const over = s.plug?.to === 'port' ? this.site.ports.get(s.plug.port)?.over : undefined;
      if (over) {
        this.plugAggregate(s, over, switches.get(s.name)!, trunk);
        continue;
      }
      const nic = switches.get(s.name)!.addPort(`${s.name} uplink`, s.native, trunk);
      // A ring would carry a broadcast round for ever; its last cable is not plugged in.
      if (s.plug && !isLooped(this.site, s))
        attach({ ...s.plug, tag: undefined }, { name: s.name, nic, trunk });
    }
    const place = (name: string, nic: Nic, landing: Landing, plug?: Plug, circuit?: string) => {
      if (plug) attach(plug, { name, nic, circuit });
      else if (landed(landing))
        memo(onPorts, landing.port, () => []).push({ name, nic, circuit, tag: landing.tag });
    };
    for (const c of this.wiring.circuits)
      place(c.name, this.providers.get(c.name)!.nic, c.landing, c.plug, c.name);
    for (const s of this.wiring.stations) {
      const host = this.hosts.get(s.name);
      if (host) place(s.name, host.nic, s.landing, s.plug);
    }
    for (const r of this.wiring.routers)
      for (const leg of r.legs) {
        const name = `${r.name} ${leg.name}`;
        const nic = this.routers.get(r.name)!.nicOf(leg)!;
        const own = routingSwitch(this.site.switches, leg.plug);
        // A switch that routes has a wire of its own to one of its VLANs.
        if (own) this.cable(name, nic, switches.get(own.name)!.addPort(name, leg.plug.tag ?? own.native));
        else place(name, nic, leg.landing, leg.plug);
      }
    for (const sw of this.site.switches)
      for (const { value: jack } of sw.jacks) {
        const socket = `${sw.name}/${jack.jack}`;
        const here = onJacks.get(socket);
        if (!here) continue;
        const carries = jack.carries.map((c) => c.value).filter((t) => jackCarries(jack, t));
        const nic = switches
          .get(sw.name)!
          .addPort(socket, jack.tag, jack.carries.length ? new Set(carries) : undefined);
        this.plug(nic, here, (a) => a.name);
        onJacks.delete(socket);
      }
    for (const nic of this.box.sockets.values()) {
      const here = onPorts.get(nic.name) ?? [];
      const circuits = here.flatMap((a) => (a.circuit ? [a.circuit] : []));
      if (circuits.length === here.length) this.circuitsOn.set(nic.name, circuits);
      this.plug(nic, here, () => nic.name, this.twinSocket(nic.name));
      if (here.length > 1) this.dimWhenDown(nic.name);
    }
  }

  /** The ports on which the twin has something too: it is on the same wire there. */
  private get twinPorts(): string[] {
    return [...new Set(pairedInterfaces(this.site).flatMap((i) => i.ports))];
  }

  private twinSocket(port: string): Nic | undefined {
    return this.twin && this.twinPorts.includes(port) ? this.twin.sockets.get(port) : undefined;
  }

  /** A cable for each part of an aggregation, to a switch that takes them for one or for ports of their own. */
  private plugAggregate(
    s: StatementOf<'switch'>,
    over: NonNullable<Port['over']>,
    machine: Switch,
    trunk: ReadonlySet<number>,
  ): void {
    const links = s.links?.value ?? over.mode;
    // The twin has cables of its own to the same switch.
    const port = s.plug?.to === 'port' ? s.plug.port : '';
    const both = this.twin && this.twinPorts.includes(port) ? [this.box, this.twin] : [this.box];
    for (const box of both) {
      const whose = box === this.box ? '' : `${box.name} `;
      const names = over.ports.map((p) => `${s.name} to ${whose}${p}`);
      const sockets =
        links === 'single'
          ? names.map((n) => machine.addPort(n, s.native, trunk))
          : machine.addAggregate(
              { name: `${s.name} ${whose}uplink`, sockets: names, mode: links, fast: over.fast },
              this.scheduler,
              s.native,
              trunk,
            );
      for (const [i, socket] of sockets.entries()) {
        const own = box.sockets.get(over.ports[i]!);
        if (own) this.cable(`${whose}${own.name}`, own, socket);
      }
    }
    this.speaking.push(machine);
  }

  /** Plugs things into one socket; a cable that is there for one thing alone has the name that `named` gives it. */
  private plug(
    nic: Nic,
    here: readonly Attachment[],
    named: (only: Attachment) => string,
    other?: Nic,
  ): void {
    const [first] = here;
    if (!first && !other) return;
    if (first && here.length === 1 && first.tag === undefined && !other) {
      const link = this.cable(named(first), nic, first.nic);
      this.cables.set(first.name, link);
      return;
    }
    const splitter = new Switch(`cable of ${nic.name}`);
    const tags = new Set(here.flatMap((a) => [...(a.trunk ?? []), ...(a.tag === undefined ? [] : [a.tag])]));
    if (other)
      for (const i of this.site.interfaces)
        if (i.tag !== undefined && i.ports.includes(nic.name)) tags.add(i.tag);
    this.cable(nic.name, nic, splitter.addPort('plug', 0, tags));
    if (other) this.cable(`${this.twin!.name} ${nic.name}`, other, splitter.addPort('twin', 0, tags));
    for (const [i, a] of here.entries()) {
      const link = this.cable(`${nic.name} #${i}`, a.nic, splitter.addPort(`#${i}`, a.tag ?? 0, a.trunk));
      this.cables.set(a.circuit ?? a.name, link);
    }
  }

  private cable(name: string, a: Nic, b: Nic): Link {
    const onBox = a.owner === this.box || b.owner === this.box;
    const link = new Link(
      this.scheduler,
      this.chance,
      a,
      b,
      undefined,
      0,
      onBox ? this.options.tap : undefined,
    );
    this.cables.set(name, link);
    return link;
  }

  /** A port over which only circuits come has no light when all of them are down. */
  private dimWhenDown(port: string): void {
    const circuits = this.circuitsOn.get(port);
    const link = this.cables.get(port);
    if (!circuits?.length || !link) return;
    link.whole = !circuits.every((c) => this.cutCircuits.has(c) || this.providers.get(c)!.circuit.down);
  }

  // ---- running

  /** Switches on: circuits are there, then the box until its leases settle, then the stations, then the watches. */
  boot(): this {
    const { scheduler, box } = this;
    for (const provider of this.providers.values()) provider.start();
    for (const machine of this.speaking) machine.start();
    box.start();
    this.twin?.start();
    if (this.isShared) scheduler.pass(TAKE_OVER);
    const clients = this.site.interfaces.filter((i) => box.interface(i.name)?.carrier);
    scheduler.runUntil(() => clients.every((i) => box.isAddressed(i.name)), scheduler.now + LEASE_PATIENCE);
    for (const host of this.hosts.values()) host.start();
    const waiting = [...this.hosts.values()].filter((h) => h.dhcp && h.nic.carrier);
    scheduler.runUntil(() => waiting.every((h) => h.dhcp!.lease), scheduler.now + LEASE_PATIENCE);
    if (this.site.interfaces.some((i) => i.advertises)) scheduler.pass(ADVERTISED);
    this.settle();
    return this;
  }

  private get isShared(): boolean {
    return this.site.interfaces.some((i) => i.shared && !i.off);
  }

  /** How long watches and leases need to have their say. */
  get settling(): Milliseconds {
    const longest = this.site.interfaces
      .filter((i) => i.uplink)
      .map((i) => i.watch.every * (i.watch.lost + 1) + 4);
    // Who stands by is called after a while, and asks for its addresses then.
    const called = this.site.interfaces.some((i) => i.onDemand) ? CALL_PATIENCE : 0;
    return Math.max(1, ...longest) * 1000 + called + (this.isShared ? TAKE_OVER : 0);
  }

  /** Lets time pass until watches and leases have had their say. */
  settle(): void {
    this.scheduler.pass(this.settling);
  }

  /** Pulls a cable: a port's by its name, or a circuit's. Returns whether there is such a cable. */
  cut(name: string): boolean {
    return this.setCable(name, false);
  }

  /** Puts a cut cable back. */
  restore(name: string): boolean {
    return this.setCable(name, true);
  }

  /** Whether there is a line of this name that can be cut. */
  hasLine(name: string): boolean {
    return (
      this.linksOf(name).length > 0 ||
      this.box.sockets.has(name) ||
      this.box.ports.has(name) ||
      this.twin?.name === name ||
      this.providers.has(name)
    );
  }

  /** The cables that a name stands for: its own, those of a router's legs, or of the parts of an aggregation. */
  private linksOf(name: string): Link[] {
    const router = this.wiring.routers.find((r) => r.name === name);
    const switched = this.site.switches.find((s) => s.name === name)?.plug;
    const port = switched?.to === 'port' ? switched.port : name;
    // Of two boxes one may fail as a whole.
    const sockets =
      this.twin?.name === name
        ? this.twinPorts.flatMap((p) => this.site.ports.get(p)?.over?.ports ?? [p]).map((p) => `${name} ${p}`)
        : this.twin && this.box.name === name
          ? [...this.box.sockets.keys()]
          : [];
    const names = [
      name,
      ...sockets,
      ...(router?.legs.map((l) => `${name} ${l.name}`) ?? []),
      ...(this.site.ports.get(port)?.over?.ports ?? []),
    ];
    return names.flatMap((n) => this.cables.get(n) ?? []);
  }

  private setCable(name: string, whole: boolean): boolean {
    if (this.providers.has(name)) {
      if (whole) this.cutCircuits.delete(name);
      else this.cutCircuits.add(name);
    }
    for (const link of this.linksOf(name)) link.whole = whole;
    for (const [port, circuits] of this.circuitsOn)
      if (circuits.includes(name) && circuits.length > 1) this.dimWhenDown(port);
    return this.hasLine(name);
  }

  /** From now on nothing behind that circuit's gateway answers (or answers again). */
  deaden(circuit: string, dead = true): boolean {
    const provider = this.providers.get(circuit);
    if (provider) provider.dead = dead;
    return !!provider;
  }

  /**
   * Has a provider delegate another prefix, and its line flap as it does then. Returns the prefix; undefined where it
   * delegates none.
   */
  renumber(circuit: string): Prefix<Ipv6> | undefined {
    const prefix = this.providers.get(circuit)?.renumber();
    const socket = this.sockets.get(circuit);
    if (!prefix || !socket) return undefined;
    this.cloud.announce(socket, prefix);
    this.cut(circuit);
    this.scheduler.after(FLAP, () => this.restore(circuit));
    return prefix;
  }

  /** Makes a provider slow (milliseconds one way) or lossy (percent); what is absent is as the circuit says. */
  trouble(
    circuit: string,
    { delay, loss }: { readonly delay?: Milliseconds; readonly loss?: number },
  ): boolean {
    const line = this.lines.get(circuit);
    const stated = this.providers.get(circuit)?.circuit;
    if (!line || !stated) return false;
    line.delay = Math.max(FAR_DELAY, delay ?? stated.delay);
    line.loss = loss ?? stated.loss;
    return true;
  }

  /**
   * Puts the first packet of a flow on an interface of the box, as if somebody on its line had sent it: real bytes,
   * from a source that may be anybody's. Returns whether the interface can be spoken to.
   */
  forge(iface: string, flow: Flow, mark: number): boolean {
    const at = this.box.interface(iface);
    if (!at || this.isCut(at.nics)) return false;
    const packet = firstPacket(flow, mark);
    const bytes = encodeIp(packet);
    const type = etherTypeOf(packet);
    const { tag } = at.def;
    const nic = at.nics[0];
    if (at.session) at.fromSession(type, bytes, mark);
    else if (!nic) return false;
    else {
      const ethernet = {
        destination: at.mac,
        source: macFor(`forged on ${iface}`),
        vlan: tag === undefined ? undefined : { id: tag, pcp: 0 },
        type,
        payload: bytes,
      };
      this.box.receive(nic, { bytes: encodeEthernet(ethernet), mark });
    }
    return true;
  }

  /** Whether every cable of some ports is cut, so that nobody is on their line. */
  private isCut(nics: readonly Nic[]): boolean {
    const links = nics.flatMap((n) => this.box.socketsOf(n)).map((s) => s.link);
    return links.length > 0 && links.every((l) => l && !l.whole);
  }

  /** A number for following one packet. */
  newMark(): number {
    return ++this.marks;
  }

  /** Steps of one followed packet and of what it called forth. */
  stepsOf(mark: number): readonly Step[] {
    return this.steps.get(mark) ?? [];
  }

  /** Steps of every followed packet, each packet's own together. */
  allSteps(): IterableIterator<readonly Step[]> {
    return this.steps.values();
  }

  /** Runs until `done`, at most for a span. */
  wait(done: () => boolean, most: Milliseconds): boolean {
    return this.scheduler.runUntil(done, this.scheduler.now + most);
  }
}
