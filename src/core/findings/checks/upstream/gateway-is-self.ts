import { formatIp, isIpv4 } from '#core/addr';
import type { Ipv4, Prefix } from '#core/addr';
import { changeClauses } from '#core/edits';
import { lowestFree } from '#core/site';
import type { Check } from '../../finding';
import { live, statedCircuits } from '../../queries';

/** A gateway that is the interface's own address. */
export const gatewayIsSelf: Check = {
  code: 'gateway-is-self',
  *run(c) {
    for (const iface of live(c.site)) {
      const { gateway } = iface.statement;
      if (gateway?.value.by !== 'address') continue;
      const { address } = gateway.value;
      const own = iface.addresses.find((a) => a.prefix.address === address);
      if (!own) continue;
      const mine = new Set(iface.addresses.map((a) => a.prefix.address));
      const circuit = statedCircuits(c, iface).find((x) => x.gateway !== undefined && !mine.has(x.gateway));
      const other =
        circuit?.gateway ??
        (isIpv4(own.prefix.address) ? lowestFree(own.prefix as Prefix<Ipv4>, (a) => mine.has(a)) : undefined);
      yield {
        statement: iface.statement,
        at: gateway.at,
        values: { name: iface.name, gateway: formatIp(address) },
        mends:
          other === undefined
            ? []
            : [
                {
                  what: 'use-gateway',
                  values: { address: formatIp(other), circuit: circuit?.name ?? '' },
                  changes: changeClauses(c.site, iface.statement, [
                    { do: 'set', name: 'gateway', text: `gateway ${formatIp(other)}` },
                  ]),
                },
              ],
      };
    }
  },
};
