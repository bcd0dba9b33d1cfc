import { IpSet, formatRangeShort, isPrivate } from '#core/addr';
import { Pairs } from '#core/base';
import { addStatement } from '#core/edits';
import { zoneNamed } from '#core/site';
import type { Interface } from '#core/site';
import type { Check, Context } from '../../finding';
import { inside, networks4, statedCircuits, uplinks } from '../../queries';

/** A private network that may go out by an uplink and would keep its private source there. */
export const leaveMissing: Check = {
  code: 'leave-missing',
  *run(c) {
    // Ways out of one table by an uplink of another.
    const leaks = new Set(
      c.routes.flatMap((r) => (r.origin === 'static' && r.interface ? [`${r.table} ${r.interface}`] : [])),
    );
    const permitted = new Pairs<string, string, boolean>();
    // A circuit that translates again takes private sources.
    const outs = uplinks(c.site).filter((out) => {
      const circuits = statedCircuits(c, out);
      return !circuits.length || circuits.some((x) => x.translatesTo === undefined);
    });
    for (const iface of inside(c.site)) {
      const nets = IpSet.ofPrefixes(networks4(c, iface).filter((n) => isPrivate(n.address)));
      if (nets.isEmpty || !iface.zone) continue;
      for (const out of outs) {
        if (!out.zone || !(out.table === iface.table || leaks.has(`${iface.table} ${out.name}`))) continue;
        if (!permitted.of(iface.zone.name, out.zone.name, () => mayGoOut(c, iface, out))) continue;
        const bare = keepingSource(c, iface, out, nets);
        if (bare.isEmpty) continue;
        const via = out.zone.upstream ? out.zone.name : out.name;
        // Zones are looked for before interfaces, so an interface that shares a zone's name says what it is.
        const who = zoneNamed(c.site, iface.name) ? `interface ${iface.name}` : iface.name;
        yield {
          statement: iface.statement,
          others: [out.statement],
          values: {
            name: iface.name,
            out: out.name,
            sources: bare.ranges.map(formatRangeShort).join(', '),
          },
          mends: [
            {
              what: 'add-leave',
              values: { text: `leave any > ${via}: as interface` },
              changes: addStatement(c.site, 'leave', `leave any > ${via}: as interface`),
            },
            {
              what: 'add-leave',
              values: { text: `leave ${who} > ${via}: as interface` },
              changes: addStatement(c.site, 'leave', `leave ${who} > ${via}: as interface`),
            },
          ],
        };
        break;
      }
    }
  },
};

/** Whether some passage, or `within`, lets the interface's zone start flows by the uplink. */
function mayGoOut(c: Context, iface: Interface, out: Interface): boolean {
  const [from, to] = [iface.zone!.name, out.zone!.name];
  if (from === to) return iface.zone!.within === 'allow';
  return c.reach.follower.rulesBetween(from, to).some((r) => r.verdict === 'allow');
}

/** The sources of a network that no statement of leaving gives another address. */
function keepingSource(c: Context, iface: Interface, out: Interface, nets: IpSet): IpSet {
  let left = nets;
  let bare = IpSet.empty;
  for (const rule of c.rules.leaves) {
    if (rule.family !== 4 || !rule.out.has(out.name)) continue;
    if (rule.arrival?.zone && rule.arrival.zone !== iface.zone?.name) continue;
    if (rule.arrival?.interface && rule.arrival.interface !== iface.name) continue;
    const taken = rule.sources ? left.intersect(rule.sources) : left;
    if (rule.action.as === 'unchanged') bare = bare.union(taken);
    left = left.minus(taken);
  }
  return bare.union(left);
}
