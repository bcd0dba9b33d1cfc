import { IpSet, formatRangeShort, rangesOverlap } from '#core/addr';
import { changeClauses } from '#core/edits';
import { check } from '../../finding';
import { live, pairs } from '../../queries';
import { rangesText } from '../../mending';

/** Two pools that share addresses. */
export const lendsOverlap = check({
  code: 'lends-overlap',
  *run({ site }) {
    const all = live(site).flatMap((iface) =>
      iface.statement.lends.flatMap((pool) => pool.ranges.map(({ value, at }) => ({ iface, value, at }))),
    );
    for (const [a, b] of pairs(all)) {
      if (a.iface.table !== b.iface.table || !rangesOverlap(a.value, b.value)) continue;
      const left = IpSet.of([b.value]).minus(IpSet.of([a.value])).ranges;
      yield {
        statement: b.iface.statement,
        at: b.at,
        others: a.iface === b.iface ? [] : [a.iface.statement],
        values: {
          name: b.iface.name,
          range: formatRangeShort(b.value),
          other: a.iface.name,
          otherRange: formatRangeShort(a.value),
        },
        mends: left.length
          ? [
              {
                what: 'use-range',
                values: { range: rangesText(left) },
                changes: changeClauses(site, b.iface.statement, [
                  { do: 'replace', start: b.at.start, end: b.at.end, text: rangesText(left) },
                ]),
              },
            ]
          : [],
      };
    }
  },
});
