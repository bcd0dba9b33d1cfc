import { clausesOf } from '#core/notation';
import {
  contains,
  formatPrefix,
  formatRangeShort,
  hostRange,
  isIpv4,
  networkOf,
  rangeSize,
  rangesOverlap,
} from '#core/addr';
import type { Ipv4, Prefix, Range } from '#core/addr';
import { changeClauses } from '#core/edits';
import { staticNetworks } from '#core/site';
import type { Interface } from '#core/site';
import { check } from '../../finding';
import { live, phrase } from '../../queries';
import { withoutAddresses } from '../../mending';

/** A pool that is not wholly inside one subnet of its interface, or the network that its station lends in. */
export const lendsOutsideSubnet = check({
  code: 'lends-outside-subnet',
  *run({ site, wiring }) {
    for (const iface of live(site)) {
      const nets = staticNetworks(iface).filter((n): n is Prefix<Ipv4> => isIpv4(n.address));
      if (!nets.length) continue;
      for (const [nth, pool] of iface.statement.lends.entries())
        for (const { value, at } of pool.ranges) {
          if (nets.some((n) => contains(n, value.first) && contains(n, value.last))) continue;
          const words = clausesOf(iface.statement, 'lends')[nth]!.words;
          const word = words.find((w) => w.start === at.start);
          const better = fitting(iface, nets, value);
          yield {
            statement: iface.statement,
            at,
            values: {
              name: iface.name,
              range: formatRangeShort(value),
              nets: phrase(nets.map(formatPrefix)),
            },
            mends:
              word && better
                ? [
                    {
                      what: 'use-range',
                      values: { range: formatRangeShort(better) },
                      changes: changeClauses(site, iface.statement, [
                        { do: 'replace', start: at.start, end: at.end, text: formatRangeShort(better) },
                      ]),
                    },
                  ]
                : [],
          };
        }
    }
    for (const { statement, name, address } of wiring.stations)
      for (const { network, ranges } of statement?.lends ?? []) {
        const net = network?.value ?? (address && networkOf(address));
        for (const { value, at } of net ? ranges : [])
          if (!contains(net!, value.first) || !contains(net!, value.last))
            yield {
              statement: statement!,
              at,
              values: { name, range: formatRangeShort(value), nets: formatPrefix(net!) },
            };
      }
  },
});

/** The part of the range inside a subnet, or else what the subnet has behind the box's own address. */
function fitting(iface: Interface, nets: readonly Prefix<Ipv4>[], range: Range): Range | undefined {
  for (const net of nets) {
    const hosts = hostRange(net);
    if (rangesOverlap(hosts, range)) {
      const first = range.first > hosts.first ? range.first : hosts.first;
      const last = range.last < hosts.last ? range.last : hosts.last;
      return withoutAddresses(
        { first, last },
        iface.addresses.map((a) => a.prefix.address),
      ).sort((a, b) => rangeSize(b) - rangeSize(a))[0];
    }
  }
  const hosts = hostRange(nets[0]!);
  return withoutAddresses(
    hosts,
    iface.addresses.map((a) => a.prefix.address),
  ).sort((a, b) => rangeSize(b) - rangeSize(a))[0];
}
