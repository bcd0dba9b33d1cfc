/** What concerns the outside: a service published, a network leaving by an address, one more uplink. */
import { contains, formatIp, formatMac, formatServices, isIpv4, parseIp, parsePrefix } from '#core/addr';
import type { Ip } from '#core/addr';
import { isName, isReserved, printString } from '#core/notation';
import { freeName, freePublic, ledgerOf } from '#core/model';
import type { Model } from '#core/model';
import { interfaceFor, interfaceNamed, zoneNamed } from '#core/site';
import { Sheet, ask, pick, refuse } from './gesture';
import type { Gesture } from './gesture';
import { nameFault } from './names';
import {
  freePorts,
  leavePlace,
  leavesAlready,
  outerZone,
  passagePlace,
  uplinkOf,
  zonePlace,
  zoneText,
  portOffers,
} from './places';

/** Services that are published most, as they are written. */
const PUBLISHED = ['tcp 443', 'tcp 80 443', 'tcp 25', 'tcp 22', 'tcp 3389', 'udp 51820'];

/** Publishes one inside service at a public address: a door, its passage from inside, a reservation, a promise. */
export const PUBLISH: Gesture = {
  asks: (model, place, put) => {
    const { site } = model;
    const free = freePublic(model).map(formatIp);
    const uplinks = site.interfaces.filter((i) => i.uplink).map((i) => i.name);
    const outside = put['outside'] ?? place.address ?? free[0] ?? uplinks[0] ?? '';
    const hosts = [...site.stations.map((s) => s.name), ...site.knowns.map((k) => k.name)];
    const host = put['host'] ?? hostAt(model, place.interface) ?? '';
    return [
      ask('name', 'word', freeName(site, 'door', isName(host) && !isReserved(host) ? host : 'web')),
      ask('outside', 'public', outside, { offers: [...free, ...uplinks] }),
      ask('services', 'services', listensTo(model, host) || 'tcp 443', { many: true, offers: PUBLISHED }),
      ask('host', 'who', host, { offers: hosts }),
      ask('inside-services', 'services', '', { many: true, may: true, offers: PUBLISHED }),
      ask('from', 'who', '', { many: true, may: true, offers: site.knowns.map((k) => k.name) }),
      ask('inside', 'zone', '', {
        may: true,
        offers: site.zones.filter((z) => !z.upstream).map((z) => z.name),
      }),
      pick('promise', 'yes', ['yes', 'no']),
    ];
  },
  write: (model, values) => {
    const { site } = model;
    const { name = '', outside = '', services = '', host = '', from = '', inside = '' } = values;
    const fault = nameFault(site, 'door', name);
    if (fault) return refuse('name', fault);
    if (!outside) return refuse('outside', { what: 'no-uplink' });
    const target = addressOfHost(model, host);
    if (target === undefined) return refuse('host', { what: 'no-lease-yet', station: host });
    const own = values['inside-services'] ?? '';
    const word = site.knowns.some((k) => k.name === host) ? host : formatIp(target.address);
    const sheet = new Sheet(site);
    const clauses = [
      `${outside} ${services} > ${word}${own && own !== services ? ` ${own}` : ''}`,
      ...(from ? [`from ${from}`] : []),
    ];
    sheet.add('door', `door ${name}: ${clauses.join(', ')}`);
    // Who takes its address from a pool may have another tomorrow, and the door would lead to somebody else.
    const home = target.home === undefined ? undefined : interfaceNamed(site, target.home);
    if (home && target.mac && target.isLent) {
      const keeps = `keeps ${formatIp(target.address)} for ${target.mac} ${printString(host)}`;
      sheet.clause(home.statement, { do: 'add', text: keeps }, `interface ${home.name}: ${keeps}`);
    }
    const zone = home?.zone?.name;
    if (inside && zone && inside !== zone)
      sheet.add(
        'passage',
        `passage ${inside} > ${zone}: allow ${own || services}, to ${word}`,
        passagePlace(site, inside, zone),
      );
    if (values['promise'] !== 'no') sheet.add('expect', `expect internet reaches door ${name}`);
    return sheet.done(`door/${name}`);
  },
};

interface Target {
  readonly address: Ip;
  /** The interface that it sits behind. */
  readonly home?: string;
  readonly mac?: string;
  /** Whether it takes its address from a pool that promises it nothing. */
  readonly isLent?: boolean;
}

