import { IpSet, familyOf, formatIp } from '#core/addr';
import type { Ip } from '#core/addr';
import { addStatement } from '#core/edits';
import { internetSet } from '#core/semantics';
import { shownOf } from '#core/reach';
import { check } from '../../finding';
import { eachDoor, homeOfDoor, ownersOf } from '../../doors';

/** A server whose own flows show another address than its door: what it calls will not know it again. */
export const doorLeavesElsewhere = check({
  code: 'door-leaves-elsewhere',
  *run(c) {
    const outside = internetSet(c.site, c.prospects);
    for (const rule of eachDoor(c)) {
      const home = homeOfDoor(c, rule);
      const [out] = ownersOf(c, rule);
      if (!home || home.uplink || !out) continue;
      const shown = new Set<Ip>();
      const family = familyOf(rule.inside);
      const flows = { sources: IpSet.ofAddresses([rule.inside]), destinations: outside.only(family) };
      for (const o of c.reach.follower.between(home, out, family, flows)) shown.add(shownOf(o, rule.inside));
      const other = [...shown].find((a) => a !== rule.outside);
      if (other === undefined) continue;
      const text = `leave ${formatIp(rule.inside)} > ${out.name}: as ${formatIp(rule.outside)}`;
      const before = c.site.leaves[0];
      yield {
        statement: rule.statement,
        others: [out.statement],
        values: {
          name: rule.name,
          inside: formatIp(rule.inside),
          address: formatIp(rule.outside),
          shown: formatIp(other),
        },
        mends: [
          {
            what: 'add-statement',
            values: { text },
            changes: addStatement(c.site, 'leave', text, before && { before }),
          },
        ],
      };
    }
  },
});
