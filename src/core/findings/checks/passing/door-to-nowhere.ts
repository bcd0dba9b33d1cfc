import { formatIp } from '#core/addr';
import { addressesOf } from '#core/site';
import { check } from '../../finding';
import { homesOf, tableOnDoor } from '../../doors';
import { live } from '../../queries';

/** A door to an address that no network inside has, or to more than one address. */
export const doorToNowhere = check({
  code: 'door-to-nowhere',
  *run(c) {
    const tables = [...new Set(live(c.site).map((i) => i.table))];
    const compiled = new Map(c.rules.doors.map((d) => [d.statement, d]));
    for (const statement of c.site.doors) {
      const rule = compiled.get(statement);
      const { name, inside } = statement;
      if (!rule) {
        // A name that leads nowhere is told as such; a known with several addresses is no one place.
        const known = inside?.type === 'name' && c.site.knowns.find((k) => k.name === inside.name);
        const many = inside?.type === 'addresses' ? inside.range.first !== inside.range.last : !!known;
        if (many && inside)
          yield {
            statement,
            at: inside.at,
            values: { name, inside: known ? known.name : 'a range', own: '', lost: '', on: '', many: 'yes' },
          };
        continue;
      }
      const table = tableOnDoor(c, rule);
      const homes = homesOf(c, rule.inside).filter(
        (i) => !i.uplink && (table === undefined || i.table === table),
      );
      const own = homesOf(c, rule.inside).find((i) =>
        addressesOf(i, c.prospects).some((a) => a.address === rule.inside),
      );
      const routed = tables.some((t) => {
        if (table !== undefined && t !== table) return false;
        const name = c.reach.follower.ways.wayOf(t, rule.inside).route?.interface;
        const by = name === undefined ? undefined : c.reach.follower.ways.interfaces.get(name);
        return !!by && !by.uplink;
      });
      if ((homes.length || routed) && !own) continue;
      yield {
        statement,
        at: inside?.at,
        others: own ? [own.statement] : [],
        values: {
          name,
          inside: formatIp(rule.inside),
          own: own?.name ?? '',
          lost: own ? '' : 'yes',
          on: rule.on ?? '',
          many: '',
        },
      };
    }
  },
});
