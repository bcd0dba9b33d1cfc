import { formatIp, formatMac } from '#core/addr';
import { changeClauses } from '#core/edits';
import type { Check } from '../../finding';
import { live, pairs } from '../../queries';

/** Two reservations for one address, or two for one MAC address. */
export const keepDuplicate: Check = {
  code: 'keep-duplicate',
  *run({ site }) {
    for (const iface of live(site))
      for (const [a, b] of pairs(iface.statement.keeps)) {
        const address = a.address.value === b.address.value;
        if (!address && a.mac !== b.mac) continue;
        const nth = iface.statement.keeps.indexOf(b);
        yield {
          statement: iface.statement,
          at: b.at,
          values: {
            name: iface.name,
            what: address ? formatIp(b.address.value) : formatMac(b.mac),
            first: a.label ?? (address ? formatMac(a.mac) : formatIp(a.address.value)),
            second: b.label ?? (address ? formatMac(b.mac) : formatIp(b.address.value)),
          },
          mends: [
            {
              what: 'remove-keep',
              values: { who: b.label ?? formatMac(b.mac) },
              changes: changeClauses(site, iface.statement, [{ do: 'remove', name: 'keeps', nth }]),
            },
          ],
        };
      }
  },
};