function addressOfHost(model: Model, host: string): Target | undefined {
  const { site, wiring, prospects } = model;
  const literal = parseIp(host);
  if (literal !== undefined) {
    const home = site.interfaces.find(
      (i) => !i.uplink && i.addresses.some((a) => contains(a.prefix, literal)),
    );
    return { address: literal, home: home?.name };
  }
  const known = site.knowns.find((k) => k.name === host)?.items[0]?.value.range;
  if (known)
    return {
      address: known.first,
      home: site.interfaces.find((i) => i.addresses.some((a) => contains(a.prefix, known.first)))?.name,
    };
  const station = wiring.stations.find((s) => s.name === host);
  const address = station && prospects.stations.get(station.name)?.address;
  if (!station || address === undefined) return undefined;
  const home = interfaceFor(site, wiring, station);
  const kept = home?.reserved.some((k) => k.mac === station.mac);
  return { address, home: home?.name, mac: formatMac(station.mac), isLent: station.dhcp && !kept };
}

/** Somebody behind an interface who listens to something. */
const hostAt = ({ site, wiring }: Model, iface: string | undefined): string | undefined =>
  wiring.stations.find(
    (s) =>
      !s.supposed &&
      s.listens.length > 0 &&
      (iface === undefined || interfaceFor(site, wiring, s)?.name === iface),
  )?.name;

/** What a station listens to, as it is written. */
const listensTo = ({ wiring }: Model, host: string): string =>
  formatServices(wiring.stations.find((s) => s.name === host)?.listens ?? []);

/** Lets a network be seen outside as an address of its own. */
export const LEAVE_AS: Gesture = {
  asks: (model, place, put) => {
    const { site } = model;
    const usable = ledgerOf(model).filter((l) => !l.uses.some((u) => u.use === 'gateway'));
    const free = usable.filter((l) => ['free', 'also', 'shared'].includes(l.uses[0]?.use ?? ''));
    const address = put['address'] ?? place.address ?? (free[0] ? formatIp(free[0].address) : '');
    const parsed = parseIp(address);
    const own = parsed === undefined ? undefined : uplinkOf(site, parsed);
    const uplinks = site.interfaces.filter((i) => i.uplink).map((i) => i.name);
    const inside = site.interfaces.filter((i) => !i.uplink);
    const who = [
      ...new Set([
        ...site.zones.filter((z) => !z.upstream).map((z) => z.name),
        ...inside.map((i) => i.name),
        ...site.knowns.map((k) => k.name),
      ]),
    ];
    return [
      ask('who', 'who', place.interface ?? place.zone ?? who[0] ?? '', { offers: who }),
      ask('address', 'address', address, { offers: usable.map((l) => formatIp(l.address)) }),
      ask('via', 'way', own?.name ?? uplinks[0] ?? '', { offers: uplinks }),
      pick('promise', 'yes', ['yes', 'no']),
    ];
  },
  write: (model, values) => {
    const { site } = model;
    const { who = '', address = '', via = '' } = values;
    const parsed = parseIp(address);
    if (parsed === undefined) return refuse('address', { what: 'no-address' });
    if (!via) return refuse('via', { what: 'no-uplink' });
    const sheet = new Sheet(site);
    const text = `leave ${who} > ${via}: as ${address}`;
    sheet.add('leave', text, leavePlace(site, who, via));
    const named = zoneNamed(site, who) ?? interfaceNamed(site, who);
    if (values['promise'] !== 'no' && named) sheet.add('expect', `expect ${who} leaves as ${address}`);
    const n = site.leaves.filter((l) => l.subject.startsWith(`leave/${who}>${via}#`)).length + 1;
    return sheet.done(`leave/${who}>${via}#${n}`);
  },
};

