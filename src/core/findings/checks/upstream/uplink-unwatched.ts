import { formatIp, isIpv4 } from '#core/addr';
import { changeClauses } from '#core/edits';
import type { Check } from '../../finding';
import { uplinks } from '../../queries';

/** Two uplinks, the first without a watch: a provider that is dead behind its own gateway is not noticed. */
export const uplinkUnwatched: Check = {
  code: 'uplink-unwatched',
  *run(c) {
    const tables = new Set(uplinks(c.site).map((i) => i.table));
    for (const table of tables) {
      const order = uplinks(c.site)
        .filter((i) => i.table === table && i.gateway.by !== 'none')
        .sort((a, b) => a.priority - b.priority);
      const [first, second] = order;
      if (!first || !second || first.statement.watch.length) continue;
      const target = c.wiring.fars.find((f) => !f.silent && f.addresses.some(isIpv4));
      const address = target?.addresses.find(isIpv4);
      yield {
        statement: first.statement,
        others: [second.statement],
        values: { name: first.name, other: second.name },
        mends:
          address === undefined
            ? []
            : [
                {
                  what: 'add-watch',
                  values: { address: formatIp(address), name: first.name },
                  changes: changeClauses(c.site, first.statement, [
                    { do: 'add', text: `watch ${formatIp(address)}` },
                  ]),
                },
              ],
      };
    }
  },
};
