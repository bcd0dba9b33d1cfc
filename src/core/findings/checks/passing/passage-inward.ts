import { inwardOf, isUnrestricted } from '../../inward';
import { formatServices } from '#core/addr';
import { check } from '../../finding';

/** A passage into a more trusted zone: seldom needed, so it is named. */
export const passageInward = check({
  code: 'passage-inward',
  *run(c) {
    for (const rule of c.rules.passages) {
      const way = inwardOf(c.site, rule);
      if (!way || way.from.upstream) continue;
      const wide = way.from.dmz && (isUnrestricted(rule) || !rule.destinations);
      if (!wide)
        yield {
          statement: rule.statement,
          values: {
            from: way.from.name,
            to: way.to.name,
            services: formatServices(rule.services),
          },
        };
    }
  },
});
