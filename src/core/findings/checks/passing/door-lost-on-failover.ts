import { ServiceSet, familyOf, formatIp } from '#core/addr';
import { check } from '../../finding';
import { eachDoor, doorBeside, ownersOf } from '../../doors';
import { phrase, uplinks } from '../../queries';

/** A door at an address of one uplink, where another takes over and has no such door. */
export const doorLostOnFailover = check({
  code: 'door-lost-on-failover',
  *run(c) {
    for (const rule of eachDoor(c)) {
      const owners = ownersOf(c, rule);
      const [first] = owners;
      if (!first) continue;
      const same = c.rules.doors.filter((d) => {
        const family = familyOf(d.inside);
        return (
          d !== rule &&
          d.inside === rule.inside &&
          !ServiceSet.of(d.insideServices, family).intersect(ServiceSet.of(rule.insideServices, family))
            .isEmpty
        );
      });
      const covered = new Set([...owners, ...same.flatMap((d) => ownersOf(c, d))]);
      const others = uplinks(c.site).filter(
        (i) => i.table === first.table && i.zone?.upstream && !covered.has(i),
      );
      if (!others.length) continue;
      const { text, changes } = doorBeside(c, rule, others[0]!.name);
      yield {
        statement: rule.statement,
        others: others.map((i) => i.statement),
        values: {
          name: rule.name,
          address: formatIp(rule.outside),
          uplink: first.name,
          others: phrase(others.map((i) => i.name)),
        },
        mends: [{ what: 'add-statement', values: { text }, changes }],
      };
    }
  },
});
