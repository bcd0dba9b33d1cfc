import { contains, formatIp, formatPrefix } from '#core/addr';
import type { Prefix } from '#core/addr';
import { changeClauses } from '#core/edits';
import type { Statement } from '#core/notation';
import { networksOf } from '#core/site';
import type { Interface } from '#core/site';
import { check } from '../../finding';
import type { Context } from '../../finding';
import { live, networks4, owns, phrase, statedCircuits } from '../../queries';

/** A source address that its uplink does not own: answers to it never come back. */
export const leaveForeign = check({
  code: 'leave-foreign',
  *run(c) {
    const told = new Set<Statement>();
    for (const rule of c.rules.leaves) {
      const { action } = rule;
      if ((action.as !== 'address' && action.as !== 'prefix') || !rule.out.size || told.has(rule.statement))
        continue;
      const outs = live(c.site).filter((i) => rule.out.has(i.name) && i.uplink);
      const has = (i: Interface) =>
        action.as === 'address' ? owns(c, i, action.address) : brings(c, i, action.to);
      if (!outs.length || outs.some(has)) continue;
      told.add(rule.statement);
      const first = outs[0]!;
      const { as } = rule.statement;
      yield {
        statement: rule.statement,
        at: as?.by === 'address' ? as.address.at : as?.by === 'prefix' ? as.prefix.at : undefined,
        others: outs.map((i) => i.statement),
        values: {
          address: action.as === 'address' ? formatIp(action.address) : formatPrefix(action.to),
          out: phrase(outs.map((i) => i.name)),
          nets: phrase(
            outs.flatMap((i) =>
              (action.as === 'address' ? networks4(c, i) : networksOf(i, c.prospects)).map(formatPrefix),
            ),
          ),
        },
        mends:
          action.as === 'prefix'
            ? []
            : [
                {
                  what: 'leave-as-interface',
                  values: { name: first.name },
                  changes: changeClauses(c.site, rule.statement, [
                    { do: 'set', name: 'as', text: 'as interface' },
                  ]),
                },
              ],
      };
    }
  },
});

/** Whether a provider sends a prefix down the line of an uplink, as far as is known. */
function brings(c: Context, iface: Interface, prefix: Prefix): boolean {
  const circuits = statedCircuits(c, iface);
  const all = circuits.flatMap((x) => [...x.routes.map((r) => r.prefix), x.block6, x.delegates6]);
  return !circuits.length || all.some((p) => p && contains(p, prefix.address) && p.length <= prefix.length);
}
