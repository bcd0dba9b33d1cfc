import { contains, formatPrefix, isIpv4, networkOf } from '#core/addr';
import { check } from '../../finding';
import { live } from '../../queries';

/** A secondary address in another subnet than the primary: a second network on the same segment. */
export const alsoOtherSubnet = check({
  code: 'also-other-subnet',
  *run({ site }) {
    for (const iface of live(site)) {
      const primary = iface.addresses.find((a) => a.primary);
      if (!primary) continue;
      const seen = new Set<string>();
      for (const { prefix, at, primary: first } of iface.addresses) {
        const net = formatPrefix(networkOf(prefix));
        if (first || !isIpv4(prefix.address) || contains(primary.prefix, prefix.address) || seen.has(net))
          continue;
        seen.add(net);
        yield {
          statement: iface.statement,
          at,
          values: {
            name: iface.name,
            address: formatPrefix(prefix),
            primary: formatPrefix(primary.prefix),
          },
        };
      }
    }
  },
});
