import { formatIp } from '#core/addr';
import { stationsOf } from '#core/site';
import { check } from '../../finding';
import { setGateway } from '../../mending';
import { inside, ownAndShared } from '../../queries';

/** A station that sends to the box's own address though there is a shared one: it is cut off when the twin takes over. */
export const gatewayNotShared = check({
  code: 'gateway-not-shared',
  *run({ site, wiring }) {
    for (const iface of inside(site)) {
      const both = ownAndShared(iface);
      if (!both) continue;
      for (const station of stationsOf(wiring, iface)) {
        const { statement, gateway } = station;
        if (!statement?.gateway || gateway !== both.own || station.off) continue;
        yield {
          statement,
          at: statement.gateway.at,
          others: [iface.statement],
          values: { name: station.name, own: formatIp(both.own), shared: formatIp(both.shared) },
          mends: [setGateway(site, statement, both.shared)],
        };
      }
    }
  },
});
