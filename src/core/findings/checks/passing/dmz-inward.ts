import { inwardOf, isUnrestricted } from '../../inward';
import { formatServices } from '#core/addr';
import { check } from '../../finding';
import { takeOut } from '../../mending';

/** A dmz that may start anything, or reach everybody, in a more trusted zone. */
export const dmzInward = check({
  code: 'dmz-inward',
  *run(c) {
    for (const rule of c.rules.passages) {
      const way = inwardOf(c.site, rule);
      if (!way?.from.dmz || way.from.upstream || (!isUnrestricted(rule) && rule.destinations)) continue;
      yield {
        statement: rule.statement,
        values: {
          from: way.from.name,
          to: way.to.name,
          services: formatServices(rule.services),
          lacks: isUnrestricted(rule) ? 'no service is named' : 'no `to` names the hosts',
        },
        mends: [takeOut(c.site, rule.statement)],
      };
    }
  },
});