/** One more line to the internet: its zone, address, order and health check, and what everybody shows on it. */
export const UPLINK: Gesture = {
  asks: (model, place, put) => {
    const { site } = model;
    const zone = put['zone'] ?? place.zone ?? outerZone(site)?.name ?? 'world';
    const port = put['port'] ?? place.port ?? lineWithout(model) ?? freePorts(site)[0] ?? '';
    const circuit = site.circuits.find((c) => c.plug?.to === 'port' && c.plug.port === port);
    const tag = circuit?.plug?.to === 'port' ? circuit.plug.tag : undefined;
    const mode = put['mode'] ?? (circuit?.pppoe ? 'pppoe' : circuit?.block ? 'static' : 'dhcp');
    const orders = site.interfaces.filter((i) => i.uplink).map((i) => i.priority);
    const watch = model.wiring.fars
      .filter((f) => !f.silent && !f.supposed)
      .flatMap((f) => f.addresses.filter(isIpv4).map(formatIp));
    return [
      ask('name', 'word', freeName(site, 'interface', circuit?.name ?? 'line')),
      ask('port', 'port', port, { offers: portOffers(site) }),
      ask('tag', 'tag', tag === undefined ? '' : String(tag), { may: true }),
      ask('zone', 'word', zone, { offers: site.zones.filter((z) => z.upstream).map((z) => z.name) }),
      pick('mode', mode, ['dhcp', 'static', 'pppoe']),
      ...(mode === 'static'
        ? [
            ask('own', 'own', ownOn(model, port)),
            ask('gateway', 'address', circuit?.gateway ? formatIp(circuit.gateway.value) : ''),
          ]
        : []),
      ...(mode === 'pppoe' ? [ask('user', 'text', ''), ask('secret', 'secret', '', { may: true })] : []),
      ask('names', 'address', '', { many: true, may: true }),
      ask('watch', 'address', watch[0] ?? '', { many: true, may: true, offers: watch }),
      ask('order', 'number', String(Math.max(0, ...orders) + 1)),
      ask('answers', 'services', 'ping', { many: true, may: true }),
    ];
  },
  write: (model, values) => {
    const { site } = model;
    const { name = '', port = '', tag = '', zone = '', mode = '', own = '', gateway = '' } = values;
    const fault = nameFault(site, 'interface', name);
    if (fault) return refuse('name', fault);
    const sheet = new Sheet(site);
    if (!zoneNamed(site, zone)) sheet.add('zone', zoneText(zone, 'upstream'), zonePlace(site, 'upstream'));
    const at = `${port}${tag ? ` tag ${tag}` : ''}`;
    if (mode === 'static' && !parsePrefix(own)) return refuse('own', { what: 'no-address' });
    if (mode === 'static' && parseIp(gateway) === undefined) return refuse('gateway', { what: 'no-address' });
    const { user = '', secret = '', names = '', watch = '', order = '', answers = '' } = values;
    const clauses = [
      mode === 'pppoe'
        ? `pppoe on ${at} user ${printString(user)}${secret ? ` secret ${printString(secret)}` : ''}`
        : `on ${at}`,
      `zone ${zone}`,
      mode === 'static' ? `address ${own}, gateway ${gateway}` : `address by ${mode}`,
      ...(order ? [`priority ${order}`] : []),
      ...(watch ? [`watch ${watch}`] : []),
      ...(names ? [`names ${names}`] : []),
      ...(answers ? [`answers ${answers}`] : []),
      'guard',
    ];
    sheet.add('interface', `interface ${name}: ${clauses.join(', ')}`);
    if (!leavesAlready(site, '', zone)) sheet.add('leave', `leave any > ${zone}: as interface`);
    return sheet.done(`interface/${name}`);
  },
};

/** A port that a provider's line is plugged into, and no interface uses. */
function lineWithout({ site }: Model): string | undefined {
  const used = new Set(site.interfaces.map((i) => `${i.ports[0]}/${i.tag ?? ''}`));
  for (const { plug } of site.circuits)
    if (plug?.to === 'port' && !used.has(`${plug.port}/${plug.tag ?? ''}`)) return plug.port;
  return undefined;
}

/** The first host address of a static line behind its gateway. */
function ownOn({ site }: Model, port: string): string {
  const circuit = site.circuits.find((c) => c.plug?.to === 'port' && c.plug.port === port);
  const block = circuit?.block?.value;
  if (!block || !isIpv4(block.address)) return '';
  const taken = circuit.gateway?.value;
  for (let n = 1; n < 4; n++) {
    const address = parseIp(formatIp((block.address + n) as typeof block.address))!;
    if (address !== taken) return `${formatIp(address)}/${block.length}`;
  }
  return '';
}
