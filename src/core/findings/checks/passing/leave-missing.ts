import { clausesOf, written } from '#core/notation';
import { IpSet, formatRangeShort, isIpv4, privatePrefixes4 } from '#core/addr';
import { Pairs } from '#core/base';
import { addStatement, changeClauses } from '#core/edits';
import { behindInterface } from '#core/semantics';
import type { LeaveRule } from '#core/semantics';
import { addressesOf, zoneNamed } from '#core/site';
import type { Interface } from '#core/site';
import { check } from '../../finding';
import type { Context, Mend } from '../../finding';
import { inside, statedCircuits, uplinks } from '../../queries';

/** What no provider carries. */
const PRIVATE = IpSet.ofPrefixes(privatePrefixes4());

/** A private network that may go out by an uplink and would keep its private source there. */
export const leaveMissing = check({
  code: 'leave-missing',
  *run(c) {
    // Ways out of one table by an uplink of another.
    const leaks = new Set(
      c.routes.flatMap((r) => (r.origin === 'static' && r.interface ? [`${r.table} ${r.interface}`] : [])),
    );
    const permitted = new Pairs<string, string, boolean>();
    // A circuit that translates again takes private sources.
    const outs = uplinks(c.site).filter((out) => {
      // What speaks no IPv4 carries none.
      if (!out.dynamic && !addressesOf(out, c.prospects).some((a) => isIpv4(a.address))) return false;
      const circuits = statedCircuits(c, out);
      return !circuits.length || circuits.some((x) => x.translatesTo === undefined);
    });
    for (const iface of inside(c.site)) {
      // With those behind other routers.
      const nets = behindInterface(c.site, c.prospects, iface).intersect(PRIVATE);
      if (nets.isEmpty || !iface.zone) continue;
      for (const out of outs) {
        if (!out.zone || !(out.table === iface.table || leaks.has(`${iface.table} ${out.name}`))) continue;
        if (!permitted.of(iface.zone.name, out.zone.name, () => mayGoOut(c, iface, out))) continue;
        const { bare, unchanged } = keepingSource(c, iface, out, nets);
        if (bare.isEmpty) continue;
        const via = out.zone.upstream ? out.zone.name : out.name;
        // Zones are looked for before interfaces, so an interface that shares a zone's name says what it is.
        const who = zoneNamed(c.site, iface.name) ? `interface ${iface.name}` : iface.name;
        yield {
          statement: iface.statement,
          others: unchanged ? [out.statement, unchanged.statement] : [out.statement],
          values: {
            name: iface.name,
            out: out.name,
            sources: bare.ranges.map(formatRangeShort).join(', '),
          },
          mends: unchanged
            ? [insteadOf(c, iface, unchanged, `leave ${who} > ${via}: as interface`)]
            : [`leave any > ${via}: as interface`, `leave ${who} > ${via}: as interface`].map((text) => ({
                what: 'add-leave',
                values: { text },
                changes: addStatement(c.site, 'leave', text),
              })),
        };
        break;
      }
    }
  },
});

/** Whether some passage, or `within`, lets the interface's zone start flows by the uplink. */
function mayGoOut(c: Context, iface: Interface, out: Interface): boolean {
  const [from, to] = [iface.zone!.name, out.zone!.name];
  if (from === to) return iface.zone!.within === 'allow';
  return c.reach.follower.policy.rulesBetween(from, to).some((r) => r.verdict === 'allow');
}

/** The sources of a network that no statement of leaving gives another address. */
function keepingSource(
  c: Context,
  iface: Interface,
  out: Interface,
  nets: IpSet,
): { readonly bare: IpSet; readonly unchanged?: LeaveRule } {
  let left = nets;
  let bare = IpSet.empty;
  let unchanged: LeaveRule | undefined;
  for (const rule of c.rules.leaves) {
    if (rule.family !== 4 || !rule.out.has(out.name)) continue;
    if (rule.arrival?.zone && rule.arrival.zone !== iface.zone?.name) continue;
    if (rule.arrival?.interface && rule.arrival.interface !== iface.name) continue;
    const taken = rule.sources ? left.intersect(rule.sources) : left;
    if (rule.action.as === 'unchanged' && !taken.isEmpty) {
      bare = bare.union(taken);
      unchanged ??= rule;
    }
    left = left.minus(taken);
  }
  return { bare: bare.union(left), unchanged };
}

/** Where a statement leaves the source unchanged: another before it, or the address of the interface in its place. */
function insteadOf(c: Context, iface: Interface, rule: LeaveRule, text: string): Mend {
  const { statement, arrival, sources } = rule;
  const own = behindInterface(c.site, c.prospects, iface);
  const onlyOurs = arrival
    ? arrival.interface === iface.name ||
      c.site.interfaces.filter((i) => i.zone?.name === arrival.zone).every((i) => i === iface)
    : !!sources && sources.within(own);
  if (!onlyOurs)
    return {
      what: 'add-leave',
      values: { text },
      changes: addStatement(c.site, 'leave', text, { before: statement }),
    };
  const clause = clausesOf(statement, 'unchanged')[0]!;
  return {
    what: 'leave-instead',
    values: {
      text: `leave ${written(statement)
        .header.map((t) => t.text)
        .join(' ')}: as interface`,
    },
    changes: changeClauses(c.site, statement, [
      { do: 'replace', start: clause.start, end: clause.end, text: 'as interface' },
    ]),
  };
}
