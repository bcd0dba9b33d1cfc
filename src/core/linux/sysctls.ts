/** Settings of the kernel, `PATH VALUE` below /proc/sys (ip-sysctl of the kernel's documentation). */
import { isOnCall } from './told';
import type { Told } from './told';

/** The lines of `sysctl`, without those that let packets pass. */
export function wantedSettings(told: Told): string[] {
  const devices = [...new Set(told.live.filter((i) => i.carrier !== 'loopback').map(told.dev))];
  const kept = told.live.filter((i) => isOnCall(told, i) && i.carrier !== 'pppoe').map(told.dev);
  return [
    // The rules check sources themselves, stand-by ways included.
    'net/ipv4/conf/all/rp_filter 0',
    'net/ipv4/conf/all/send_redirects 0',
    'net/ipv4/conf/default/send_redirects 0',
    // A second address outlives the first.
    'net/ipv4/conf/all/promote_secondaries 1',
    'net/ipv4/conf/all/src_valid_mark 1',
    // One interface answers for its own addresses only.
    'net/ipv4/conf/all/arp_ignore 1',
    'net/ipv4/conf/all/arp_announce 2',
    // A cable that is pulled takes its routes out of use.
    'net/ipv4/conf/all/ignore_routes_with_linkdown 1',
    'net/ipv6/conf/all/ignore_routes_with_linkdown 1',
    ...devices.flatMap((d) => [
      `net/ipv4/conf/${d}/rp_filter 0`,
      `net/ipv4/conf/${d}/send_redirects 0`,
      // Whoever advertises here is heard by networkd, where the text says so, and by nobody else.
      `net/ipv6/conf/${d}/accept_ra 0`,
      `net/ipv6/conf/${d}/autoconf 0`,
    ]),
    // Who speaks IPv6 has it, also where the machine was told to have none.
    ...(told.six ? ['lo', ...new Set(told.live.filter((i) => i.speaks6).map(told.dev))] : []).map(
      (d) => `net/ipv6/conf/${d}/disable_ipv6 0`,
    ),
    // Who rests with its link down has its addresses still.
    ...kept.map((d) => `net/ipv6/conf/${d}/keep_addr_on_down 1`),
  ];
}

/** The settings that let packets pass, the last that are told; a family that nothing opens stays shut. */
export const forwardingSettings = (told: Told): string[] => [
  `net/ipv4/ip_forward 1`,
  `net/ipv6/conf/all/forwarding ${told.six ? 1 : 0}`,
];
