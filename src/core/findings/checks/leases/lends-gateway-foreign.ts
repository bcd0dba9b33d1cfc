import { formatIp } from '#core/addr';
import { changeClauses } from '#core/edits';
import { check } from '../../finding';
import { live, ownFor } from '../../queries';

/** A pool that tells its clients a gateway that is not the box. */
export const lendsGatewayForeign = check({
  code: 'lends-gateway-foreign',
  *run(c) {
    for (const iface of live(c.site))
      for (const pool of iface.statement.lends) {
        const { gateway } = pool;
        if (!gateway || iface.addresses.some((a) => a.prefix.address === gateway.value)) continue;
        const own = ownFor(iface, pool.ranges[0]?.value.first ?? gateway.value);
        yield {
          statement: iface.statement,
          at: gateway.at,
          values: {
            name: iface.name,
            gateway: formatIp(gateway.value),
            own: own ? formatIp(own.address) : '',
          },
          mends: own
            ? [
                {
                  what: 'use-gateway',
                  values: { address: formatIp(own.address), circuit: '' },
                  changes: changeClauses(c.site, iface.statement, [
                    {
                      do: 'replace',
                      start: gateway.at.start,
                      end: gateway.at.end,
                      text: formatIp(own.address),
                    },
                  ]),
                },
              ]
            : [],
        };
      }
  },
});
