/** A network behind the box: a VLAN on a trunk or a port of its own, with its zone, address, pool and what may pass. */
import { formatIp, formatPrefix, hostRange, isIpv4, networkOf, overlaps, parsePrefix } from '#core/addr';
import type { Ipv4, Prefix } from '#core/addr';
import { isName, isReserved } from '#core/notation';
import type { FileChange } from '#core/notation';
import { firstHost, freeName, nextFreeSubnet } from '#core/model';
import type { Model } from '#core/model';
import { interfaceNamed, landingOn, lendersAt, staticNetworks, zoneNamed } from '#core/site';
import type { Site } from '#core/site';
import { changeClauses } from '../change';
import { Sheet, ask, pick, refuse } from './gesture';
import type { Ask, Gesture, Made, Role } from './gesture';

import type { Values } from '../forms';
import { nameFault } from './names';
import { freePorts, leavesAlready, outerZone, roleOf, zonePlace, zoneText, portOffers } from './places';

export const NETWORK: Gesture = {
  asks: (model, place, put) => {
    const { site } = model;
    const zone = put['zone'] ?? place.zone ?? '';
    const known = zoneNamed(site, zone);
    const role = known ? roleOf(known) : ((put['role'] ?? place.role ?? 'inside') as Role);
    const port = put['port'] ?? place.port ?? trunkOf(site) ?? freePorts(site)[0] ?? '';
    const tag = put['tag'] ?? place.tag ?? suggestedTag(site, port);
    const name =
      put['name'] ??
      freeName(site, 'interface', place.zone ?? (role === 'dmz' ? 'shop' : tag ? `vlan${tag}` : 'office'));
    const own = put['own'] ?? suggestedOwn(model, tag);
    return [
      ask('name', 'word', name),
      ask('port', 'port', port, { offers: portOffers(site) }),
      ask('tag', 'tag', tag, { may: true, offers: carriedFree(site, port) }),
      ask('zone', 'word', zone || name, { offers: site.zones.map((z) => z.name) }),
      ...(known ? [] : [pick('role', role, ['inside', 'dmz', 'management'])]),
      ask('own', 'own', own),
      ask('pool', 'range', put['pool'] ?? (role === 'dmz' ? '' : poolIn(own)), { may: true }),
      ...answerAsks(site, role),
      ...outAsks(site, known !== undefined, role),
      ...jackAsk(site, port, tag),
    ];
  },
  write: (model, values, place) => {
    const { site } = model;
    const fault = nameFault(site, 'interface', values['name'] ?? '');
    if (fault) return refuse('name', fault);
    const sheet = new Sheet(site);
    const wrong = writeNetwork(model, sheet, values, place.role);
    return wrong ?? sheet.done(`interface/${values['name']}`);
  },
};

/**
 * Whether nobody would tell a station behind the box whom to ask for names, and this is the first pool: others would
 * hand out the box as well, which need not answer there.
 */
const lacksNames = ({ box, interfaces }: Site): boolean =>
  !box?.servesNames && !box?.names.length && !interfaces.some((i) => i.pools.length > 0);

/** What the box answers there. */
function answerAsks(site: Site, role: Role): Ask[] {
  const names = site.box?.servesNames || lacksNames(site);
  const usual = role === 'management' ? 'ping ssh https' : names && role !== 'dmz' ? 'ping dns' : 'ping';
  return [ask('answers', 'services', usual, { may: true, many: true })];
}

/** What may go out: in a zone that is there, what it may already; in a new one, what its role suggests. */
function outAsks(site: Site, isThere: boolean, role: Role): Ask[] {
  if (!outerZone(site)) return [];
  if (isThere) return [pick('out', 'same', ['same', 'all', 'web'])];
  const usual = { inside: 'all', dmz: 'web', management: 'nothing', upstream: 'nothing' }[role];
  return [pick('out', usual, ['all', 'web', 'nothing'])];
}

