/** What is known of the word under the pointer: a network with its mask and hosts, or a thing by its name. */
import {
  broadcastOf,
  contains,
  formatIp,
  formatPrefix,
  hostRange,
  isIpv4,
  maskOfLength,
  networkOf,
  parseIp,
  parsePrefix,
  specialRangeOf,
} from '#core/addr';
import type { Ip, Prefix } from '#core/addr';
import { resolveShort } from '#core/notation';
import type { Statement } from '#core/notation';
import { baseAddress } from '#core/notation';
import { addressesOf, interfaceNamed, networksOf, stationsOf, zoneNamed } from '#core/site';
import type { Prospects, Site, Wiring } from '#core/site';

export type Fact = readonly [label: string, value: string];

/** Facts about a word of a statement; none where there is nothing to tell. */
export function factsAbout(
  site: Site,
  wiring: Wiring,
  prospects: Prospects,
  statement: Statement | undefined,
  word: string,
): Fact[] {
  const [head = '', length] = word.split('/');
  const base = statement && baseAddress(statement);
  const address =
    head.startsWith('.') && base !== undefined
      ? resolveShort(head.split('-')[0]!, base)
      : parseIp(head.split('-')[0]!);
  if (address !== undefined) {
    const written = length === undefined ? undefined : parsePrefix(`${formatIp(address)}/${length}`);
    return aboutAddress(site, prospects, address, written);
  }
  const iface = interfaceNamed(site, word);
  if (iface) {
    const own = addressesOf(iface, prospects);
    return [
      ['interface', `${iface.name} in ${iface.zone?.name ?? 'no zone'}, table ${iface.table}`],
      ...own.map((p): Fact => ['address', formatPrefix(p)]),
      [
        'here sit',
        stationsOf(wiring, iface)
          .map((s) => s.name)
          .join(', ') || 'nobody',
      ],
    ];
  }
  const zone = zoneNamed(site, word);
  if (zone) {
    const members = site.interfaces.filter((i) => i.zone === zone);
    return [
      ['zone', `${zone.name}, place ${zone.trust + 1} of ${site.zones.length} from outside`],
      ['interfaces', members.map((i) => i.name).join(', ') || 'none'],
    ];
  }
  return [];
}

function aboutAddress(site: Site, prospects: Prospects, address: Ip, written: Prefix | undefined): Fact[] {
  const facts: Fact[] = [['address', formatIp(address)]];
  const holder = site.interfaces.find((i) => addressesOf(i, prospects).some((p) => p.address === address));
  const home = site.interfaces.flatMap((i) =>
    networksOf(i, prospects)
      .filter((n) => contains(n, address))
      .map((n) => ({ iface: i, net: n })),
  )[0];
  const net = written ? networkOf(written) : home?.net;
  if (net) {
    facts.push(['network', formatPrefix(net)]);
    if (isIpv4(net.address)) {
      facts.push(['mask', formatIp(maskOfLength(net.length))]);
      if (net.length < 31) facts.push(['broadcast', formatIp(broadcastOf(net))]);
      const { first, last } = hostRange(net);
      const count = Number(last) - Number(first) + 1;
      facts.push(['hosts', `${formatIp(first)}–${formatIp(last)} (${count})`]);
    }
  }
  const special = specialRangeOf(address);
  if (special) facts.push(['kind', `${special.what} (${special.source})`]);
  const stations = [...prospects.stations, ...prospects.stations6].filter(([, p]) => p.address === address);
  const users = [...(holder ? [`interface ${holder.name}`] : []), ...stations.map(([name]) => name)];
  if (users.length) facts.push(['used by', users.join(', ')]);
  else if (home) facts.push(['on', home.iface.name]);
  return facts;
}
