import { formatPrefix, isPrivate } from '#core/addr';
import { primaryOf } from '#core/site';
import { check } from '../../finding';
import { uplinks } from '../../queries';

/** A private address on an uplink: a router in front translates too. */
export const addressPrivateUpstream = check({
  code: 'address-private-upstream',
  *run(c) {
    for (const iface of uplinks(c.site)) {
      const own = primaryOf(iface, c.prospects);
      if (own && iface.zone?.upstream && isPrivate(own.address))
        yield {
          statement: iface.statement,
          at: iface.statement.address?.at,
          values: { name: iface.name, address: formatPrefix(own) },
        };
    }
  },
});
