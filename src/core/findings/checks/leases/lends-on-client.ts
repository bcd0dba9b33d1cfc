import { changeClauses } from '#core/edits';
import type { Interface, Site } from '#core/site';
import type { Check, Mend } from '../../finding';
import { live } from '../../queries';

/** An interface that asks for its own address by DHCP and lends addresses at once. */
export const lendsOnClient: Check = {
  code: 'lends-on-client',
  *run({ site }) {
    for (const iface of live(site)) {
      const pool = iface.statement.lends[0];
      if (pool && iface.dynamic)
        yield {
          statement: iface.statement,
          at: pool.at,
          values: { name: iface.name, by: iface.dynamic },
          mends: [removeLends(site, iface)],
        };
    }
  },
};

function removeLends(site: Site, iface: Interface): Mend {
  return {
    what: 'lend-not',
    values: { name: iface.name },
    changes: changeClauses(
      site,
      iface.statement,
      iface.statement.lends.map(() => ({ do: 'remove' as const, name: 'lends' })),
    ),
  };
}
