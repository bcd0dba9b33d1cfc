/** The statements behind what passes between two zones: in their order, with what each takes that none before it did. */
import { ServiceSet } from '#core/addr';
import type { Family } from '#core/addr';
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
    const whole = regionOf(rule, family);
    let left: Region = whole.sources.isEmpty || whole.destinations.isEmpty ? [] : [whole];
    const after: PassageRule[] = [];
    for (const earlier of rules.slice(0, i)) {
      const takes = regionOf(earlier, family);
      if (!within(left, takes).length) continue;
      after.push(earlier);
      left = cut(left, takes);
    }
    return { services, everywhere: !rule.sources && !rule.destinations, after };
  });
}
