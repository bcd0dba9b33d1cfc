/** The statements behind what passes between two zones: in their order, with what each takes that none before it did. */
import { ServiceSet } from '#core/addr';
import type { Family } from '#core/addr';
import { memo } from '#core/base';
import type { PassageRule, Rules } from '#core/semantics';
import type { Site, Zone } from '#core/site';
import { regionOf } from './policy';
import type { ReachMemory } from './table/memory';
import type { Reach } from './reach';
import { FAMILIES, cut, within } from './block';
import type { Region } from './block';
import { contentFor } from './table/content';

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
export function shadowed(reach: Reach, memory: ReachMemory): Map<PassageRule, readonly PassageRule[]> {
  const { follower, model } = reach;
  const { rules, site } = model;
  const content = contentFor(reach, memory);
  const taking = new Set<PassageRule | undefined>();
  /** By where else they stand and take nothing: the earlier ones that take some of what they name. */
  const idle = new Map<PassageRule, (() => readonly PassageRule[])[]>();
  const zones = spokenOf(site, rules);
  for (const from of zones)
    for (const to of zones) {
      const own = follower.policy.rulesBetween(from.name, to.name);
      taking.add(own[0]);
      if (own.length < 2) continue;
      const key = content.between(from, to);
      const first = memory.taking.of(key, () => {
        const some = new Set(
          FAMILIES.flatMap((family) =>
            follower.policy.between(from.name, to.name, family).map((d) => d.rule),
          ),
        );
        return own.flatMap((rule, i) => (some.has(rule) ? [i] : []));
      });
      for (const i of first) taking.add(own[i]);
      for (const [i, rule] of own.entries())
        if (!taking.has(rule))
          memo(idle, rule, () => []).push(() =>
            memory.takers
              .of(memory.pair(key, i), () => {
                const some = new Set(FAMILIES.flatMap((family) => takersOf(rule, own, i, family)));
                return [...some].sort((a, b) => a - b);
              })
              .map((k) => own[k]!),
          );
    }
  const out = new Map<PassageRule, readonly PassageRule[]>();
  const place = new Map(rules.passages.map((rule, i) => [rule, i]));
  for (const rule of rules.passages) {
    if (taking.has(rule) || rule.sources?.isEmpty || rule.destinations?.isEmpty) continue;
    const takers = new Set<PassageRule>();
    for (const before of idle.get(rule) ?? []) for (const r of before()) takers.add(r);
    if (takers.size)
      out.set(
        rule,
        [...takers].sort((a, b) => place.get(a)! - place.get(b)!),
      );
  }
  return out;
}

/** The zones that statements of passing name, and one that stands for all that none does. */
function spokenOf(site: Site, rules: Rules): readonly Zone[] {
  const named = new Set(rules.passages.flatMap((r) => [r.from, r.to]));
  const other = site.zones.find((z) => !named.has(z.name));
  return site.zones.filter((z) => named.has(z.name) || z === other);
}

/** The places of the earlier statements that take some of what a rule names, each of what those before it left. */
function takersOf(
  rule: PassageRule,
  all: readonly PassageRule[],
  place: number,
  family: Family,
): readonly number[] {
  const whole = regionOf(rule, family);
  let left: Region = whole.sources.isEmpty || whole.destinations.isEmpty ? [] : [whole];
  const after: number[] = [];
  for (let i = 0; i < place && left.length; i++) {
    const other = all[i]!;
    const takes = regionOf(other, family);
    if (!within(left, takes).length) continue;
    after.push(i);
    left = cut(left, takes);
  }
  return after;
}

/** What each statement of passing takes between two zones. */
export function takings(reach: Reach, from: string, to: string): Taking[] {
  const rules = reach.follower.policy.rulesBetween(from, to);
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
  const policy = reach.follower.policy.between(from, to, family);
  return rules.map((rule, i) => {
    const mine = policy.filter((d) => d.rule === rule);
    const services = mine.reduce((set, d) => set.union(d.flows.services), ServiceSet.empty);
    const after = takersOf(rule, rules, i, family).map((k) => rules[k]!);
    return { services, everywhere: !rule.sources && !rule.destinations, after };
  });
}
