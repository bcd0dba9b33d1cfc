import { formatServices, servicesWithin } from '#core/addr';
import { addStatement, dropStatement, joinChanges, textOf } from '#core/edits';
import type { PassageRule } from '#core/semantics';
import type { Check } from '../../finding';

/** A passage that takes nothing, since an earlier one takes all of it. */
export const passageShadowed: Check = {
  code: 'passage-shadowed',
  *run(c) {
    const { passages } = c.rules;
    for (const [i, rule] of passages.entries()) {
      const earlier = passages.slice(0, i).find((e) => covers(e, rule));
      if (!earlier) continue;
      const same = earlier.verdict === rule.verdict;
      yield {
        statement: rule.statement,
        others: [earlier.statement],
        values: {
          zones: `${rule.from} > ${rule.to}`,
          line: String(earlier.statement.line),
          by: `passage ${earlier.from} > ${earlier.to}: ${earlier.verdict} ${formatServices(earlier.services)}`,
          verdict: rule.verdict,
        },
        mends: [
          ...(same
            ? []
            : [
                {
                  what: 'move-before',
                  values: { line: String(earlier.statement.line) },
                  changes: joinChanges(
                    dropStatement(c.site, rule.statement),
                    addStatement(c.site, 'passage', textOf(c.site, rule.statement), {
                      before: earlier.statement,
                    }),
                  ),
                },
              ]),
          {
            what: 'remove-statement',
            values: { line: String(rule.statement.line) },
            changes: dropStatement(c.site, rule.statement),
          },
        ],
      };
    }
  },
};

const covers = (a: PassageRule, b: PassageRule): boolean =>
  (a.from === 'any' || a.from === b.from) &&
  (a.to === 'any' || a.to === b.to) &&
  servicesWithin(b.services, a.services) &&
  (!a.sources || (!!b.sources && b.sources.within(a.sources))) &&
  (!a.destinations || (!!b.destinations && b.destinations.within(a.destinations)));
