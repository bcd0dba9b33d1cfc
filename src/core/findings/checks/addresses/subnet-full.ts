import { check } from '../../finding';
import { roomMends, subnetUse } from '../../pools';
import { inside } from '../../queries';

/** A subnet that has no address left for everybody who is in it or asks to be. */
export const subnetFull = check({
  code: 'subnet-full',
  *run(c) {
    for (const iface of inside(c.site)) {
      const use = subnetUse(c, iface);
      if (!use || use.used <= use.size) continue;
      yield {
        statement: iface.statement,
        values: { name: iface.name, net: use.net, used: String(use.used), size: String(use.size) },
        mends: roomMends(c, iface),
      };
    }
  },
});
