import { clausesOf } from '#core/notation';
import { formatIp } from '#core/addr';
import { changeClauses } from '#core/edits';
import { check } from '../../finding';
import type { Mend } from '../../finding';
import { live } from '../../queries';

/** An inside interface with a gateway becomes an uplink, which is seldom what was meant. */
export const gatewayInside = check({
  code: 'gateway-inside',
  *run({ site }) {
    for (const iface of live(site)) {
      const { gateway, lends } = iface.statement;
      if (!gateway || gateway.value.by !== 'address' || !iface.zone || iface.zone.upstream) continue;
      const { address } = gateway.value;
      const own = iface.addresses.some((a) => a.prefix.address === address);
      const pool = clausesOf(iface.statement, 'lends')[0];
      const mends: Mend[] =
        lends.length && pool && !own
          ? [
              {
                what: 'gateway-to-pool',
                values: { address: formatIp(address) },
                changes: changeClauses(site, iface.statement, [
                  { do: 'replace', start: pool.end, end: pool.end, text: ` gateway ${formatIp(address)}` },
                  { do: 'remove', name: 'gateway' },
                ]),
              },
            ]
          : [
              {
                what: 'remove-gateway',
                values: { name: iface.name },
                changes: changeClauses(site, iface.statement, [{ do: 'remove', name: 'gateway' }]),
              },
            ];
      yield {
        statement: iface.statement,
        at: gateway.at,
        values: {
          name: iface.name,
          gateway: formatIp(address),
          zone: iface.zone.name,
          pool: lends.length ? 'pool' : '',
        },
        mends,
      };
    }
  },
});
