import { check } from '../../finding';
import { live } from '../../queries';

/** Servers in a dmz that take their addresses from a pool move about. */
export const lendsOnDmz = check({
  code: 'lends-on-dmz',
  *run({ site }) {
    for (const iface of live(site)) {
      const pool = iface.statement.lends[0];
      if (pool && iface.zone?.dmz)
        yield {
          statement: iface.statement,
          at: pool.at,
          values: { name: iface.name, zone: iface.zone.name },
        };
    }
  },
});
