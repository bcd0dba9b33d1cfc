import { contains, formatIp, formatPrefix } from '#core/addr';
import { networksOf } from '#core/site';
import { check } from '../../finding';

/** A static route whose next hop is on no connected subnet. */
export const routeUnreachable = check({
  code: 'route-unreachable',
  *run(c) {
    for (const table of c.site.tables)
      for (const route of table.routes) {
        const via = route.via?.value;
        if (via === undefined) continue;
        const by = route.interface;
        const candidates = by
          ? c.site.interfaces.filter((i) => i.name === by.name)
          : c.site.interfaces.filter((i) => i.table === table.name);
        if (candidates.some((i) => networksOf(i, c.prospects).some((n) => contains(n, via)))) continue;
        // A name that leads nowhere is told by its own finding.
        if (by && !candidates.length) continue;
        yield {
          statement: table,
          at: route.via!.at,
          values: {
            table: table.name,
            prefix: formatPrefix(route.prefix),
            via: formatIp(via),
            where: by ? `the subnets of ${by.name}` : `any subnet of table ${table.name}`,
          },
        };
      }
  },
});
