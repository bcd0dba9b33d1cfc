import { textOf } from '#core/edits';
import { interfaceNamed } from '#core/site';
import type { LeaveRule } from '#core/semantics';
import { check } from '../../finding';
import type { Context } from '../../finding';
import { moveBefore, takeOut } from '../../mending';

/** A statement of leaving that takes nothing, since an earlier one takes all of it. */
export const leaveShadowed = check({
  code: 'leave-shadowed',
  *run(c) {
    const { leaves } = c.rules;
    for (const [i, rule] of leaves.entries()) {
      const earlier = leaves.slice(0, i).find((e) => covers(c, e, rule));
      if (!earlier) continue;
      yield {
        statement: rule.statement,
        others: [earlier.statement],
        values: { line: String(earlier.statement.line), by: textOf(c.site, earlier.statement) },
        mends: [
          // Of two that take the same only one can count, in whichever order.
          ...(covers(c, rule, earlier) ? [] : [moveBefore(c.site, rule.statement, earlier.statement)]),
          takeOut(c.site, rule.statement),
        ],
      };
    }
  },
});

function covers(c: Context, a: LeaveRule, b: LeaveRule): boolean {
  if (a.family !== b.family || ![...b.out].every((name) => a.out.has(name)) || !b.out.size) return false;
  const everyone = !a.arrival && !a.sources;
  if (everyone) return true;
  if (a.sources) return !!b.sources && b.sources.within(a.sources);
  if (a.arrival?.zone) {
    if (b.arrival?.zone === a.arrival.zone) return true;
    const iface = interfaceNamed(c.site, b.arrival?.interface);
    return !!iface && iface.zone?.name === a.arrival.zone;
  }
  return a.arrival?.interface !== undefined && a.arrival.interface === b.arrival?.interface;
}
