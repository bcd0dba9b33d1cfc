/** What lies behind an interface. */
import { IpSet, contains } from '#core/addr';
import type { Prefix } from '#core/addr';
import { networksOf } from '#core/site';
import type { Interface, Prospects, Site } from '#core/site';

/** The networks behind an interface: its subnets, the static routes out by it, and the known hosts behind it. */
export function behindInterface(site: Site, prospects: Prospects, iface: Interface): IpSet {
  const nets: Prefix[] = [...networksOf(iface, prospects)];
  for (const table of site.tables)
    for (const route of table.routes) {
      const via = route.via?.value;
      const byHere =
        route.interface?.name === iface.name ||
        (!route.interface &&
          via !== undefined &&
          table.name === iface.table &&
          networksOf(iface, prospects).some((n) => contains(n, via)));
      if (byHere && route.prefix.length > 0) nets.push(route.prefix);
    }
  const known = site.knowns
    .filter((k) => k.behind?.name === iface.name)
    .flatMap((k) => k.items.map((i) => i.value.range));
  return IpSet.ofPrefixes(nets).union(IpSet.of(known));
}
