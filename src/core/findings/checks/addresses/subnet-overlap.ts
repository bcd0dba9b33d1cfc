import { contains, formatPrefix, overlaps } from '#core/addr';
import type { Ipv4, Prefix } from '#core/addr';
import { moveSubnet } from '#core/edits';
import { addressesOf, nearestFreeSubnet } from '#core/site';
import type { Interface } from '#core/site';
import type { Check, Context } from '../../finding';
import { live, networks4, pairs, sharedRange } from '../../queries';

/** Two interfaces of one table that share addresses, learned upstream subnets included. */
export const subnetOverlap: Check = {
  code: 'subnet-overlap',
  *run(c) {
    for (const [a, b] of pairs(live(c.site))) {
      if (a.table !== b.table) continue;
      for (const mine of networks4(c, a))
        for (const theirs of networks4(c, b)) {
          if (!overlaps(mine, theirs)) continue;
          // The inside one is moved; of two inside ones the later in the file.
          const second = b.uplink && !a.uplink ? a : b;
          const other = second === a ? b : a;
          const [net, against] = second === a ? [mine, theirs] : [theirs, mine];
          const own = addressIn(c, second, net);
          const others = addressIn(c, other, against);
          const free =
            second.uplink || second.dynamic ? undefined : nearestFreeSubnet(c.site, net, [against]);
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
              learned: c.prospects.uplinks.has(other.name) ? 'learned' : '',
            },
            mends: free
              ? [
                  {
                    what: 'move-subnet',
                    values: { name: second.name, to: formatPrefix(free), from: formatPrefix(net) },
                    changes: moveSubnet(c.site, second, net, free),
                  },
                ]
              : [],
          };
        }
    }
  },
};

function addressIn(c: Context, iface: Interface, net: Prefix<Ipv4>): string {
  const own = addressesOf(iface, c.prospects).find((p) => contains(net, p.address));
  return own ? formatPrefix(own) : formatPrefix(net);
}
