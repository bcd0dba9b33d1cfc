import { check } from '../../finding';
import { poolUse, roomMends } from '../../pools';
import { inside } from '../../queries';

/** A pool that has fewer addresses to give than stations ask for one. */
export const lendsTooSmall = check({
  code: 'lends-too-small',
  *run(c) {
    for (const iface of inside(c.site)) {
      const use = poolUse(c, iface);
      if (!use || use.asking <= use.lent) continue;
      yield {
        statement: iface.statement,
        at: iface.statement.lends[0]?.at,
        values: { name: iface.name, asking: String(use.asking), size: String(use.lent) },
        mends: roomMends(c, iface),
      };
    }
  },
});
