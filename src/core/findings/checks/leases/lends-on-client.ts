import { lendNot } from '../../mending';
import { check } from '../../finding';
import { live } from '../../queries';

/** An interface that asks for its own address by DHCP and lends addresses at once. */
export const lendsOnClient = check({
  code: 'lends-on-client',
  *run({ site }) {
    for (const iface of live(site)) {
      const pool = iface.statement.lends[0];
      if (pool && iface.dynamic)
        yield {
          statement: iface.statement,
          at: pool.at,
          values: { name: iface.name, by: iface.dynamic },
          mends: [lendNot(site, iface)],
        };
    }
  },
});
