import { IpSet, formatRangeShort, isPrivate } from '#core/addr';
import { Pairs } from '#core/base';
import { addStatement } from '#core/edits';
import type { Interface } from '#core/site';
import type { Check, Context } from '../../finding';
import { inside, networks4, statedCircuits, uplinks } from '../../queries';

/** A private network that may go out by an uplink and would keep its private source there. */
export const leaveMissing: Check = {
  code: 'leave-missing',
  *run(c) {
    const permitted = new Pairs<string, string, boolean>();
    for (const iface of inside(c.site)) {
      const nets = IpSet.ofPrefixes(networks4(c, iface).filter((n) => isPrivate(n.address)));
      if (nets.isEmpty || !iface.zone) continue;
      for (const out of uplinks(c.site)) {
        if (!out.zone || !leadsOut(c, iface, out)) continue;
        if (!permitted.of(iface.zone.name, out.zone.name, () => mayGoOut(c, iface, out))) continue;
        // A circuit that translates again takes private sources.
        const circuits = statedCircuits(c, out);
        if (circuits.length && circuits.every((x) => x.translatesTo !== undefined)) continue;
        const bare = keepingSource(c, iface, out, nets);
        if (bare.isEmpty) continue;
        const via = out.zone.upstream ? out.zone.name : out.name;
        // Zones are looked for before interfaces, so an interface that shares a zone's name says what it is.
        const who = c.site.zones.some((z) => z.name === iface.name) ? `interface ${iface.name}` : iface.name;
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

/** Whether the interface's table has a way out by the uplink: its own, or one that leaks into another table. */
const leadsOut = (c: Context, iface: Interface, out: Interface): boolean =>
  out.table === iface.table ||
  c.routes.some((r) => r.origin === 'static' && r.table === iface.table && r.interface === out.name);

/** Whether some passage, or `within`, lets the interface's zone start flows by the uplink. */
function mayGoOut(c: Context, iface: Interface, out: Interface): boolean {
  const [from, to] = [iface.zone!.name, out.zone!.name];
  if (from === to) return iface.zone!.within === 'allow';
  return c.rules.passages.some(
    (r) => r.verdict === 'allow' && (r.from === from || r.from === 'any') && (r.to === to || r.to === 'any'),
  );
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
