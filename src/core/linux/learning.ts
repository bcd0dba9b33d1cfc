/**
 * What systemd-networkd is told: where the box learns addresses, each uplink into a table of its own, and where it
 * advertises (systemd.network(5)). The table's routes are copied to where they count by the keeper of the box.
 */
import { formatIp, formatPrefix, networkOf } from '#core/addr';
import type { Interface } from '#core/site';
import { heldOn, isLearner } from './ways';
import { isOnCall } from './told';
import type { Told } from './told';

/** Files of networkd, by name. */
export function networkFiles(told: Told): { readonly name: string; readonly text: string }[] {
  const asked = told.live.filter((i) => i.carrier !== 'loopback' && (isLearner(i) || i.advertises));
  if (!asked.length) return [];
  return [
    {
      name: 'networkd/10-gate.conf',
      text: section('Network', ['ManageForeignRoutes=no', 'ManageForeignRoutingPolicyRules=no']),
    },
    ...asked.map((i) => ({ name: `network/10-gate-${i.name}.network`, text: networkFile(told, i) })),
  ];
}

const section = (name: string, lines: readonly string[]): string =>
  `[${name}]\n${lines.map((l) => `${l}\n`).join('')}`;

function networkFile(told: Told, i: Interface): string {
  const table = told.numbers.tableBy(i.name);
  const dhcp4 = i.dynamic === 'dhcp';
  const hears = i.auto6.slaac || i.auto6.dhcpv6;
  const [from] = i.auto6.from;
  const upstream = from && told.live.find((o) => o.name === from.interface);
  const delegating = told.live.some((o) => o.auto6.from.some((f) => f.interface === i.name));
  const own6 = told.addresses(i, 6);
  const out = [
    section('Match', [`Name=${told.dev(i)}`]),
    // Whoever keeps the uplinks calls it.
    ...(isOnCall(told, i) ? [section('Link', ['ActivationPolicy=manual'])] : []),
    section('Network', [
      `DHCP=${dhcp4 ? (i.auto6.dhcpv6 ? 'yes' : 'ipv4') : i.auto6.dhcpv6 ? 'ipv6' : 'no'}`,
      `LinkLocalAddressing=${i.speaks6 ? 'ipv6' : 'no'}`,
      `IPv6AcceptRA=${hears ? 'yes' : 'no'}`,
      ...(i.advertises ? ['IPv6SendRA=yes'] : []),
      ...(from ? ['DHCPPrefixDelegation=yes'] : []),
      // What is told elsewhere here stays.
      'KeepConfiguration=static',
    ]),
    // networkd takes away what others put where it learns, so that it holds these, too.
    ...(isLearner(i)
      ? heldOn(told, i).map((a) => section('Address', [`Address=${formatPrefix(a)}`, 'AddPrefixRoute=no']))
      : []),
    ...(dhcp4
      ? [
          section('DHCPv4', [
            `RouteTable=${table}`,
            `UseRoutes=${i.gateway.by === 'learned' ? 'yes' : 'no'}`,
            'UseDNS=no',
            'UseHostname=no',
            'SendHostname=no',
            'ClientIdentifier=mac',
          ]),
        ]
      : []),
    ...(hears
      ? [
          section('IPv6AcceptRA', [
            `RouteTable=${table}`,
            'UseDNS=no',
            `UseAutonomousPrefix=${i.auto6.slaac ? 'yes' : 'no'}`,
            `UseGateway=${i.gateway6.by === 'learned' ? 'yes' : 'no'}`,
            `DHCPv6Client=${i.auto6.dhcpv6 || delegating ? 'always' : 'no'}`,
          ]),
        ]
      : []),
    ...(i.auto6.dhcpv6 || delegating
      ? [
          section('DHCPv6', [
            'UseDNS=no',
            `UseAddress=${i.auto6.dhcpv6 ? 'yes' : 'no'}`,
            ...(delegating ? ['PrefixDelegationHint=::/56', 'WithoutRA=solicit'] : []),
          ]),
        ]
      : []),
    ...(from && upstream
      ? [
          section('DHCPPrefixDelegation', [
            `UplinkInterface=${told.dev(upstream)}`,
            `SubnetId=${from.subnet}`,
            'Token=::1',
          ]),
        ]
      : []),
    ...(i.advertises
      ? [
          section('IPv6SendRA', [
            'Managed=no',
            `EmitDNS=${told.site.box?.servesNames && own6.length ? 'yes' : 'no'}`,
            ...(told.site.box?.servesNames && own6.length ? [`DNS=${formatIp(own6[0]!.address)}`] : []),
          ]),
          ...own6
            .filter((a) => a.length === 64)
            .map((a) => section('IPv6Prefix', [`Prefix=${formatPrefix(networkOf(a))}`])),
        ]
      : []),
  ];
  return out.join('\n');
}
