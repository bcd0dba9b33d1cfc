/** The administrator's seat: a PC with the address it has, and what of the box it reaches from where it is. */
import {
  contains,
  familyOf,
  formatIp,
  formatMac,
  formatPrefix,
  isIpv4,
  offsetIp,
  prefixRange,
} from '#core/addr';
import type { Family, Ip, Ipv4, Ipv6, Prefix } from '#core/addr';
import { clausesOf, isOfBox, parseDocument, printStatement } from '#core/notation';
import type { AnswerName, Document, Statement, Who } from '#core/notation';
import { textOf } from '#core/edits';
import { modelOf } from '#core/model';
import type { Model } from '#core/model';
import { Reach, stationGateway } from '#core/reach';
import { buildSite, documentOf, interfaceAt, interfaceFor, landed, lowestFree } from '#core/site';
import type { Interface, Site, Station } from '#core/site';

/**
 * Where the seat's PC is plugged in and by which addresses it speaks. What it makes itself of an advertised network
 * (RFC 4862) is not among them: that follows the box by itself.
 */
export interface Seat {
  /** As in a station's `at`: a port, or a switch and its jack. */
  readonly plug: string;
  /** Absent where it has none and nobody has lent it one yet. */
  readonly address?: Prefix<Ipv4>;
  readonly gateway?: Ip;
  readonly address6?: Prefix<Ipv6>;
  readonly gateway6?: Ip;
}

/** A way into the box: an address of it and a service that it answers there. */
export interface Contact {
  readonly address: Ip;
  readonly service: AnswerName;
  /** TCP port. */
  readonly port: number;
}

/** Whether a way in counts: somebody listens there, and it is not another one's. */
export type Counts = (way: Contact) => boolean;
const ANY: Counts = () => true;
/** On a live box that alone by which it is called: of what else it could answer nobody has seen that it does. */
export const byShell =
  (port?: number): Counts =>
  (way) =>
    way.service === 'ssh' && (port === undefined || way.port === port);

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

/** What is written of a seat's addresses, as clauses of its station. */
export const seatClauses = (s: Seat): { readonly name: string; readonly text: string }[] => [
  ...(s.address ? [{ name: 'address', text: `address ${formatPrefix(s.address)}` }] : []),
  ...(s.gateway === undefined ? [] : [{ name: 'gateway', text: `gateway ${formatIp(s.gateway)}` }]),
  ...(s.address6 ? [{ name: 'address6', text: `address6 ${formatPrefix(s.address6)}` }] : []),
  ...(s.gateway6 === undefined ? [] : [{ name: 'gateway6', text: `gateway6 ${formatIp(s.gateway6)}` }]),
];

