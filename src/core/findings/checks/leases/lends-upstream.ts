import { lendNot } from '../../mending';
import { check } from '../../finding';
import { live } from '../../queries';

/** A DHCP server towards the provider: it would give addresses to other customers. */
export const lendsUpstream = check({
  code: 'lends-upstream',
  *run({ site }) {
    for (const iface of live(site)) {
      const pool = iface.statement.lends[0];
      if (pool && iface.zone?.upstream)
        yield {
          statement: iface.statement,
          at: pool.at,
          values: { name: iface.name, zone: iface.zone.name },
          mends: [lendNot(site, iface)],
        };
    }
  },
});
