/** What concerns the inside: a port to manage the box by, an address for one device, a zone, a passage. */
import {
  contains,
  formatIp,
  formatMac,
  formatPrefix,
  isIpv4,
  networkOf,
  parseIp,
  parseMac,
  parsePrefix,
} from '#core/addr';
import type { Ip } from '#core/addr';
import { isName, isReserved, printString } from '#core/notation';
import { firstHost, freeName, nextFreeSubnet } from '#core/model';
import { interfaceNamed, lowestFree, staticNetworks, stationsOf, zoneNamed } from '#core/site';
import { Sheet, ask, pick, refuse } from './gesture';
import type { Gesture, Role } from './gesture';
import { nameFault } from './names';
import { freePorts, leavesAlready, passagePlace, roleOf, zonePlace, zoneText, portOffers } from './places';

/** A port of its own to manage the box by, with what answers there and to whom. */
export const MANAGEMENT: Gesture = {
  asks: (model, place, put) => {
    const { site } = model;
    const zone = site.zones.find((z) => z.management)?.name;
    const net = nextFreeSubnet(model);
    const own = put['own'] ?? (net ? firstHost(net) : '');
    const port = put['port'] ?? place.port ?? freePorts(site)[0] ?? '';
    return [
      ask('name', 'word', freeName(site, 'interface', 'console')),
      ask('port', 'port', port, { offers: portOffers(site) }),
      ask('tag', 'tag', '', { may: true }),
      ask('zone', 'word', place.zone ?? zone ?? 'stewards', {
        offers: site.zones.filter((z) => z.management).map((z) => z.name),
      }),
      ask('own', 'own', own),
      ask('https', 'number', '443'),
      ask('ssh', 'number', '22'),
      ask('from', 'who', '', {
        may: true,
        many: true,
        offers: [
          ...site.zones.filter((z) => !z.upstream).map((z) => z.name),
          ...site.knowns.map((k) => k.name),
        ],
      }),
      ask('ssh-from', 'who', '', { may: true, many: true, offers: site.knowns.map((k) => k.name) }),
      ask('pool', 'range', '', { may: true }),
    ];
  },
  write: ({ site }, values) => {
    const {
      name = '',
      port = '',
      tag = '',
      zone = '',
      own = '',
      https = '',
      ssh = '',
      from = '',
      pool = '',
    } = values;
    const fault = nameFault(site, 'interface', name);
    if (fault) return refuse('name', fault);
    if (!isName(zone) || isReserved(zone)) return refuse('zone', { what: 'name' });
    if (!parsePrefix(own)) return refuse('own', { what: 'no-address' });
    const sheet = new Sheet(site);
    if (!zoneNamed(site, zone))
      sheet.add('zone', zoneText(zone, 'management'), zonePlace(site, 'management'));
    const sshFrom = (values['ssh-from'] ?? '') || from;
    const service = (word: string, port: string, usual: string) =>
      port && port !== usual ? `${word} ${port}` : word;
    const answers = [
      { text: 'ping', from: '' },
      { text: service('https', https, '443'), from },
      { text: service('ssh', ssh, '22'), from: sshFrom },
    ];
    const clauses = [...new Set(answers.map((a) => a.from))].map((who) => {
      const said = answers.filter((a) => a.from === who).map((a) => a.text);
      return `answers ${said.join(' ')}${who ? ` from ${who}` : ''}`;
    });
    sheet.add(
      'interface',
      `interface ${name}: on ${port}${tag ? ` tag ${tag}` : ''}, zone ${zone}, address ${own}${pool ? `, lends ${pool}` : ''},\n  ${clauses.join(', ')}`,
    );
    const statement = site.ports.get(port)?.statement;
    if (statement?.off) sheet.clause(statement, { do: 'remove', name: 'off' }, `port ${port}:`);
    return sheet.done(`interface/${name}`);
  },
};

/** An address that one device always gets. */
export const RESERVATION: Gesture = {
  asks: (model, place, put) => {
    const { site, wiring, prospects } = model;
    const lending = site.interfaces.filter(
      (i) => !i.uplink && (i.pools.length > 0 || staticNetworks(i).length > 0),
    );
    const name =
      put['interface'] ?? place.interface ?? (lending.find((i) => i.pools.length) ?? lending[0])?.name ?? '';
    const iface = interfaceNamed(site, name);
    const devices = iface
      ? stationsOf(wiring, iface).filter(
          (s) => !s.supposed && s.dhcp && !iface.reserved.some((k) => k.mac === s.mac),
        )
      : [];
    const device =
      devices.find((s) => s.name === (put['device'] ?? place.label)) ??
      (put['device'] === undefined && !place.mac ? devices[0] : undefined);
    const lent = device && prospects.stations.get(device.name)?.address;
    const taken = new Set<Ip>([
      ...(iface?.addresses.map((a) => a.prefix.address) ?? []),
      ...(iface?.reserved.map((k) => k.address) ?? []),
      ...[...prospects.stations.values()].map((p) => p.address),
    ]);
    const net = iface && staticNetworks(iface).find((n) => isIpv4(n.address));
    const free = net && lowestFree(net as never, (a) => taken.has(a));
    const address =
      place.address ?? (lent !== undefined ? formatIp(lent) : free !== undefined ? formatIp(free) : '');
    return [
      ask('interface', 'interface', name, { offers: lending.map((i) => i.name) }),
      ask('device', 'who', device?.name ?? '', { may: true, offers: devices.map((s) => s.name) }),
      ask('mac', 'mac', device ? formatMac(device.mac) : (place.mac ?? '')),
      ask('address', 'address', address),
      ask('label', 'text', put['device'] || place.label || device?.name || '', { may: true }),
    ];
  },
  write: ({ site }, values) => {
    const iface = interfaceNamed(site, values['interface'] ?? '');
    if (!iface) return refuse('interface', { what: 'needed' });
    if (parseMac(values['mac'] ?? '') === undefined) return refuse('mac', { what: 'needed' });
    const net = staticNetworks(iface).find((n) => isIpv4(n.address));
    const address = parseIp(values['address'] ?? '');
    if (address === undefined) return refuse('address', { what: 'no-address' });
    if (net && !staticNetworks(iface).some((n) => contains(n, address)))
      return refuse('address', { what: 'outside', network: formatPrefix(networkOf(net)) });
    const label = values['label']?.trim();
    const keeps = `keeps ${formatIp(address)} for ${values['mac']}${label ? ` ${printString(label)}` : ''}`;
    return new Sheet(site)
      .clause(iface.statement, { do: 'add', text: keeps }, `interface ${iface.name}: ${keeps}`)
      .done(iface.statement.subject);
  },
};

