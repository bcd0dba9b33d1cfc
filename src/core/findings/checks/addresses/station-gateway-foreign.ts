import { contains, formatIp } from '#core/addr';
import type { Ip } from '#core/addr';
import { landed, routerAt, routersOn, stationsOf } from '#core/site';
import { check } from '../../finding';
import { setGateway } from '../../mending';
import { addressPhrase, inside, ownFor } from '../../queries';

/** A station whose gateway is nobody's address on its segment. */
export const stationGatewayForeign = check({
  code: 'station-gateway-foreign',
  *run(c) {
    for (const iface of inside(c.site))
      for (const station of stationsOf(c.wiring, iface)) {
        const { statement, gateway, address } = station;
        if (!statement?.gateway || gateway === undefined || !address || station.off) continue;
        const nodes: Ip[] = [
          ...stationsOf(c.wiring, iface).flatMap((s) => (s.address ? [s.address.address] : [])),
          ...routersOn(c.wiring, `interface ${iface.name}`).map(({ leg }) => leg.address.address),
        ];
        if (iface.addresses.some((a) => a.prefix.address === gateway) || nodes.includes(gateway)) continue;
        const right = ownFor(iface, address.address);
        yield {
          statement,
          at: statement.gateway.at,
          others: [iface.statement],
          values: {
            name: station.name,
            gateway: formatIp(gateway),
            interface: iface.name,
            own: addressPhrase(iface.addresses.map((a) => a.prefix.address)),
          },
          mends: right ? [setGateway(c.site, statement, right.address)] : [],
        };
      }
    // Behind routers inside the gateway is one of them.
    for (const station of c.wiring.stations) {
      const { statement, gateway, address, landing } = station;
      if (!statement?.gateway || gateway === undefined || !address || station.off || landed(landing))
        continue;
      const legs = routersOn(c.wiring, landing.segment);
      const [first] = legs;
      if (!first || routerAt(c.wiring, landing.segment, gateway)) continue;
      const right = legs.find(({ leg }) => contains(leg.address, address.address))?.leg.address.address;
      yield {
        statement,
        at: statement.gateway.at,
        others: [first.router.statement],
        values: {
          name: station.name,
          gateway: formatIp(gateway),
          interface: `router ${first.router.name}`,
          own: addressPhrase(legs.map(({ leg }) => leg.address.address)),
        },
        mends: right === undefined ? [] : [setGateway(c.site, statement, right)],
      };
    }
  },
});
