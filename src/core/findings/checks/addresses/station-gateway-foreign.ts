import { formatIp } from '#core/addr';
import { changeClauses } from '#core/edits';
import { stationsOf } from '#core/site';
import { check } from '../../finding';
import { addressPhrase, inside, ownFor } from '../../queries';

/** A station whose gateway is nobody's address on its segment. */
export const stationGatewayForeign = check({
  code: 'station-gateway-foreign',
  *run(c) {
    for (const iface of inside(c.site))
      for (const station of stationsOf(c.wiring, iface)) {
        const { statement, gateway, address } = station;
        if (!statement?.gateway || gateway === undefined || !address || station.off) continue;
        const nodes = stationsOf(c.wiring, iface).flatMap((s) => (s.address ? [s.address.address] : []));
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
          mends: right
            ? [
                {
                  what: 'set-station-gateway',
                  values: { station: station.name, address: formatIp(right.address) },
                  changes: changeClauses(c.site, statement, [
                    { do: 'set', name: 'gateway', text: `gateway ${formatIp(right.address)}` },
                  ]),
                },
              ]
            : [],
        };
      }
  },
});
