/**
 * What a box shares with its twin, as keepalived(8) is told it: a virtual router for each interface, all of them one group
 * (RFC 9568; keepalived.conf(5)). Whoever is active has the addresses; keepalived puts them there and takes them away.
 *
 * - `shared`: `DEVICE ADDRESS/LENGTH`, what the active one has and nobody else
 * - `lowers`: `COUNT UPLINK,…`, what comes off the priority while one of them is dead
 */
import { formatIp, formatPrefix, isIpv4 } from '#core/addr';
import type { Ipv4, Prefix } from '#core/addr';
import type { Interface } from '#core/site';
import { VRRP_GROUP, VRRP_PROTOCOL } from '#core/wire';
import { quoted } from './match';
import { answeredFor, isDark } from './told';
import type { Told } from './told';

/** Where files of daemons stand that run on the active box only. */
export const ACTIVE = 'active/';

/** Whether an interface has a virtual router: one that is dark would keep all others from being active. */
const isSharing = (told: Told, i: Interface): boolean => !!i.shared && !isDark(told, i);

/** Interfaces with a virtual router, in file order. */
const sharing = (told: Told): readonly Interface[] => told.live.filter((i) => isSharing(told, i));

/** Between two advertisements, seconds (§5.2.7), as on the bench. */
const INTERVAL = 1;

/** The virtual addresses of an interface, with the length of the own one beside them. */
const virtual = (told: Told, i: Interface): readonly Prefix[] =>
  told.addresses(i, 4).filter((a) => i.shared!.addresses.includes(a.address as Ipv4));

/** The addresses of doors and leaves that go with them; two boxes share IPv4 only. */
const beside = (told: Told, i: Interface): readonly Prefix[] =>
  answeredFor(told, i).filter((a) => isIpv4(a.address));

/** All that the active box has on an interface and the other one has not; nothing where the interface is the box's alone. */
export const comesAndGoes = (told: Told, i: Interface): readonly Prefix[] =>
  isSharing(told, i) ? [...virtual(told, i), ...beside(told, i)] : [];

/** The lines of `shared`. */
export const sharedLines = (told: Told): string[] =>
  sharing(told).flatMap((i) => comesAndGoes(told, i).map((a) => `${told.dev(i)} ${formatPrefix(a)}`));

/** The lines of `lowers`. */
export const lowersLines = ({ site }: Told): string[] =>
  (site.box?.lowers ?? []).map((l) => `${l.by} ${l.without.map((u) => u.name).join(',')}`);

/** The file `keepalived.conf`; none where nothing is shared. */
export function sharingFile(told: Told): { readonly name: string; readonly text: string }[] {
  const all = sharing(told);
  if (!all.length) return [];
  const { box } = told.site;
  const lowers = lowersLines(told).length > 0;
  // A group of one is refused.
  const grouped = all.length > 1;
  const tracked = lowers ? ['  track_file {', '    lowered', '  }'] : [];
  const addresses = (word: string, list: readonly Prefix[], dev: string): string[] =>
    list.length
      ? [`  ${word} {`, ...list.map((a) => `    ${formatPrefix(a)} dev ${dev} noprefixroute`), '  }']
      : [];
  const lines = [
    'global_defs {',
    `  router_id ${box?.name ?? 'box'}`,
    '  vrrp_version 3',
    // A VLAN, or a port of its own, may come later than the daemon.
    '  dynamic_interfaces',
    '}',
    // What the keeper of the uplinks writes is added to the priority.
    ...(lowers ? ['track_file lowered {', '  file "/run/jolly-gate/lowered"', '  weight 1', '}'] : []),
    // Who has lost one side would be active on the other, and what comes to it there would get nowhere.
    ...(grouped
      ? ['vrrp_sync_group all {', '  group {', ...all.map((i) => `    ${i.name}`), '  }', ...tracked, '}']
      : []),
    ...all.flatMap((i) => [
      `vrrp_instance ${i.name} {`,
      // What is active already is not disturbed at the start.
      '  state BACKUP',
      `  interface ${told.dev(i)}`,
      `  virtual_router_id ${i.shared!.id}`,
      `  priority ${box?.priority ?? 1}`,
      `  advert_int ${INTERVAL}`,
      ...(grouped ? [] : tracked),
      ...addresses('virtual_ipaddress', virtual(told, i), told.dev(i)),
      ...addresses('virtual_ipaddress_excluded', beside(told, i), told.dev(i)),
      '}',
    ]),
  ];
  return [{ name: 'keepalived.conf', text: lines.map((l) => `${l}\n`).join('') }];
}

/** What is heard of the other box: advertisements to all virtual routers, from its own address where that is known. */
export const advertisements = (told: Told): string[] =>
  sharing(told).map((i) => {
    const { other } = i.shared!;
    const from = other === undefined ? '' : `ip saddr ${formatIp(other)} `;
    return `iifname ${quoted(told.dev(i))} ${from}ip daddr ${formatIp(VRRP_GROUP)} meta l4proto ${VRRP_PROTOCOL} accept`;
  });
