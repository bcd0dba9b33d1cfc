import { formatIp } from '#core/addr';
import { addStatement, wordsOf } from '#core/edits';
import type { LeaveRule } from '#core/semantics';
import { check } from '../../finding';
import { owns, uplinks } from '../../queries';

/** Somebody leaves as a chosen address of one uplink, and on another only a general statement or none takes them. */
export const leaveLostOnFailover = check({
  code: 'leave-lost-on-failover',
  *run(c) {
    const { leaves } = c.rules;
    for (const rule of leaves) {
      if (rule.action.as !== 'address' || rule.statement.who.type === 'any') continue;
      const { address } = rule.action;
      const home = uplinks(c.site).find((i) => rule.out.has(i.name) && owns(c, i, address));
      if (!home) continue;
      for (const other of uplinks(c.site)) {
        if (other === home || other.table !== home.table || !other.zone?.upstream) continue;
        if (rule.out.has(other.name) && owns(c, other, address)) continue;
        const own = leaves.find((l) => l !== rule && l.out.has(other.name) && sameWho(l, rule));
        if (own) continue;
        const general = leaves.find(
          (l) => l !== rule && l.out.has(other.name) && l.statement.who.type === 'any',
        );
        const who = wordsOf(c.site, rule.statement, rule.statement.who.at);
        const text = `leave ${who} > ${other.name}: as interface`;
        yield {
          statement: rule.statement,
          others: [other.statement, ...(general ? [general.statement] : [])],
          values: {
            who,
            address: formatIp(address),
            uplink: home.name,
            other: other.name,
            line: general ? String(general.statement.line) : '',
          },
          mends: [
            {
              what: 'add-statement',
              values: { text },
              changes: addStatement(c.site, 'leave', text, { after: rule.statement }),
            },
          ],
        };
        break;
      }
    }
  },
});

/** Whether two statements speak of the same sources. */
function sameWho(a: LeaveRule, b: LeaveRule): boolean {
  if (a.sources || b.sources) return !!a.sources && !!b.sources && b.sources.within(a.sources);
  return !!a.arrival && a.arrival.zone === b.arrival?.zone && a.arrival.interface === b.arrival?.interface;
}
