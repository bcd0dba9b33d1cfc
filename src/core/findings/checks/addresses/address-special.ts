import { formatPrefix, notAHostAddress } from '#core/addr';
import { check } from '../../finding';

/** An address that no interface can have: loopback, multicast, 0/8, 240/4, link-local. */
export const addressSpecial = check({
  code: 'address-special',
  *run({ site }) {
    for (const iface of site.interfaces)
      for (const { prefix, at } of iface.addresses) {
        const special = notAHostAddress(prefix.address);
        if (special)
          yield {
            statement: iface.statement,
            at,
            values: {
              name: iface.name,
              address: formatPrefix(prefix),
              what: special.what,
              block: formatPrefix(special.prefix),
              source: special.source,
            },
          };
      }
    for (const s of site.stations) {
      if (s.address?.value.by !== 'static') continue;
      const { prefix } = s.address.value;
      const special = notAHostAddress(prefix.address);
      if (special)
        yield {
          statement: s,
          at: s.address.at,
          values: {
            name: s.name,
            address: formatPrefix(prefix),
            what: special.what,
            block: formatPrefix(special.prefix),
            source: special.source,
          },
        };
    }
  },
});
