import {
  broadcastOf,
  contains,
  formatIp,
  formatPrefix,
  isIpv4,
  isLinkLocal,
  notAHostAddress,
} from '#core/addr';
import { networksOf } from '#core/site';
import { check } from '../../finding';
import { live, useGateway, writtenGateways } from '../../queries';

/** A gateway that is a network or broadcast address, or one no host can have. */
export const gatewayNotHost = check({
  code: 'gateway-not-host',
  *run(c) {
    for (const iface of live(c.site))
      for (const { clause, address, at, circuits } of writtenGateways(c, iface)) {
        // Routers of IPv6 are best known by their link-local address.
        if (!isIpv4(address) && isLinkLocal(address)) continue;
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
        const given = circuits.find(
          (x) => x.address !== address && networksOf(iface, c.prospects).some((n) => contains(n, x.address)),
        );
        yield {
          statement: iface.statement,
          at,
          values: {
            name: iface.name,
            gateway: formatIp(address),
            which,
            net: net ? formatPrefix(net) : '',
          },
          mends: given ? [useGateway(c.site, iface, clause, given.address, given.circuit)] : [],
        };
      }
  },
});
