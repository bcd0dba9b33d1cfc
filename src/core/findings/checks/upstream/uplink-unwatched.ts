import { formatIp, isIpv4 } from '#core/addr';
import { changeClauses } from '#core/edits';
import { check } from '../../finding';
import { uplinks } from '../../queries';

/** Two uplinks, the first without a watch: a provider that is dead behind its own gateway is not noticed. */
export const uplinkUnwatched = check({
  code: 'uplink-unwatched',
  *run(c) {
    const tables = new Set(uplinks(c.site).map((i) => i.table));
    for (const table of tables) {
      const order = uplinks(c.site)
        .filter((i) => i.table === table && i.gateway.by !== 'none')
        .sort((a, b) => a.priority - b.priority);
      const [first, second] = order;
      if (!first || !second || first.statement.watch.length) continue;
      // Two hosts, so that one of them being down does not look like a dead line.
      const targets = c.wiring.fars
        .filter((f) => !f.silent)
        .flatMap((f) => f.addresses.find(isIpv4) ?? [])
        .slice(0, 2)
        .map(formatIp)
        .join(' ');
      yield {
        statement: first.statement,
        others: [second.statement],
        values: { name: first.name, other: second.name },
        mends:
          targets === ''
            ? []
            : [
                {
                  what: 'add-watch',
                  values: { address: targets, name: first.name },
                  changes: changeClauses(c.site, first.statement, [{ do: 'add', text: `watch ${targets}` }]),
                },
              ],
      };
    }
  },
});
