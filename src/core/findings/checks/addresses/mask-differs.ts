import { formatIp, formatPrefix, overlaps } from '#core/addr';
import { changeClauses } from '#core/edits';
import { routersOn, stationsOf } from '#core/site';
import { check } from '../../finding';
import { live, statedCircuits } from '../../queries';

/** Interface, stations and circuits of one segment that disagree about how long the subnet's prefix is. */
export const maskDiffers = check({
  code: 'mask-differs',
  *run(c) {
    for (const iface of live(c.site)) {
      for (const circuit of statedCircuits(c, iface)) {
        const own = iface.addresses.find((a) => circuit.prefix && overlaps(circuit.prefix, a.prefix));
        if (
          !own ||
          !circuit.prefix ||
          own.prefix.length === circuit.prefix.length ||
          !own.primary ||
          circuit.prefix.length === 0
        )
          continue;
        yield {
          statement: iface.statement,
          at: own.at,
          others: circuit.statement ? [circuit.statement] : [],
          values: {
            name: iface.name,
            address: formatPrefix(own.prefix),
            other: `circuit ${circuit.name}`,
            otherAddress: formatPrefix(circuit.prefix),
          },
          mends: [
            {
              what: 'set-length',
              values: { length: `/${circuit.prefix.length}` },
              changes: changeClauses(c.site, iface.statement, [
                {
                  do: 'set',
                  name: 'address',
                  text: `address ${formatIp(own.prefix.address)}/${circuit.prefix.length}`,
                },
              ]),
            },
          ],
        };
      }
      for (const { router, leg } of routersOn(c.wiring, `interface ${iface.name}`)) {
        const own = iface.addresses.find(
          (a) => overlaps(a.prefix, leg.address) && a.prefix.length !== leg.address.length,
        );
        if (
          own &&
          !iface.addresses.some(
            (a) => overlaps(a.prefix, leg.address) && a.prefix.length === leg.address.length,
          )
        )
          yield {
            statement: router.statement,
            at: router.statement.legs.find((l) => l.value.plug === leg.plug)?.at,
            others: [iface.statement],
            values: {
              name: router.name,
              address: formatPrefix(leg.address),
              other: `interface ${iface.name}`,
              otherAddress: formatPrefix(own.prefix),
            },
          };
      }
      for (const station of stationsOf(c.wiring, iface)) {
        const { statement, address } = station;
        if (!statement || !address) continue;
        const own = iface.addresses.find(
          (a) => overlaps(a.prefix, address) && a.prefix.length !== address.length,
        );
        if (
          own &&
          !iface.addresses.some((a) => overlaps(a.prefix, address) && a.prefix.length === address.length)
        )
          yield {
            statement,
            at: statement.address?.at,
            others: [iface.statement],
            values: {
              name: station.name,
              address: formatPrefix(address),
              other: `interface ${iface.name}`,
              otherAddress: formatPrefix(own.prefix),
            },
            mends: [
              {
                what: 'set-station-length',
                values: { station: station.name, length: `/${own.prefix.length}` },
                changes: changeClauses(c.site, statement, [
                  {
                    do: 'set',
                    name: 'address',
                    text: `address ${formatIp(address.address)}/${own.prefix.length}`,
                  },
                ]),
              },
            ],
          };
      }
    }
  },
});