/** Writes the zone where it is new, the interface, what passes, and the tag where the switch lacks it. */
function writeNetwork(model: Model, sheet: Sheet, values: Values, role: Role | undefined): Made | undefined {
  const { site } = model;
  const {
    name = '',
    zone = '',
    port = '',
    tag = '',
    own = '',
    pool = '',
    answers = '',
    out = 'nothing',
  } = values;
  const net = parsePrefix(own);
  if (!net || !isIpv4(net.address)) return refuse('own', { what: 'no-address' });
  const inside = networkOf(net);
  const { first, last } = hostRange(inside);
  if (inside.length < 31 && (net.address < first || net.address > last))
    return refuse('own', { what: 'not-host', network: formatPrefix(inside) });
  const known = zoneNamed(site, zone);
  if (!known) {
    if (!isName(zone) || isReserved(zone)) return refuse('zone', { what: 'name' });
    const as = (values['role'] ?? role ?? 'inside') as Role;
    sheet.add('zone', zoneText(zone, as), zonePlace(site, as));
  }
  const clauses = [
    `on ${port}${tag ? ` tag ${tag}` : ''}`,
    `zone ${zone}`,
    `address ${formatPrefix(net)}`,
    ...(pool ? [`lends ${pool}`] : []),
    ...(answers ? [`answers ${answers}`] : []),
  ];
  sheet.add('interface', `interface ${name}: ${clauses.join(', ')}`);
  const outer = outerZone(site);
  if (outer && (out === 'all' || out === 'web') && zone !== outer.name) {
    const passes = site.passages.some((p) => p.from.name === zone && p.to.name === outer.name);
    if (!passes)
      sheet.add(
        'passage',
        `passage ${zone} > ${outer.name}: allow${out === 'web' ? ' dns ntp tcp 80 443' : ''}`,
      );
    if (!leavesAlready(site, zone, outer.name))
      sheet.add('leave', `leave ${zone} > ${outer.name}: as interface`);
  }
  // A pool that tells no resolver lends addresses with which no page opens.
  if (pool && lacksNames(site) && answers.split(' ').includes('dns')) {
    if (site.box)
      sheet.clause(site.box, { do: 'add', text: 'serves names' }, `box ${site.box.name}: serves names`);
    else sheet.add('box', 'box edge: serves names');
  }
  carry(site, sheet, port, tag, values['jack'] ?? '');
  return undefined;
}

/** Lets the switch at a port carry tags that it does not carry yet. */
export function carriageOf(site: Site, port: string, tags: readonly number[]): FileChange[] {
  const wire = switchAt(site, port);
  const carried = wire?.carries.map((c) => c.value) ?? [];
  const fresh = tags.filter((t) => !carried.includes(t) && t !== wire?.native);
  if (!wire || !fresh.length) return [];
  const text = `carries ${[...carried, ...new Set(fresh)].join(' ')}`;
  return changeClauses(site, wire, [{ do: 'set', name: 'carries', text }]);
}

/** Lets the switch at a port carry a tag, and gives it to a jack. */
function carry(site: Site, sheet: Sheet, port: string, tag: string, jack: string): void {
  const wire = switchAt(site, port);
  if (!wire || !tag) return;
  if (!wire.carries.some((c) => String(c.value) === tag) && String(wire.native) !== tag) {
    const tags = [...wire.carries.map((c) => c.value), Number(tag)].join(' ');
    sheet.clause(
      wire,
      { do: 'set', name: 'carries', text: `carries ${tags}` },
      `switch ${wire.name}: carries ${tags}`,
    );
  }
  if (/^\d+$/.test(jack)) {
    const old = wire.jacks.findIndex((j) => String(j.value.jack) === jack);
    const text = `jack ${jack} tag ${tag}`;
    sheet.clause(
      wire,
      old < 0 ? { do: 'add', text } : { do: 'set', name: 'jack', nth: old, text },
      `switch ${wire.name}: ${text}`,
    );
  }
}

/** The switch whose trunk is in a port. */
export const switchAt = (site: Site, port: string) =>
  site.switches.find((s) => s.plug?.to === 'port' && s.plug.port === port);

/** A jack that gets the VLAN, where a switch hangs on the port. */
function jackAsk(site: Site, port: string, tag: string): Ask[] {
  const wire = switchAt(site, port);
  if (!wire || !tag) return [];
  const used = wire.jacks.map((j) => j.value.jack);
  const next = Math.max(0, ...used) + 1;
  return [ask('jack', 'number', '', { may: true, offers: [String(next)] })];
}

/** The port that carries VLANs already. */
export const trunkOf = (site: Site): string | undefined =>
  site.interfaces.find((i) => i.tag !== undefined && !i.uplink)?.ports[0] ??
  site.switches.flatMap((s) => (s.plug?.to === 'port' ? [s.plug.port] : []))[0];

const tagsOn = (site: Site, port: string): ReadonlySet<number | undefined> =>
  new Set(site.interfaces.filter((i) => i.ports.includes(port)).map((i) => i.tag));

/** Tags that the switch at a port carries and nothing claims. */
function carriedFree(site: Site, port: string): string[] {
  const used = tagsOn(site, port);
  return (switchAt(site, port)?.carries ?? [])
    .map((c) => c.value)
    .filter((t) => !used.has(t))
    .map(String);
}

/** A tag for one more interface on a port: one that is carried, else the next ten behind the highest; none on a free port. */
function suggestedTag(site: Site, port: string): string {
  const used = tagsOn(site, port);
  const carried = carriedFree(site, port)[0];
  if (carried !== undefined) return carried;
  if (!used.size && !switchAt(site, port)) return '';
  const highest = Math.max(0, ...[...used].map((t) => t ?? 0));
  for (const from of [Math.floor(highest / 10) * 10 + 10, 10])
    for (let tag = from; tag <= 4094; tag += 10) if (!used.has(tag)) return String(tag);
  return '';
}

