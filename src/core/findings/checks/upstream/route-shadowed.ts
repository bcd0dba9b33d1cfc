import { formatPrefix, prefixEquals } from '#core/addr';
import { networksOf } from '#core/site';
import type { Check } from '../../finding';
import { live } from '../../queries';

/** A static route that is never used: a connected network, or an equal route before it, takes all of it. */
export const routeShadowed: Check = {
  code: 'route-shadowed',
  *run(c) {
    for (const table of c.site.tables)
      for (const [i, route] of table.routes.entries()) {
        const connected = live(c.site).find(
          (f) =>
            f.table === table.name && networksOf(f, c.prospects).some((n) => prefixEquals(n, route.prefix)),
        );
        const twin = table.routes.find(
          (o, j) =>
            j !== i &&
            prefixEquals(o.prefix, route.prefix) &&
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
};
