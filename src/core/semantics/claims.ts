import { addressesIn, contains } from '#core/addr';
import type { Ip } from '#core/addr';
import { memo } from '#core/base';
import { MOST_MAPPED } from '#core/notation';
import type { Interface, Site } from '#core/site';
import { isTranslation } from './rules';

/** Addresses that an uplink answers for without holding them: what doors and `leave … as` use of its subnet or block. */
export const proxiedBy = (site: Site, def: Interface): ReadonlySet<Ip> =>
  def.uplink
    ? memo(
        memo(proxied, site, () => new Map<Interface, ReadonlySet<Ip>>()),
        def,
        () => claimedBy(site, def),
      )
    : NONE;
const proxied = new WeakMap<Site, Map<Interface, ReadonlySet<Ip>>>();
const NONE: ReadonlySet<Ip> = new Set();

function claimedBy(site: Site, def: Interface): ReadonlySet<Ip> {
  const block = def.block;
  const nets = [...def.addresses.map((a) => a.prefix), ...(block && !block.routed ? [block.prefix] : [])];
  const wanted = [
    ...site.leaves.flatMap((l) => (l.as?.by === 'address' ? [l.as.address.value] : [])),
    ...site.doors.flatMap((d) =>
      d.outside && 'address' in d.outside.value ? [d.outside.value.address] : [],
    ),
    ...site.leaves.flatMap((l) =>
      l.as?.by === 'prefix' && !isTranslation(l.as.prefix.value)
        ? addressesIn(l.as.prefix.value, MOST_MAPPED)
        : [],
    ),
    ...site.doors.flatMap((d) =>
      d.outside && 'prefix' in d.outside.value ? addressesIn(d.outside.value.prefix, MOST_MAPPED) : [],
    ),
  ];
  return new Set(wanted.filter((a) => nets.some((n) => contains(n, a))));
}
