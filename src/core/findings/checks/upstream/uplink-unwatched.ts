import { formatIp, isIpv4 } from '#core/addr';
import { changeClauses } from '#core/edits';
import { shareTogether } from '#core/semantics';
import { check } from '../../finding';
import { uplinks } from '../../queries';

/**
 * Two uplinks, the first without a watch, or one of those that share with it: a provider that is dead behind its own
 * gateway is not noticed.
 */
export const uplinkUnwatched = check({
  code: 'uplink-unwatched',
  *run(c) {
    const tables = new Set(uplinks(c.site).map((i) => i.table));
    for (const table of tables) {
      const order = uplinks(c.site)
        .filter((i) => i.table === table && i.gateway.by !== 'none')
        .sort((a, b) => Number(a.onDemand) - Number(b.onDemand) || a.priority - b.priority);
      const [first] = order;
      if (!first || order.length < 2) continue;
      // Two hosts, so that one of them being down does not look like a dead line.
      const targets = c.wiring.fars
        .filter((f) => !f.silent)
        .flatMap((f) => f.addresses.find(isIpv4) ?? [])
        .slice(0, 2)
        .map(formatIp)
        .join(' ');
      for (const used of order.filter((i) => i === first || shareTogether(i, first))) {
        const next = order.find((i) => i !== used);
        if (!next || used.statement.watch.length) continue;
        yield {
          statement: used.statement,
          others: [next.statement],
          values: { name: used.name, other: next.name },
          mends:
            targets === ''
              ? []
              : [
                  {
                    what: 'add-watch',
                    values: { address: targets, name: used.name },
                    changes: changeClauses(c.site, used.statement, [{ do: 'add', text: `watch ${targets}` }]),
                  },
                ],
        };
      }
    }
  },
});