/** A zone, where it belongs in the order of trust. */
export const ZONE: Gesture = {
  asks: ({ site }, place, put) => {
    const role = (put['role'] ?? place.role ?? 'inside') as Role;
    const name = freeName(site, 'zone', role === 'inside' ? 'zone' : role);
    return [
      ask(
        'name',
        'word',
        name === 'upstream' || name === 'management'
          ? freeName(site, 'zone', role === 'upstream' ? 'world' : 'stewards')
          : name,
      ),
      pick('role', role, ['inside', 'dmz', 'management', 'upstream']),
      ask('after', 'zone', put['after'] ?? place.zone ?? '', {
        may: true,
        offers: site.zones.map((z) => z.name),
      }),
    ];
  },
  write: ({ site }, values) => {
    const { name = '', role = 'inside', after = '' } = values;
    const fault = nameFault(site, 'zone', name);
    if (fault) return refuse('name', fault);
    const beside = zoneNamed(site, after)?.statement;
    return new Sheet(site)
      .add('zone', zoneText(name, role as Role), beside ? { after: beside } : zonePlace(site, role as Role))
      .done(`zone/${name}`);
  },
};

/** What may start from one zone to another. */
export const PASSAGE: Gesture = {
  asks: ({ site }, place) => {
    const inside = site.zones.filter((z) => !z.upstream);
    const zones = ['any', ...site.zones.map((z) => z.name)];
    const from = place.zone ?? inside[inside.length - 1]?.name ?? 'any';
    const to = place.to ?? site.zones.find((z) => z.name !== from)?.name ?? 'any';
    const target = zoneNamed(site, to);
    const services = target && roleOf(target) === 'dmz' ? 'tcp 80 443 ping' : '';
    const hosts = [...site.knowns.map((k) => k.name), ...site.interfaces.map((i) => i.name)];
    return [
      ask('from', 'side', from, { offers: zones }),
      ask('to', 'side', to, { offers: zones }),
      pick('verdict', 'allow', ['allow', 'drop', 'reject']),
      ask('services', 'services', services, {
        many: true,
        may: true,
        offers: ['tcp 80 443', 'tcp 443', 'dns', 'ping', 'ssh', 'ntp', 'any'],
      }),
      ask('sources', 'who', '', { many: true, may: true, offers: hosts }),
      ask('destinations', 'who', '', {
        many: true,
        may: true,
        offers: [...hosts, ...site.stations.map((s) => s.name)],
      }),
      ask('log', 'flag', '', { may: true, lead: 'log' }),
      ask('until', 'day', '', { may: true }),
    ];
  },
  write: ({ site }, values) => {
    const {
      from = '',
      to = '',
      verdict = 'allow',
      services = '',
      sources = '',
      destinations = '',
      log = '',
      until = '',
    } = values;
    for (const [key, zone] of [
      ['from', from],
      ['to', to],
    ] as const)
      if (zone !== 'any' && !zoneNamed(site, zone))
        return refuse(key, { what: 'no-such', kind: 'zone', name: zone });
    const clauses = [
      `${verdict}${services && services !== 'any' ? ` ${services}` : ''}`,
      ...(sources ? [`from ${sources}`] : []),
      ...(destinations ? [`to ${destinations}`] : []),
      ...(log ? ['log'] : []),
      ...(until ? [`until ${until}`] : []),
    ];
    const place = passagePlace(site, from, to);
    const before = place.before ? site.passages.indexOf(place.before) : site.passages.length;
    const n =
      site.passages.slice(0, before).filter((p) => p.from.name === from && p.to.name === to).length + 1;
    const sheet = new Sheet(site).add('passage', `passage ${from} > ${to}: ${clauses.join(', ')}`, place);
    // What may go out and shows its private address gets no answer.
    if (
      verdict === 'allow' &&
      zoneNamed(site, to)?.upstream &&
      zoneNamed(site, from) &&
      !leavesAlready(site, from, to)
    )
      sheet.add('leave', `leave ${from} > ${to}: as interface`);
    return sheet.done(`passage/${from}>${to}#${n}`);
  },
};
