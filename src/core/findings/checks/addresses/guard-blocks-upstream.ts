import { formatPrefix, isPrivate } from '#core/addr';
import { changeClauses } from '#core/edits';
import { check } from '../../finding';
import { networks4, uplinks } from '../../queries';

/** `guard` on an uplink whose own network is private refuses what starts there. */
export const guardBlocksUpstream = check({
  code: 'guard-blocks-upstream',
  *run(c) {
    for (const iface of uplinks(c.site)) {
      const { guard } = iface.statement;
      const net = networks4(c, iface).find((n) => isPrivate(n.address));
      if (guard && net)
        yield {
          statement: iface.statement,
          at: guard,
          values: { name: iface.name, net: formatPrefix(net) },
          mends: [
            {
              what: 'remove-guard',
              values: { name: iface.name },
              changes: changeClauses(c.site, iface.statement, [{ do: 'remove', name: 'guard' }]),
            },
          ],
        };
    }
  },
});
