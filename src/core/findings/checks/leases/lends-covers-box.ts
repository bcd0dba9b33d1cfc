import { formatIp, formatRangeShort, rangeContains } from '#core/addr';
import { changeClauses } from '#core/edits';
import { check } from '../../finding';
import { live } from '../../queries';
import { rangesText, withoutAddresses } from '../../mending';

/** A pool that holds the box's own address. */
export const lendsCoversBox = check({
  code: 'lends-covers-box',
  *run({ site }) {
    const own = live(site).flatMap((i) => i.addresses.map((a) => ({ i, address: a.prefix.address })));
    for (const iface of live(site))
      for (const pool of iface.statement.lends)
        for (const { value, at } of pool.ranges) {
          const hit = own.find((o) => o.i.table === iface.table && rangeContains(value, o.address));
          if (!hit) continue;
          const left = withoutAddresses(
            value,
            own.filter((o) => o.i.table === iface.table).map((o) => o.address),
          );
          yield {
            statement: iface.statement,
            at,
            others: hit.i === iface ? [] : [hit.i.statement],
            values: {
              name: iface.name,
              range: formatRangeShort(value),
              address: formatIp(hit.address),
              owner: hit.i.name,
            },
            mends: left.length
              ? [
                  {
                    what: 'use-range',
                    values: { range: rangesText(left) },
                    changes: changeClauses(site, iface.statement, [
                      { do: 'replace', start: at.start, end: at.end, text: rangesText(left) },
                    ]),
                  },
                ]
              : [],
          };
        }
  },
});
