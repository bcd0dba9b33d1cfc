import { contains, formatIp, formatPrefix, networkOf } from '#core/addr';
import { addStatement, changeClauses } from '#core/edits';
import { check } from '../../finding';
import { routersBefore } from '../../queries';

/** A network behind a router inside to which the box has no route by that router: answers to it go astray. */
export const behindUnrouted = check({
  code: 'behind-unrouted',
  *run(c) {
    for (const { router, leg: near, iface, behind } of routersBefore(c))
      for (const leg of behind) {
        const net = networkOf(leg.address);
        const table = c.site.tables.find((t) => t.name === iface.table);
        const led = c.site.tables
          .filter((t) => t.name === iface.table)
          .flatMap((t) => t.routes)
          .some(
            (r) => r.prefix.length <= net.length && contains(r.prefix, net.address) && r.prefix.length > 0,
          );
        if (led) continue;
        const text = `route ${formatPrefix(net)} via ${formatIp(near.address.address)}`;
        yield {
          statement: router.statement,
          at: router.statement.legs.find((l) => l.value.plug === leg.plug)?.at,
          others: [iface.statement],
          values: {
            net: formatPrefix(net),
            router: router.name,
            via: formatIp(near.address.address),
            name: iface.name,
            table: iface.table,
          },
          mends: [
            {
              what: 'add-statement',
              values: { text: `table ${iface.table}: ${text}` },
              changes: table
                ? changeClauses(c.site, table, [{ do: 'add', text }])
                : addStatement(c.site, 'table', `table ${iface.table}: ${text}`),
            },
          ],
        };
      }
  },
});
