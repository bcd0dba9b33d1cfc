import { contains, formatPrefix, prefixEquals } from '#core/addr';
import type { RouteClause } from '#core/notation';
import { interfaceNamed, networksOf } from '#core/site';
import type { Interface } from '#core/site';
import { check } from '../../finding';
import type { Context } from '../../finding';
import { live } from '../../queries';

/**
 * A static route that is never used: a connected network, or an equal route before it, takes all of it. One that goes by
 * another interface stands by for when the first is down.
 */
export const routeShadowed = check({
  code: 'route-shadowed',
  *run(c) {
    for (const table of c.site.tables)
      for (const [i, route] of table.routes.entries()) {
        const by = outOf(c, table.name, route);
        const connected = live(c.site).find(
          (f) =>
            f === by &&
            f.table === table.name &&
            networksOf(f, c.prospects).some((n) => prefixEquals(n, route.prefix)),
        );
        const twin = table.routes.find(
          (o, j) =>
            j !== i &&
            prefixEquals(o.prefix, route.prefix) &&
            (o.drop || outOf(c, table.name, o) === by) &&
            (o.distance < route.distance || (o.distance === route.distance && j < i)),
        );
        const stronger = connected
          ? `the connected network of ${connected.name}`
          : twin && 'another route to it';
        if (stronger)
          yield {
            statement: table,
            at: route.at,
            others: connected ? [connected.statement] : [],
            values: { table: table.name, prefix: formatPrefix(route.prefix), by: stronger },
          };
      }
  },
});

/** The interface that a route goes by. */
const outOf = (c: Context, table: string, { interface: on, via }: RouteClause): Interface | undefined =>
  on
    ? interfaceNamed(c.site, on.name)
    : via &&
      live(c.site).find(
        (i) => i.table === table && networksOf(i, c.prospects).some((n) => contains(n, via.value)),
      );
