import { formatIp, isIpv4 } from '#core/addr';
import { gatewayAddress, primaryAddress, stationsOf } from '#core/site';
import { check } from '../../finding';
import { setGateway } from '../../mending';
import { inside } from '../../queries';

/** A station that sends to the box's own address though there is a shared one: it is cut off when the twin takes over. */
export const gatewayNotShared = check({
  code: 'gateway-not-shared',
  *run({ site, wiring }) {
    for (const iface of inside(site)) {
      const own = primaryAddress(iface);
      if (!own || !isIpv4(own.address) || iface.shared?.other === undefined) continue;
      const home = { address: own.address, length: own.length };
      const shared = gatewayAddress(iface, home);
      if (shared === own.address) continue;
      for (const station of stationsOf(wiring, iface)) {
        const { statement, gateway } = station;
        if (!statement?.gateway || gateway !== own.address || station.off) continue;
        yield {
          statement,
          at: statement.gateway.at,
          others: [iface.statement],
          values: { name: station.name, own: formatIp(own.address), shared: formatIp(shared) },
          mends: [setGateway(site, statement, shared)],
        };
      }
    }
  },
});
