/** How full pools are, and ways to make room. */
import {
  contains,
  formatIp,
  formatPrefix,
  isIpv4,
  networkOf,
  offsetIp,
  overlaps,
  withLength,
} from '#core/addr';
import type { Ip, Ipv4, Prefix } from '#core/addr';
import { changeClauses } from '#core/edits';
import { nextFreeSubnet } from '#core/model';
import { poolOf, poolSize, primaryAddress, stationsOf } from '#core/site';
import type { Interface } from '#core/site';
import type { Context, Mend } from './finding';
import { live, networks4, phrase } from './queries';

/** How many ask for an address of an interface's pools, and how many those have to give. Undefined where it lends none. */
export function poolUse(c: Context, iface: Interface): { asking: number; lent: number } | undefined {
  const size = poolSize(iface);
  if (!iface.statement.lends.length || size <= 0) return undefined;
  const own = new Set(iface.addresses.map((a) => a.prefix.address));
  const spoken = [...fixedOn(c, iface)].filter((a) => !own.has(a) && poolOf(iface.pools, a)).length;
  return { asking: askingOn(c, iface), lent: size - spoken };
}

/** How many stations ask for an address that nobody keeps for them. */
function askingOn(c: Context, iface: Interface): number {
  const kept = new Set(iface.statement.keeps.map((k) => k.mac));
  return stationsOf(c.wiring, iface).filter((s) => s.dhcp && !s.off && !kept.has(s.mac)).length;
}

/** Addresses of an interface's networks that somebody has for good: the box, fixed stations, known hosts, keeps. */
function fixedOn(c: Context, iface: Interface): Set<Ip> {
  const nets = networks4(c, iface);
  const known = c.site.knowns.flatMap((k) =>
    k.items.flatMap(({ value: { range } }) => (range.first === range.last ? [range.first] : [])),
  );
  return new Set<Ip>(
    [
      ...iface.addresses.map((a) => a.prefix.address),
      ...stationsOf(c.wiring, iface).flatMap((s) => (s.address && !s.off ? [s.address.address] : [])),
      ...iface.statement.keeps.map((k) => k.address.value),
      ...known,
    ].filter((a) => nets.some((n) => contains(n, a))),
  );
}

/** How many addresses of an interface's networks are spoken for, of how many that hosts can have. */
export function subnetUse(
  c: Context,
  iface: Interface,
): { used: number; size: number; net: string } | undefined {
  const nets = networks4(c, iface).filter((n) => n.length < 31);
  if (!nets.length) return undefined;
  const size = nets.reduce((sum, n) => sum + 2 ** (32 - n.length) - 2, 0);
  return { used: fixedOn(c, iface).size + askingOn(c, iface), size, net: phrase(nets.map(formatPrefix)) };
}

/** Ways to make room: a second subnet with its own pool, a wider one, shorter leases. */
export function roomMends(c: Context, iface: Interface): Mend[] {
  const mends: Mend[] = [];
  const own = primaryAddress(iface);
  const next = nextFreeSubnet(c);
  if (next) {
    const at = (offset: number) => formatIp(offsetIp(next.address, offset)!);
    mends.push({
      what: 'second-subnet',
      values: { net: formatPrefix(next), range: `${at(10)}-.250` },
      changes: changeClauses(c.site, iface.statement, [
        { do: 'add', text: `also ${at(1)}/${next.length}` },
        { do: 'add', text: `lends ${at(10)}-${at(250)}` },
      ]),
    });
  }
  if (own && isIpv4(own.address) && own.length > 16) {
    const wide = networkOf(withLength(own as Prefix<Ipv4>, own.length - 1));
    const free = live(c.site).every((i) => i === iface || networks4(c, i).every((n) => !overlaps(n, wide)));
    const fixed = stationsOf(c.wiring, iface).filter((s) => s.address);
    if (free)
      mends.push({
        what: 'widen',
        values: {
          length: `/${wide.length}`,
          fixed: fixed.length ? phrase(fixed.map((s) => s.name)) : 'no station',
        },
        changes: changeClauses(c.site, iface.statement, [
          { do: 'set', name: 'address', text: `address ${formatIp(own.address)}/${wide.length}` },
        ]),
      });
  }
  return mends;
}
