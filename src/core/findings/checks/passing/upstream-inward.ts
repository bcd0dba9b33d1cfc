import { inwardOf, isUnrestricted } from '../../inward';
import { formatServices } from '#core/addr';
import { check } from '../../finding';
import { takeOut } from '../../mending';

/** The internet let into the inside: an error where nothing narrows it. */
export const upstreamInward = check({
  code: 'upstream-inward',
  *run(c) {
    for (const rule of c.rules.passages) {
      const way = inwardOf(c.site, rule);
      if (!way?.from.upstream) continue;
      const wide = isUnrestricted(rule) || (!way.to.dmz && !rule.destinations);
      yield {
        statement: rule.statement,
        severity: wide ? 'error' : 'warning',
        values: {
          from: way.from.name,
          to: way.to.name,
          services: formatServices(rule.services),
        },
        mends: [takeOut(c.site, rule.statement)],
      };
    }
  },
});
