import { contains, familyOf, formatIp, formatPrefix, isIpv4, isLinkLocal } from '#core/addr';
import { changeClauses } from '#core/edits';
import { networksOf } from '#core/site';
import { check } from '../../finding';
import { live, phrase, useGateway, writtenGateways } from '../../queries';

/** A gateway on none of the interface's subnets. */
export const gatewayOffSubnet = check({
  code: 'gateway-off-subnet',
  *run(c) {
    for (const iface of live(c.site))
      for (const { clause, address, onlink, at, circuits } of writtenGateways(c, iface)) {
        if (onlink || (!isIpv4(address) && isLinkLocal(address))) continue;
        const nets = networksOf(iface, c.prospects).filter((n) => familyOf(n.address) === familyOf(address));
        if (!nets.length || nets.some((n) => contains(n, address))) continue;
        const given = circuits.find((x) => nets.some((n) => contains(n, x.address)));
        yield {
          statement: iface.statement,
          at,
          others: given?.circuit.statement ? [given.circuit.statement] : [],
          values: {
            name: iface.name,
            gateway: formatIp(address),
            nets: phrase(nets.map(formatPrefix)),
          },
          mends: [
            ...(given ? [useGateway(c.site, iface, clause, given.address, given.circuit)] : []),
            {
              what: 'onlink',
              values: { address: formatIp(address) },
              changes: changeClauses(c.site, iface.statement, [
                { do: 'set', name: clause, text: `${clause} ${formatIp(address)} onlink` },
              ]),
            },
          ],
        };
      }
  },
});
