import { lendNot } from '../../mending';
import { check } from '../../finding';
import { live } from '../../queries';

/** An interface or a station that asks for its own address by DHCP and lends addresses at once. */
export const lendsOnClient = check({
  code: 'lends-on-client',
  *run({ site, wiring }) {
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
    for (const { statement, name, address, off } of wiring.stations) {
      const pool = statement?.lends[0];
      if (statement && pool && !address && !off)
        yield { statement, at: pool.at, values: { name, by: 'dhcp' } };
    }
  },
});
