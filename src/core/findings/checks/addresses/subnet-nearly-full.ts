import { check } from '../../finding';
import { roomMends, subnetUse } from '../../pools';
import { inside } from '../../queries';

/** A subnet of which more than 85 % is spoken for. */
export const subnetNearlyFull = check({
  code: 'subnet-nearly-full',
  *run(c) {
    for (const iface of inside(c.site)) {
      const use = subnetUse(c, iface);
      if (!use || use.used > use.size || use.used / use.size <= 0.85) continue;
      yield {
        statement: iface.statement,
        values: { name: iface.name, net: use.net, used: String(use.used), size: String(use.size) },
        mends: roomMends(c, iface),
      };
    }
  },
});
