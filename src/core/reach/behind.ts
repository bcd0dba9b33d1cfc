/** The statements behind what passes between two zones: in their order, with what each takes that none before it did. */
import { ServiceSet } from '#core/addr';
import type { Family } from '#core/addr';
import { memo } from '#core/base';
import type { PassageRule } from '#core/semantics';
import { regionOf } from './follow';
import type { Reach } from './reach';
import { FAMILIES, cut, within } from './block';
import type { Region } from './block';

export interface Taking {
  readonly rule: PassageRule;
  /** Services of which it is the first to take something; empty: it takes nothing that is left. */
  readonly services: ServiceSet;
  /** Whether it takes them of every source and destination that is left. */
  readonly everywhere: boolean;
  /** The earlier statements that took the rest of what it names. */
  readonly after: readonly PassageRule[];
}

/**
 * The statements of passing that take nothing anywhere, though what they name is something: each with the earlier ones
 * that took all of it.
 */
export function shadowed(reach: Reach): Map<PassageRule, readonly PassageRule[]> {
  const { follower, rules, ground } = reach;
  const taking = new Set<PassageRule | undefined>();
  const idle = new Map<PassageRule, (readonly PassageRule[])[]>();
  const names = ground.site.zones.map((z) => z.name);
  for (const from of names)
    for (const to of names) {
      const own = follower.rulesBetween(from, to);
      taking.add(own[0]);
      if (own.length < 2) continue;
      for (const family of FAMILIES) for (const d of follower.policy(from, to, family)) taking.add(d.rule);
      for (const [i, rule] of own.entries())
        if (!taking.has(rule)) memo(idle, rule, () => []).push(own.slice(0, i));
    }
  const out = new Map<PassageRule, readonly PassageRule[]>();
  const place = new Map(rules.passages.map((rule, i) => [rule, i]));
  for (const rule of rules.passages) {
    if (taking.has(rule) || rule.sources?.isEmpty || rule.destinations?.isEmpty) continue;
    const takers = new Set<PassageRule>();
    for (const earlier of idle.get(rule) ?? [])
      for (const family of FAMILIES) for (const r of takersOf(rule, earlier, family)) takers.add(r);
    if (takers.size)
      out.set(
        rule,
        [...takers].sort((a, b) => place.get(a)! - place.get(b)!),
      );
  }
  return out;
}

/** The earlier statements that take some of what a rule names, each of what those before it left. */
function takersOf(
  rule: PassageRule,
  earlier: readonly PassageRule[],
  family: Family,
): readonly PassageRule[] {
  const whole = regionOf(rule, family);
  let left: Region = whole.sources.isEmpty || whole.destinations.isEmpty ? [] : [whole];
  const after: PassageRule[] = [];
  for (const other of earlier) {
    if (!left.length) break;
    const takes = regionOf(other, family);
    if (!within(left, takes).length) continue;
    after.push(other);
    left = cut(left, takes);
  }
  return after;
}

/** What each statement of passing takes between two zones. */
export function takings(reach: Reach, from: string, to: string): Taking[] {
  const rules = reach.follower.rulesBetween(from, to);
  const perFamily = FAMILIES.map((family) => takingsOf(reach, rules, from, to, family));
  return rules.map((rule, i) => {
    const both = perFamily.map((list) => list[i]!);
    return {
      rule,
      services: both.reduce((set, t) => set.union(t.services), ServiceSet.empty),
      everywhere: both.every((t) => t.everywhere || t.services.isEmpty),
      after: [...new Set(both.flatMap((t) => t.after))],
    };
  });
}

function takingsOf(
  reach: Reach,
  rules: readonly PassageRule[],
  from: string,
  to: string,
  family: Family,
): Omit<Taking, 'rule'>[] {
  const policy = reach.follower.policy(from, to, family);
  return rules.map((rule, i) => {
    const mine = policy.filter((d) => d.rule === rule);
    const services = mine.reduce((set, d) => set.union(d.flows.services), ServiceSet.empty);
    const after = takersOf(rule, rules.slice(0, i), family);
    return { services, everywhere: !rule.sources && !rule.destinations, after };
  });
}
