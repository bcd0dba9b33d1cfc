/** How full pools are, and ways to make room. */
import { formatIp, formatPrefix, isIpv4, networkOf, offsetIp, overlaps, withLength } from '#core/addr';
import type { Ipv4, Prefix } from '#core/addr';
import { changeClauses } from '#core/edits';
import { nextFreeSubnet, poolSize, primaryAddress, stationsOf } from '#core/site';
import type { Interface } from '#core/site';
import type { Context, Mend } from './finding';
import { inPools, live, networks4, phrase } from './queries';

/** How many of an interface's pool addresses are taken, of how many. Undefined where it lends nothing. */
export function poolUse(c: Context, iface: Interface): { used: number; size: number } | undefined {
  const size = poolSize(iface);
  if (!iface.statement.lends.length || size <= 0) return undefined;
  const stations = stationsOf(c.wiring, iface).filter((s) => !s.off);
  const kept = new Set(iface.statement.keeps.map((k) => k.mac));
  const wanting = stations.filter((s) => s.dhcp && !kept.has(s.mac)).length;
  const fixed = stations.filter((s) => s.address && inPools(iface.statement, s.address.address)).length;
  const keeps = iface.statement.keeps.filter((k) => inPools(iface.statement, k.address.value)).length;
  return { used: wanting + fixed + keeps, size };
}

/** Ways to make room: a second subnet with its own pool, a wider one, shorter leases. */
export function roomMends(c: Context, iface: Interface): Mend[] {
  const mends: Mend[] = [];
  const own = primaryAddress(iface);
  const next = nextFreeSubnet(c.site);
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
