import type { Check } from '../../finding';
import { poolUse, roomMends } from '../../pools';
import { inside } from '../../queries';

/** A pool of which more than 85 % is spoken for. */
export const subnetNearlyFull: Check = {
  code: 'subnet-nearly-full',
  *run(c) {
    for (const iface of inside(c.site)) {
      const use = poolUse(c, iface);
      if (!use || use.used > use.size || use.used / use.size <= 0.85) continue;
      yield {
        statement: iface.statement,
        at: iface.statement.lends[0]?.at,
        values: { name: iface.name, used: String(use.used), size: String(use.size) },
        mends: roomMends(c, iface),
      };
    }
  },
};
