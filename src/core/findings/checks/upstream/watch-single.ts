import { formatIp } from '#core/addr';
import { check } from '../../finding';
import { uplinks } from '../../queries';

/** One watched address alone: when that host is down, a working uplink counts as dead. */
export const watchSingle = check({
  code: 'watch-single',
  *run({ site }) {
    for (const iface of uplinks(site)) {
      const [only, more] = iface.statement.watch;
      if (only && !more)
        yield {
          statement: iface.statement,
          at: only.at,
          values: { name: iface.name, address: formatIp(only.value) },
        };
    }
  },
});
