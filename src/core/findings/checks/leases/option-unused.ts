import { formatRange, optionName, rangeContains } from '#core/addr';
import { check } from '../../finding';
import { live } from '../../queries';

/** A DHCP option that nobody is told: the interface lends nothing, or nothing of the addresses that it is for. */
export const optionUnused = check({
  code: 'option-unused',
  *run({ site }) {
    for (const iface of live(site))
      for (const { option, only, what } of iface.statement.options) {
        const range = only?.value;
        const lent =
          !range ||
          iface.reserved.some((k) => rangeContains(range, k.address)) ||
          iface.pools.some((p) =>
            p.ranges.some((r) => rangeContains(r, range.first) || rangeContains(range, r.first)),
          );
        if (iface.pools.length && lent) continue;
        yield {
          statement: iface.statement,
          at: only?.at ?? what,
          values: {
            name: iface.name,
            option: optionName(option.code),
            range: range && iface.pools.length ? formatRange(range) : '',
          },
        };
      }
  },
});
