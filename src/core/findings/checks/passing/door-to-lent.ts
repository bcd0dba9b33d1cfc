import { formatIp, formatMac } from '#core/addr';
import { changeClauses } from '#core/edits';
import { poolOf } from '#core/site';
import { check } from '../../finding';
import { eachDoor, homeOfDoor, stationAt } from '../../doors';

/** A door to an address that the box lends to whoever asks. */
export const doorToLent = check({
  code: 'door-to-lent',
  *run(c) {
    for (const rule of eachDoor(c)) {
      const home = homeOfDoor(c, rule);
      if (!home || !poolOf(home.pools, rule.inside)) continue;
      if (home.statement.keeps.some((k) => k.address.value === rule.inside)) continue;
      const station = stationAt(c, home, rule.inside);
      const inside = formatIp(rule.inside);
      yield {
        statement: rule.statement,
        at: rule.statement.inside?.at,
        others: [home.statement],
        values: { name: rule.name, inside, pool: home.name },
        mends: station?.dhcp
          ? [
              {
                what: 'keep-for',
                values: { address: inside, who: station.name },
                changes: changeClauses(c.site, home.statement, [
                  { do: 'add', text: `keeps ${inside} for ${formatMac(station.mac)} "${station.name}"` },
                ]),
              },
            ]
          : [],
      };
    }
  },
});
