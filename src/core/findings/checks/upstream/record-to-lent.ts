import { contains, formatIp, formatMac } from '#core/addr';
import { changeClauses } from '#core/edits';
import { poolOf } from '#core/site';
import { stationAt } from '../../doors';
import { check } from '../../finding';
import { inside } from '../../queries';

/** A name for an address that the box lends to whoever asks: tomorrow it is somebody else's. */
export const recordToLent = check({
  code: 'record-to-lent',
  *run(c) {
    for (const record of c.site.records)
      for (const { value: address, at } of record.addresses) {
        const home = inside(c.site).find(
          (i) => i.addresses.some((a) => contains(a.prefix, address)) && poolOf(i.pools, address),
        );
        if (!home || home.reserved.some((k) => k.address === address)) continue;
        const station = stationAt(c, home, address);
        const text = formatIp(address);
        yield {
          statement: record,
          at,
          others: [home.statement],
          values: { name: record.name, address: text, pool: home.name },
          mends: station?.dhcp
            ? [
                {
                  what: 'keep-for',
                  values: { address: text, who: station.name },
                  changes: changeClauses(c.site, home.statement, [
                    { do: 'add', text: `keeps ${text} for ${formatMac(station.mac)} "${station.name}"` },
                  ]),
                },
              ]
            : [],
        };
      }
  },
});
