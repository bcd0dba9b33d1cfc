import { formatServices, servicesWithin } from '#core/addr';
import { shadowed } from '#core/reach';
import type { PassageRule } from '#core/semantics';
import { check } from '../../finding';
import { moveBefore, takeOut } from '../../mending';
import { phrase } from '../../queries';

/** A passage that takes nothing, since earlier ones take all of it. */
export const passageShadowed = check({
  code: 'passage-shadowed',
  *run(c) {
    for (const [rule, takers] of shadowed(c.reach, c.memory)) {
      // One that takes all of it alone is named alone.
      const alone = takers.find((e) => covers(e, rule));
      const by = alone ? [alone] : takers;
      const [first] = by;
      // Moved before what it takes all of, it would only turn the tables.
      const other = by.find((e) => e.verdict !== rule.verdict && !covers(rule, e));
      yield {
        statement: rule.statement,
        others: by.map((e) => e.statement),
        values: {
          zones: `${rule.from} > ${rule.to}`,
          line: phrase(by.map((e) => String(e.statement.line))),
          several: by.length > 1 ? 'yes' : '',
          by: `passage ${first!.from} > ${first!.to}: ${first!.verdict} ${formatServices(first!.services)}`,
          verdict: rule.verdict,
        },
        mends: [
          ...(other ? [moveBefore(c.site, rule.statement, other.statement)] : []),
          takeOut(c.site, rule.statement),
        ],
      };
    }
  },
});

const covers = (a: PassageRule, b: PassageRule): boolean =>
  (a.from === 'any' || a.from === b.from) &&
  (a.to === 'any' || a.to === b.to) &&
  servicesWithin(b.services, a.services) &&
  (!a.sources || (!!b.sources && b.sources.within(a.sources))) &&
  (!a.destinations || (!!b.destinations && b.destinations.within(a.destinations)));
