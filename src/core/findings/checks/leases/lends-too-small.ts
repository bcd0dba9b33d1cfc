import { IpSet } from '#core/addr';
import { landingOn, lendersAt } from '#core/site';
import { check } from '../../finding';
import { poolUse, roomMends } from '../../pools';
import { inside } from '../../queries';

/** A pool that has fewer addresses to give, with those of others there, than stations ask for one. */
export const lendsTooSmall = check({
  code: 'lends-too-small',
  *run(c) {
    for (const iface of inside(c.site)) {
      const use = poolUse(c, iface);
      if (!use || use.asking <= use.lent) continue;
      const landing = landingOn(iface);
      const others = landing ? lendersAt(c.site, c.wiring, landing) : [];
      const elsewhere = IpSet.of(others.flatMap((l) => l.pool.ranges)).size;
      if (use.asking <= use.lent + elsewhere) continue;
      yield {
        statement: iface.statement,
        at: iface.statement.lends[0]?.at,
        values: { name: iface.name, asking: String(use.asking), size: String(use.lent) },
        mends: roomMends(c, iface),
      };
    }
  },
});
