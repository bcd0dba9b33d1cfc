import { formatIp, offsetIp } from '#core/addr';
import { changeClauses } from '#core/edits';
import { nextFreeSubnet } from '#core/site';
import type { Check } from '../../finding';
import { live } from '../../queries';

/** An interface that has no address and asks for none. */
export const noAddress: Check = {
  code: 'no-address',
  *run({ site }) {
    for (const iface of live(site)) {
      if (iface.addresses.length || iface.dynamic || iface.statement.address6.length) continue;
      const next = iface.zone?.upstream ? undefined : nextFreeSubnet(site);
      const first = next && formatIp(offsetIp(next.address, 1)!);
      yield {
        statement: iface.statement,
        values: { name: iface.name },
        mends: next
          ? [
              {
                what: 'use-address',
                values: { address: `${first}/${next.length}` },
                changes: changeClauses(site, iface.statement, [
                  { do: 'set', name: 'address', text: `address ${first}/${next.length}` },
                ]),
              },
            ]
          : iface.zone?.upstream
            ? [
                {
                  what: 'by-dhcp',
                  values: { name: iface.name },
                  changes: changeClauses(site, iface.statement, [
                    { do: 'set', name: 'address', text: 'address by dhcp' },
                  ]),
                },
              ]
            : [],
      };
    }
  },
};