/** The first address of the network whose third octet is the tag where that is free, else of the next free one. */
function suggestedOwn(model: Model, tag: string): string {
  const next = nextFreeSubnet(model);
  if (!next) return '';
  const octet = Number(tag);
  const like = {
    address: ((next.address & 0xffff0000) >>> 0) + (octet << 8),
    length: next.length,
  } as Prefix<Ipv4>;
  const taken = model.site.interfaces.some((i) => staticNetworks(i).some((n) => overlaps(n, like)));
  const net = tag !== '' && octet > 0 && octet < 256 && next.length === 24 && !taken ? like : next;
  return firstHost(net);
}

/** A pool that leaves room for what has a fixed address. */
function poolIn(own: string): string {
  const prefix = parsePrefix(own);
  if (!prefix || !isIpv4(prefix.address) || prefix.length > 29) return '';
  const { first, last } = hostRange(networkOf(prefix) as Prefix<Ipv4>);
  if (prefix.length === 24) return '.50-.199';
  const from = (first + Math.max(9, Math.floor((last - first) / 5))) as Ipv4;
  return from < last ? `${formatIp(from)}-${formatIp((last - 1) as Ipv4)}` : '';
}

/** A second subnet on a network that is there: a secondary address with a pool of its own. */
export const SECOND_SUBNET: Gesture = {
  asks: (model, place, put) => {
    const { site } = model;
    const inside = site.interfaces.filter((i) => !i.uplink);
    const iface = put['interface'] ?? place.interface ?? inside[0]?.name ?? '';
    const beside = interfaceNamed(site, iface);
    const own = put['own'] ?? neighbour(model, beside ? staticNetworks(beside) : []);
    // Where somebody else lends, a second server is nothing to suggest.
    const landing = beside && landingOn(beside);
    const lent = landing && lendersAt(site, model.wiring, landing).length > 0;
    return [
      ask('interface', 'interface', iface, { offers: inside.map((i) => i.name) }),
      ask('own', 'own', own),
      ask('pool', 'range', put['pool'] ?? (lent ? '' : fullPool(own)), { may: true }),
    ];
  },
  write: ({ site }, values) => {
    const iface = interfaceNamed(site, values['interface'] ?? '');
    if (!iface) return refuse('interface', { what: 'needed' });
    const net = parsePrefix(values['own'] ?? '');
    if (!net || !isIpv4(net.address)) return refuse('own', { what: 'no-address' });
    const sheet = new Sheet(site);
    const also = `also ${formatPrefix(net)}`;
    sheet.clause(
      iface.statement,
      { do: 'add', text: also },
      `interface ${iface.name}: address ${addressOf(iface)}, ${also}`,
    );
    const pool = values['pool'] ?? '';
    if (pool) {
      const lends = `lends ${pool}`;
      sheet.clause(
        iface.statement,
        { do: 'add', text: lends },
        `interface ${iface.name}: address ${addressOf(iface)}, ${lends}`,
      );
    }
    return sheet.done(iface.statement.subject);
  },
};

const addressOf = (iface: { readonly addresses: readonly { readonly prefix: Prefix }[] }): string =>
  iface.addresses[0] ? formatPrefix(iface.addresses[0].prefix) : 'by dhcp';

/** The pool of a second subnet is spelt out: short forms would lean on the first. */
function fullPool(own: string): string {
  const prefix = parsePrefix(own);
  if (!prefix || !isIpv4(prefix.address) || prefix.length > 29) return '';
  const { first, last } = hostRange(networkOf(prefix) as Prefix<Ipv4>);
  const from = (first + Math.min(9, Math.floor((last - first) / 5))) as Ipv4;
  return `${formatIp(from)}-${formatIp((last - 1) as Ipv4)}`;
}

/** The next free network behind those that the interface has, of the same length. */
function neighbour(model: Model, nets: readonly Prefix[]): string {
  const own = nets.filter((n): n is Prefix<Ipv4> => isIpv4(n.address));
  const last = own[own.length - 1];
  const free = last && nearestBehind(model, last);
  const net = free ?? nextFreeSubnet(model);
  return net ? firstHost(net) : '';
}

function nearestBehind(model: Model, net: Prefix<Ipv4>): Prefix<Ipv4> | undefined {
  const next = { address: (net.address + 2 ** (32 - net.length)) as Ipv4, length: net.length };
  const taken = model.site.interfaces.some((i) => staticNetworks(i).some((n) => overlaps(n, next)));
  return taken ? undefined : next;
}
