/**
 * Two boxes of one text: the twin has the same rules and the same shared addresses, addresses of its own where the text
 * says `with`, and nothing where it does not.
 */
import type { Ipv4, Prefix } from '#core/addr';
import { contains, isIpv4 } from '#core/addr';
import { primaryAddress } from './site';
import type { Interface, OwnAddress, Site } from './types';

/** The interfaces that a twin has too. */
export const pairedInterfaces = (site: Site): Interface[] =>
  site.interfaces.filter((i) => !i.off && i.shared?.other !== undefined && primaryAddress(i));

/** The address on an interface that a client in a network of it is to send to: the shared one, or the box's own. */
export const gatewayAddress = (iface: Interface, home: Prefix<Ipv4>): Ipv4 =>
  iface.shared?.addresses.find((a) => contains(home, a)) ?? home.address;

/** The names of two boxes, each of which may fail as a whole; none where there is one. */
export function boxNames(site: Site): readonly string[] {
  const twin = twinSite(site);
  return twin ? [site.box!.name, twin.box!.name] : [];
}

/** The addresses that a twin has on some interfaces: somebody has them, whom nobody asks for anything. */
export const twinAddresses = (interfaces: readonly Interface[]): Ipv4[] =>
  interfaces.flatMap((i) => i.shared?.other ?? []);

/** The twin's side of a site; undefined where the text names none, or gives it no name or address of its own. */
export function twinSite(site: Site): Site | undefined {
  const { box } = site;
  const twin = box?.twin?.value;
  if (!box || !twin || twin.name === box.name) return undefined;
  const paired = new Set(pairedInterfaces(site));
  if (!paired.size) return undefined;
  const names = new Set([...paired].map((i) => i.name));
  return {
    ...site,
    isTwin: true,
    box: {
      ...box,
      name: twin.name,
      priority: twin.priority,
      // What it has not got cannot fail it: its priority was written knowing that.
      lowers: box.lowers.flatMap((l) => {
        const without = l.without.filter((u) => names.has(u.name));
        return without.length ? [{ ...l, without }] : [];
      }),
      twin: box.twin && { ...box.twin, value: { name: box.name, priority: box.priority } },
    },
    ports: new Map([...site.ports].map(([name, port]) => [name, { ...port, mac: undefined }])),
    interfaces: site.interfaces.map((i) => (paired.has(i) ? twinInterface(i) : { ...i, off: true })),
  };
}

function twinInterface(iface: Interface): Interface {
  const own = primaryAddress(iface)!.address;
  const { other } = iface.shared!;
  const moved = (a: OwnAddress): OwnAddress[] => {
    if (a.primary && isIpv4(a.prefix.address)) return [{ ...a, prefix: { ...a.prefix, address: other! } }];
    // A secondary address that is not shared is the box's alone.
    return a.virtual ? [a] : [];
  };
  return {
    ...iface,
    // Two boxes share IPv4 only: a second one that advertises would split what hosts number themselves by.
    auto6: { slaac: false, dhcpv6: false, from: [] },
    speaks6: false,
    advertises: false,
    gateway6: { by: 'none' },
    mac: undefined,
    addresses: iface.addresses.flatMap(moved),
    shared: { ...iface.shared!, other: isIpv4(own) ? own : undefined },
  };
}
