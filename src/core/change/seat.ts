/** The administrator's seat: a PC with the address it has, and what of the box it reaches from where it is. */
import { contains, formatIp, formatMac, formatPrefix, isIpv4, prefixRange } from '#core/addr';
import type { Ip, Ipv4, Prefix } from '#core/addr';
import { clausesOf, isOfBox, parseDocument, printStatement } from '#core/notation';
import type { AnswerName, Document, Statement } from '#core/notation';
import { textOf } from '#core/edits';
import { modelOf } from '#core/model';
import type { Model } from '#core/model';
import { Reach, stationGateway } from '#core/reach';
import { buildSite, documentOf, interfaceAt, landed, lowestFree } from '#core/site';
import type { Interface, Site, Station } from '#core/site';

/** Where the seat's PC is plugged in and by which address it speaks. */
export interface Seat {
  /** As in a station's `at`: a port, or a switch and its jack. */
  readonly plug: string;
  readonly address: Prefix<Ipv4>;
  readonly gateway?: Ip;
}

/** A way into the box: an address of it and a service that it answers there. */
export interface Contact {
  readonly address: Ip;
  readonly service: AnswerName;
  /** TCP port. */
  readonly port: number;
}

/** What somebody at the desk does so that the PC speaks from elsewhere. */
export interface DeskMove {
  readonly what: 'renew' | 'set-address' | 'replug';
  readonly seat: Seat;
  /** Replugged, or set by hand, it takes its address from the box all the same. */
  readonly leased: boolean;
  /** The station whose cable has to go for it. */
  readonly instead?: string;
}

/** Services by which somebody gets in, the likeliest first. */
const INTO: readonly AnswerName[] = ['https', 'ssh', 'http'];
const AT = { start: 0, end: 0, line: 1, column: 1 };

export const seatKey = (s: Seat): string =>
  `${s.plug} ${formatPrefix(s.address)} ${s.gateway === undefined ? '' : formatIp(s.gateway)}`;
export const contactKey = (c: Contact): string => `${formatIp(c.address)} ${c.service} ${c.port}`;

/** The world around a box as far as its seat needs it: lines and switches, and no other PC. */
export class SeatWorld {
  /** Name of the station. */
  readonly name: string;
  /** Whether the wiring says nothing of a seat, so that one is supposed. */
  readonly supposed: boolean;
  /** Whether its PC takes its address from the box. */
  readonly leased: boolean;
  private readonly around: string;
  private readonly also: string;

  private constructor(
    private readonly wiring: Site,
    private readonly plug: string,
    station: Station,
    /** The seat as the running box finds it. */
    readonly start: Seat,
  ) {
    this.name = station.name;
    this.supposed = station.supposed;
    this.leased = station.dhcp;
    this.also = station.macStated ? `, mac ${formatMac(station.mac)}` : '';
    this.around = wiring.statements
      .filter((s) => s.kind === 'circuit' || s.kind === 'switch')
      .map((s) => textOf(wiring, s))
      .join('\n');
  }

  /** The seat of a site: the station that says so, the one of this name, or a supposed desk that gets in. */
  static of(running: Model, named?: string): SeatWorld | undefined {
    const { site, wiring } = running;
    const station =
      wiring.stations.find((s) => (named === undefined ? s.seat : s.name === named)) ??
      (named === undefined ? supposedSeat(running) : undefined);
    if (!station || !landed(station.landing)) return undefined;
    const clause = station.statement && clausesOf(station.statement, 'at')[0];
    const plug =
      station.statement && clause
        ? documentOf(site, station.statement)
            .text.slice(clause.start, clause.end)
            .trim()
            .replace(/^at\s+/, '')
        : station.landing.port;
    const start = seatOf(running, station, plug);
    return start && new SeatWorld(site, plug, station, start);
  }

  /** The model of a box, by its text or as it stands in another, with the seat as it is and nobody else. */
  model(box: string | Site, seat: Seat | 'leased', plug = this.plug): Model {
    const how =
      seat === 'leased'
        ? `at ${plug}, address by dhcp`
        : `at ${seat.plug}, address ${formatPrefix(seat.address)}${seat.gateway === undefined ? '' : `, gateway ${formatIp(seat.gateway)}`}`;
    const wiring = `${this.around}\nstation ${this.name}: ${how}${this.also}, seat\n`;
    return modelOf(buildSite([...this.read(box), parseDocument(wiring, 'seat')]));
  }

  private last?: Document;
  private read(box: string | Site): readonly Document[] {
    if (typeof box !== 'string') {
      // Documents that are the box's alone need not be read again.
      const own = box.documents.filter((d) => d.statements.some(isOfBox));
      const mixed = own.some((d) => !d.statements.every(isOfBox));
      return mixed ? this.read(boxText(box)) : own;
    }
    if (this.last?.text !== box) this.last = parseDocument(box, 'box', this.last);
    return [this.last];
  }

  /** The ways into the box that the seat has, the likeliest first. */
  contacts(box: string | Site, seat: Seat): Contact[] {
    return contactsOf(new Reach(this.model(box, seat)), this.name);
  }

  /** What the box lends the PC when it asks for an address where it is plugged, or at another plug. */
  private lease(box: string | Site, plug = this.plug): Seat | undefined {
    const model = this.model(box, 'leased', plug);
    const station = seatedAt(model, this.name)?.station;
    return station && seatOf(model, station, plug);
  }

