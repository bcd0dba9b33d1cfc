import { broadcastOf, contains, formatIp, formatPrefix, isIpv4, notAHostAddress } from '#core/addr';
import { changeClauses } from '#core/edits';
import { networksOf } from '#core/site';
import type { Check } from '../../finding';
import { live, statedCircuits } from '../../queries';

/** A gateway that is a network or broadcast address, or one no host can have. */
export const gatewayNotHost: Check = {
  code: 'gateway-not-host',
  *run(c) {
    for (const iface of live(c.site)) {
      const { gateway } = iface.statement;
      if (gateway?.value.by !== 'address') continue;
      const { address } = gateway.value;
      const net = networksOf(iface, c.prospects).find((n) => contains(n, address));
      const edge =
        net && isIpv4(net.address) && net.length <= 30
          ? address === net.address
            ? 'network'
            : address === broadcastOf(net)
              ? 'broadcast'
              : undefined
          : undefined;
      const which = edge ?? notAHostAddress(address)?.what;
      if (!which) continue;
      const circuit = statedCircuits(c, iface).find((x) => x.gateway !== undefined && x.gateway !== address);
      yield {
        statement: iface.statement,
        at: gateway.at,
        values: {
          name: iface.name,
          gateway: formatIp(address),
          which,
          net: net ? formatPrefix(net) : '',
        },
        mends:
          circuit?.gateway === undefined
            ? []
            : [
                {
                  what: 'use-gateway',
                  values: { address: formatIp(circuit.gateway), circuit: circuit.name },
                  changes: changeClauses(c.site, iface.statement, [
                    { do: 'set', name: 'gateway', text: `gateway ${formatIp(circuit.gateway)}` },
                  ]),
                },
              ],
      };
    }
  },
};