/** The same for seats that are alike. */
export const seatKey = (s: Seat): string => [s.plug, ...seatClauses(s).map((c) => c.text)].join(', ');
/** The same for ways in that are alike. */
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
    private readonly counts: Counts,
  ) {
    this.name = station.name;
    this.supposed = station.supposed;
    this.leased = station.dhcp;
    this.also = station.macStated ? `, mac ${formatMac(station.mac)}` : '';
    this.around = wiring.statements
      .filter((s) => s.kind === 'circuit' || s.kind === 'switch' || s.kind === 'router')
      .map((s) => textOf(wiring, s))
      .join('\n');
  }

  /** The seat of a site: the station that says so, the one of this name, or a supposed desk that gets in. */
  static of(running: Model, named?: string, counts = ANY): SeatWorld | undefined {
    const { site, wiring } = running;
    const station =
      wiring.stations.find((s) => (named === undefined ? s.seat : s.name === named)) ??
      (named === undefined ? supposedSeat(running, counts) : undefined);
    if (!station || (!landed(station.landing) && !interfaceFor(site, wiring, station))) return undefined;
    const clause = station.statement && clausesOf(station.statement, 'at')[0];
    const plug =
      station.statement && clause
        ? documentOf(site, station.statement)
            .text.slice(clause.start, clause.end)
            .trim()
            .replace(/^at\s+/, '')
        : landed(station.landing)
          ? station.landing.port
          : '';
    const start = seatOf(running, station, plug);
    return start && new SeatWorld(site, plug, station, start, counts);
  }

  /** The model of a box, by its text or as it stands in another, with the seat as it is and nobody else. */
  model(box: string | Site, seat: Seat | 'leased', plug = this.plug): Model {
    const has = seat === 'leased' ? [] : seatClauses(seat);
    // Who has no address at all takes what is lent, whenever that is.
    const how = has.length ? has.map((c) => c.text).join(', ') : 'address by dhcp';
    const at = seat === 'leased' ? plug : seat.plug;
    const wiring = `${this.around}\nstation ${this.name}: at ${at}, ${how}${this.also}, seat\n`;
    return modelOf(buildSite([...this.read(box), parseDocument(wiring, 'seat')], this.wiring.today));
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
    return contactsOf(new Reach(this.model(box, seat)), this.name).filter(this.counts);
  }

  /** What the box lends the PC when it asks for an address where it is plugged, or at another plug. */
  private lease(box: string | Site, plug = this.plug): Seat | undefined {
    const model = this.model(box, 'leased', plug);
    const station = seatedAt(model, this.name)?.station;
    const seat = station && seatOf(model, station, plug);
    return seat?.address && seat;
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
      const own = iface?.addresses.map((a) => a.prefix) ?? [];
      // By IPv4 wherever there is any; in a network of IPv6 alone by that.
      const family: Family = own.some((p) => isIpv4(p.address)) ? 4 : 6;
      for (const net of own) {
        if (familyOf(net.address) !== family) continue;
        const seat =
          family === 4
            ? { plug, address: freeIn(net as Prefix<Ipv4>, now.address, iface!), gateway: net.address }
            : {
                ...now,
                plug,
                address6: freeIn(net as Prefix<Ipv6>, now.address6, iface!),
                gateway6: net.address,
              };
        offer({ what, seat, leased: false, instead });
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
function freeIn<T extends Ip>(net: Prefix<T>, was: Prefix<T> | undefined, iface: Interface): Prefix<T> {
  const range = prefixRange(net);
  const own = new Set<Ip>(iface.addresses.map((a) => a.prefix.address));
  const wanted = was && offsetIp(range.first, Number(BigInt(was.address) & 0xffn));
  const good = wanted !== undefined && wanted > range.first && wanted < range.last && !own.has(wanted);
  const address = good ? wanted : lowestFree(net, (a) => own.has(a));
  return { address: address ?? net.address, length: net.length };
}

/** A station, supposed or not, and the interface that takes what it sends. */
export function seatedAt(
  { site, wiring }: Model,
  name: string,
): { readonly station: Station; readonly at?: Interface } | undefined {
  const station = wiring.stations.find((s) => s.name === name);
  return station && { station, at: interfaceFor(site, wiring, station) };
}

/** How a station stands at a plug, with the address that it has or is foreseen to get. */
function seatOf(model: Model, station: Station, plug: string): Seat | undefined {
  const { stations, stations6 } = model.prospects;
  const address = stations.get(station.name);
  if (!address && !stations6.has(station.name)) return undefined;
  const at = interfaceFor(model.site, model.wiring, station);
  if (!at && !landed(station.landing)) return undefined;
  const gateway = at && address && stationGateway(model, station, at, 4);
  const { address6, gateway6 } = station;
  return { plug, address, gateway: gateway === 'router' ? undefined : gateway, address6, gateway6 };
}

/** The ways into the box that a station has. */
export function contactsOf(reach: Reach, station: string): Contact[] {
  const at = seatedAt(reach.model, station)?.at;
  const who = at && ({ type: 'name', kind: 'interface', name: at.name, at: AT } as const);
  return who ? ([4, 6] as const).flatMap((family) => contactsBy(reach, who, station, family)) : [];
}

function contactsBy(reach: Reach, who: Who, station: string, family: Family): Contact[] {
  // Supposed stations are there, though nothing can name them.
  const place = reach.places(who, family).find((p) => p.station?.name === station);
  if (!place) return [];
  const own = reach.follower.ways.ownOf(place.at.table, family);
  const out: Contact[] = [];
  for (const { answered, outcome } of reach.answers(place, own, family, 'routed')) {
    const answer = outcome?.answer;
    const item = answer?.services[0];
    if (!answered || !answer || item?.kind !== 'ports' || !INTO.includes(answer.name)) continue;
    if (!answered.services.has({ proto: item.proto, port: item.first })) continue;
    for (const range of answered.destinations.ranges)
      for (let a: Ip | undefined = range.first; a !== undefined && a <= range.last; a = offsetIp(a, 1))
        out.push({ address: a, service: answer.name, port: item.first });
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
      (a.address < b.address ? -1 : Number(a.address > b.address)),
  );
}

/** Where nothing is said of a seat: the desk that is supposed behind the first interface that would let one in. */
function supposedSeat(model: Model, counts: Counts): Station | undefined {
  const { site, wiring } = model;
  const reach = new Reach(model);
  const desks = wiring.stations.filter(
    (s) =>
      s.supposed &&
      landed(s.landing) &&
      s.landing.tag === undefined &&
      contactsOf(reach, s.name).some(counts),
  );
  const managed = (s: Station) => interfaceAt(site, s.landing)?.zone?.management;
  return desks.find(managed) ?? desks[0];
}
