import { formatIp, isIpv4 } from '#core/addr';
import type { Ip, Ipv4, Prefix } from '#core/addr';
import { lowestFree } from '#core/site';
import { check } from '../../finding';
import { live, useGateway, writtenGateways } from '../../queries';

/** A gateway that is the interface's own address. */
export const gatewayIsSelf = check({
  code: 'gateway-is-self',
  *run(c) {
    for (const iface of live(c.site))
      for (const { clause, address, at, circuits } of writtenGateways(c, iface)) {
        const own = iface.addresses.find((a) => a.prefix.address === address)?.prefix;
        if (!own) continue;
        const mine = new Set<Ip>(iface.addresses.map((a) => a.prefix.address));
        const given = circuits.find((x) => !mine.has(x.address));
        const other =
          given?.address ??
          (isIpv4(own.address) ? lowestFree(own as Prefix<Ipv4>, (a) => mine.has(a)) : undefined);
        yield {
          statement: iface.statement,
          at,
          values: { name: iface.name, gateway: formatIp(address) },
          mends: other === undefined ? [] : [useGateway(c.site, iface, clause, other, given?.circuit)],
        };
      }
  },
});
