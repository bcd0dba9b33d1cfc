import { IpSet, familyOf, formatServices, isIpv4, servicesWithin } from '#core/addr';
import type { Family } from '#core/addr';
import type { PassageRule } from '#core/semantics';
import { networksOf } from '#core/site';
import type { Interface, Zone } from '#core/site';
import { check } from '../../finding';
import type { Context } from '../../finding';
import { live, phrase } from '../../queries';

/** Something that passes over IPv6 and is closed over IPv4, which is mostly an oversight. */
export const v6Open = check({
  code: 'v6-open',
  *run(c) {
    const mixed = c.site.zones.filter((zone) => both(c, zone));
    for (const rule of mixed.length ? c.rules.passages : []) {
      // Who names a host by its suffix means IPv6.
      const meant = rule.sourceSuffixes.length || rule.destinationSuffixes.length;
      if (rule.verdict !== 'allow' || meant) continue;
      const pairs = zonePairs(mixed, rule).filter(
        ([from, to]) => opens6(c, rule, [from, to]) && !openOver4(c, rule, from, to),
      );
      const [first] = pairs;
      if (!first) continue;
      const closed = c.rules.passages.find((r) => r.verdict !== 'allow' && covers(r, rule, first, 4));
      yield {
        statement: rule.statement,
        others: closed ? [closed.statement] : [],
        values: {
          services: formatServices(rule.services),
          zones: phrase(pairs.map(([from, to]) => `${from.name} > ${to.name}`)),
          closed: closed ? String(closed.statement.line) : '',
          alone: closed ? '' : 'alone',
          never: '',
        },
      };
    }
    for (const rule of c.rules.leaves) {
      if (rule.action.as !== 'never' || rule.family !== 4) continue;
      const out = live(c.site).find((i) => rule.out.has(i.name) && speaks(c, i, 6));
      const who = live(c.site).find(
        (i) =>
          !i.uplink &&
          speaks(c, i, 6) &&
          (rule.arrival?.zone === i.zone?.name ||
            rule.arrival?.interface === i.name ||
            (!rule.arrival && !rule.sources)),
      );
      const also6 = c.rules.leaves.some(
        (r) => r.family === 6 && r.action.as === 'never' && out && r.out.has(out.name),
      );
      if (!out || !who || also6) continue;
      yield {
        statement: rule.statement,
        others: [who.statement, out.statement],
        values: {
          services: '',
          zones: `${who.name} > ${out.name}`,
          closed: '',
          alone: '',
          never: String(rule.statement.line),
        },
      };
    }
  },
});

type Pair = readonly [from: Zone, to: Zone];

function zonePairs(zones: readonly Zone[], rule: PassageRule): Pair[] {
  const of = (name: string) => zones.filter((z) => name === 'any' || z.name === name);
  return of(rule.from).flatMap((from) =>
    of(rule.to).flatMap((to) => (from === to && rule.from !== rule.to ? [] : [[from, to] as const])),
  );
}

const speaks = (c: Context, iface: Interface, family: Family): boolean =>
  networksOf(iface, c.prospects).some((n) => familyOf(n.address) === family);

/** Whether a zone has both families, so that one can be open where the other is closed. */
const both = (c: Context, zone: Zone): boolean => {
  const members = live(c.site).filter((i) => i.zone === zone);
  return members.some((i) => speaks(c, i, 4)) && members.some((i) => speaks(c, i, 6));
};

const inFamily = (set: IpSet | undefined, family: Family): IpSet =>
  set ? IpSet.of(set.ranges.filter((r) => isIpv4(r.first) === (family === 4))) : IpSet.all(family);

/** Whether a statement takes any packet of a family. */
const takes = (rule: PassageRule, family: Family): boolean =>
  !inFamily(rule.sources, family).isEmpty && !inFamily(rule.destinations, family).isEmpty;

/** Whether a statement lets IPv6 packets pass that no earlier one has stopped. */
const opens6 = (c: Context, rule: PassageRule, pair: Pair): boolean =>
  takes(rule, 6) &&
  !c.rules.passages
    .slice(0, c.rules.passages.indexOf(rule))
    .some((r) => r.verdict !== 'allow' && covers(r, rule, pair, 6));

const applies = (rule: PassageRule, [from, to]: Pair): boolean =>
  (rule.from === 'any' || rule.from === from.name) && (rule.to === 'any' || rule.to === to.name);

/** Whether a statement takes everything of a family that another one speaks of, between two zones. */
const covers = (rule: PassageRule, what: PassageRule, pair: Pair, family: Family): boolean =>
  applies(rule, pair) &&
  servicesWithin(what.services, rule.services) &&
  inFamily(what.sources, family).minus(inFamily(rule.sources, family)).isEmpty &&
  inFamily(what.destinations, family).minus(inFamily(rule.destinations, family)).isEmpty;

/** Whether what a statement lets pass over IPv6 also passes over IPv4: by itself, or by another statement. */
function openOver4(c: Context, rule: PassageRule, from: Zone, to: Zone): boolean {
  const pair = [from, to] as const;
  for (const other of c.rules.passages) {
    if (!applies(other, pair) || !takes(other, 4)) continue;
    if (other.verdict === 'allow') {
      if (servicesWithin(rule.services, other.services)) return true;
    } else if (takes(rule, 4) ? covers(other, rule, pair, 4) : false) return false;
  }
  return false;
}
