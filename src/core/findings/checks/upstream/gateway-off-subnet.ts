import { contains, formatIp, formatPrefix } from '#core/addr';
import { changeClauses } from '#core/edits';
import { networksOf } from '#core/site';
import type { Interface } from '#core/site';
import type { Check, Context, Mend } from '../../finding';
import { live, phrase, statedCircuits } from '../../queries';

/** A gateway on none of the interface's subnets. */
export const gatewayOffSubnet: Check = {
  code: 'gateway-off-subnet',
  *run(c) {
    for (const iface of live(c.site)) {
      const { gateway } = iface.statement;
      if (gateway?.value.by !== 'address' || gateway.value.onlink) continue;
      const { address } = gateway.value;
      const nets = networksOf(iface, c.prospects);
      if (!nets.length || nets.some((n) => contains(n, address))) continue;
      const circuit = statedCircuits(c, iface).find(
        (x) => x.gateway !== undefined && nets.some((n) => contains(n, x.gateway!)),
      );
      const mends: Mend[] = [];
      if (circuit?.gateway !== undefined)
        mends.push({
          what: 'use-gateway',
          values: { address: formatIp(circuit.gateway), circuit: circuit.name },
          changes: setGateway(c, iface, formatIp(circuit.gateway)),
        });
      mends.push({
        what: 'onlink',
        values: { address: formatIp(address) },
        changes: setGateway(c, iface, `${formatIp(address)} onlink`),
      });
      yield {
        statement: iface.statement,
        at: gateway.at,
        others: circuit?.statement ? [circuit.statement] : [],
        values: {
          name: iface.name,
          gateway: formatIp(address),
          nets: phrase(nets.map(formatPrefix)),
        },
        mends,
      };
    }
  },
};

const setGateway = (c: Context, iface: Interface, text: string) =>
  changeClauses(c.site, iface.statement, [{ do: 'set', name: 'gateway', text: `gateway ${text}` }]);
