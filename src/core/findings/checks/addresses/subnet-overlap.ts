import { contains, formatPrefix, isIpv4 } from '#core/addr';
import type { Ipv4, Prefix } from '#core/addr';
import { moveSubnet } from '#core/edits';
import { nearestFreeSubnet } from '#core/model';
import { addressesOf } from '#core/site';
import type { Interface } from '#core/site';
import { check } from '../../finding';
import type { Context } from '../../finding';
import { overlappingHomes, sharedRange } from '../../queries';

/** Two interfaces of one table that share addresses, learned upstream subnets included. */
export const subnetOverlap = check({
  code: 'subnet-overlap',
  *run(c) {
    for (const [{ iface: a, net: mine }, { iface: b, net: theirs }] of overlappingHomes(c)) {
      if (a.table !== b.table) continue;
      // The inside one is moved; of two inside ones the later in the file.
      const second = b.uplink && !a.uplink ? a : b;
      const other = second === a ? b : a;
      const [net, against] = second === a ? [mine, theirs] : [theirs, mine];
      const own = addressIn(c, second, net);
      const others = addressIn(c, other, against);
      const four = isIpv4(net.address) ? (net as Prefix<Ipv4>) : undefined;
      const movable = four && !second.uplink && !second.dynamic;
      const free = movable ? nearestFreeSubnet(c, four, [against]) : undefined;
      yield {
        statement: second.statement,
        at: second.statement.address?.at,
        others: [other.statement],
        values: {
          address: own,
          name: second.name,
          otherAddress: others,
          other: other.name,
          shared: sharedRange(mine, theirs),
          learned:
            c.prospects.uplinks.has(other.name) || c.prospects.uplinks6.has(other.name) ? 'learned' : '',
        },
        mends:
          free && four
            ? [
                {
                  what: 'move-subnet',
                  values: { name: second.name, to: formatPrefix(free), from: formatPrefix(net) },
                  changes: moveSubnet(c.site, second, four, free),
                },
              ]
            : [],
      };
    }
  },
});

function addressIn(c: Context, iface: Interface, net: Prefix): string {
  const own = addressesOf(iface, c.prospects).find((p) => contains(net, p.address));
  return own ? formatPrefix(own) : formatPrefix(net);
}
