import type { Check } from '../../finding';
import { poolUse, roomMends } from '../../pools';
import { inside } from '../../queries';

/** A pool that has no address left for everybody who asks. */
export const subnetFull: Check = {
  code: 'subnet-full',
  *run(c) {
    for (const iface of inside(c.site)) {
      const use = poolUse(c, iface);
      if (!use || use.used <= use.size) continue;
      yield {
        statement: iface.statement,
        at: iface.statement.lends[0]?.at,
        values: { name: iface.name, used: String(use.used), size: String(use.size) },
        mends: roomMends(c, iface),
      };
    }
  },
};
