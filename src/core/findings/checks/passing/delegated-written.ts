import { contains, formatIp, isIpv4 } from '#core/addr';
import type { Ip, Ipv6, Prefix } from '#core/addr';
import { changeClauses } from '#core/edits';
import { isName } from '#core/notation';
import { networksOf } from '#core/site';
import { check } from '../../finding';
import { live, spokenOf } from '../../queries';

/** A rule that names an address of a prefix that a provider delegates, which may be another tomorrow (RFC 9096). */
export const delegatedWritten = check({
  code: 'delegated-written',
  *run(c) {
    const lent = live(c.site).flatMap((iface) => {
      const written = iface.addresses.map((a) => a.prefix.address);
      const [from] = iface.auto6.from;
      return from
        ? networksOf(iface, c.prospects)
            .filter((n) => !isIpv4(n.address) && !written.some((a) => contains(n, a)))
            .map((net) => ({ iface, net: net as Prefix<Ipv6>, uplink: from.interface }))
        : [];
    });
    if (!lent.length) return;
    for (const [statement, who] of spokenOf(c.site)) {
      if (who.type !== 'addresses' || isIpv4(who.range.first)) continue;
      const { first, last } = who.range;
      const found = lent.find(({ net }) => contains(net, first) && contains(net, last));
      if (!found) continue;
      const { iface, net, uplink } = found;
      // One host goes by its suffix, the whole network by its interface; what is between has no name.
      const suffix = BigInt(first) & ((1n << 64n) - 1n);
      const text = !isName(iface.name)
        ? undefined
        : first === last && suffix !== 0n
          ? `${formatIp(suffix as Ip)} of ${iface.name}`
          : who.prefix?.length === net.length
            ? `interface ${iface.name}`
            : undefined;
      yield {
        statement,
        at: who.at,
        others: [iface.statement],
        values: { address: formatIp(first), name: iface.name, uplink },
        mends:
          text === undefined
            ? []
            : [
                {
                  what: 'write-instead',
                  values: { text },
                  changes: changeClauses(c.site, statement, [
                    { do: 'replace', start: who.at.start, end: who.at.end, text },
                  ]),
                },
              ],
      };
    }
  },
});