  /** Everything the desk can do so that a box lets its PC in, the least trouble first. */
  desk(box: string | Site, now: Seat): DeskMove[] {
    const out: DeskMove[] = [];
    const offer = (move: DeskMove | undefined) => {
      if (!move || seatKey(move.seat) === seatKey(now)) return;
      if (out.some((m) => seatKey(m.seat) === seatKey(move.seat))) return;
      if (this.contacts(box, move.seat).length) out.push(move);
    };
    const leasedAt = (what: DeskMove['what'], plug: string, instead?: string) => {
      const seat = this.leased ? this.lease(box, plug) : undefined;
      offer(seat && { what, seat, leased: true, instead });
    };
    const setAt = (what: DeskMove['what'], plug: string, iface: Interface | undefined, instead?: string) => {
      for (const { prefix: own } of iface?.addresses ?? []) {
        if (!isIpv4(own.address)) continue;
        const address = freeIn(own as Prefix<Ipv4>, now.address, iface!);
        offer({ what, seat: { plug, address, gateway: own.address }, leased: false, instead });
      }
    };
    leasedAt('renew', now.plug);
    const model = this.model(box, now);
    setAt('set-address', now.plug, seatedAt(model, this.name)?.at);
    // A free port before one whose cable somebody would miss; never one of a line or a switch.
    const taken = (kind: Statement['kind']) =>
      new Map(
        this.wiring.statements.flatMap((s) =>
          s.kind === kind && 'plug' in s && s.plug?.to === 'port' && 'name' in s
            ? [[s.plug.port, s.name] as const]
            : [],
        ),
      );
    const [lines, switches, desks] = [taken('circuit'), taken('switch'), taken('station')];
    for (const free of [true, false])
      for (const iface of model.site.interfaces) {
        if (iface.off || iface.uplink || iface.tag !== undefined) continue;
        for (const port of iface.ports) {
          if (lines.has(port) || switches.has(port) || port === now.plug || desks.has(port) === free)
            continue;
          leasedAt('replug', port, desks.get(port));
          setAt('replug', port, iface, desks.get(port));
        }
      }
    return out;
  }

  /** Whether a lease got now would be this one. */
  lends(box: string, move: DeskMove): boolean {
    const got = this.lease(box, move.seat.plug);
    return got !== undefined && seatKey(got) === seatKey(move.seat);
  }
}

/** What the box is told of a site: its own statements, laid out anew. */
export const boxText = (site: Site): string =>
  `${site.statements
    .filter(isOfBox)
    .map((s) => printStatement(s))
    .join('\n')}\n`;

/** An address for the PC in a network of the box: with its own last octet where that is free. */
function freeIn(net: Prefix<Ipv4>, was: Prefix<Ipv4>, iface: Interface): Prefix<Ipv4> {
  const range = prefixRange(net);
  const own = new Set<Ip>(iface.addresses.map((a) => a.prefix.address));
  const wanted = (range.first as number) + ((was.address as number) & 0xff);
  const good = wanted > (range.first as number) && wanted < (range.last as number) && !own.has(wanted as Ip);
  const address = good ? (wanted as Ipv4) : lowestFree(net, (a) => own.has(a));
  return { address: address ?? net.address, length: net.length };
}

/** A station, supposed or not, and the interface that takes what it sends. */
export function seatedAt(
  { site, wiring }: Model,
  name: string,
): { readonly station: Station; readonly at?: Interface } | undefined {
  const station = wiring.stations.find((s) => s.name === name);
  return station && { station, at: interfaceAt(site, station.landing) };
}

/** How a station stands at a plug, with the address that it has or is foreseen to get. */
function seatOf(model: Model, station: Station, plug: string): Seat | undefined {
  const address = model.prospects.stations.get(station.name);
  if (!address || !landed(station.landing)) return undefined;
  const at = interfaceAt(model.site, station.landing);
  const gateway = at && stationGateway(model, station, at, 4);
  return { plug, address, gateway: gateway === 'router' ? undefined : gateway };
}

/** The ways into the box that a station has. */
export function contactsOf(reach: Reach, station: string): Contact[] {
  const at = seatedAt(reach.model, station)?.at;
  const who = at && ({ type: 'name', kind: 'interface', name: at.name, at: AT } as const);
  // Supposed stations are there, though nothing can name them.
  const place = who && reach.places(who, 4).find((p) => p.station?.name === station);
  if (!place) return [];
  const own = reach.follower.ways.ownOf(place.at.table, 4);
  const out: Contact[] = [];
  for (const { answered, outcome } of reach.answers(place, own, 4, 'routed')) {
    const answer = outcome?.answer;
    const item = answer?.services[0];
    if (!answered || !answer || item?.kind !== 'ports' || !INTO.includes(answer.name)) continue;
    if (!answered.services.has({ proto: item.proto, port: item.first })) continue;
    for (const range of answered.destinations.ranges)
      for (let a = range.first as number; a <= (range.last as number); a++)
        out.push({ address: a as Ip, service: answer.name, port: item.first });
  }
  const near = (c: Contact) =>
    place.at.addresses.findIndex(
      (a) => a.prefix.address === c.address && contains(a.prefix, place.addresses.ranges[0]!.first),
    );
  return out.sort(
    (a, b) =>
      Number(near(a) < 0) - Number(near(b) < 0) ||
      near(a) - near(b) ||
      INTO.indexOf(a.service) - INTO.indexOf(b.service) ||
      Number(a.address) - Number(b.address),
  );
}

/** Where nothing is said of a seat: the desk that is supposed behind the first interface that would let one in. */
function supposedSeat(model: Model): Station | undefined {
  const { site, wiring } = model;
  const reach = new Reach(model);
  const desks = wiring.stations.filter(
    (s) => s.supposed && landed(s.landing) && s.landing.tag === undefined && contactsOf(reach, s.name).length,
  );
  const managed = (s: Station) => interfaceAt(site, s.landing)?.zone?.management;
  return desks.find(managed) ?? desks[0];
}
