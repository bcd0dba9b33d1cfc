/** Who leaves by what: which networks each statement of leaving, or of sending, is the first to take. */
import { IpSet } from '#core/addr';
import { networksOf } from '#core/site';
import type { Interface } from '#core/site';
import { outwardRules } from '#core/semantics';
import type { LeaveRule, SendRule } from '#core/semantics';
import type { Model } from './model';

/** A network, or a part of it, that a statement takes. */
export interface Taken {
  /** The interface that the flows arrive on. */
  readonly interface: string;
  /** The interfaces that they go out by; for a statement of sending, where it sends them. */
  readonly out: readonly string[];
  /** Whether all of the network is taken. */
  readonly whole: boolean;
}

export interface Leavings {
  /** By statement, what it takes that no earlier one did; empty where that is nothing. */
  readonly leaves: ReadonlyMap<LeaveRule['statement'], readonly Taken[]>;
  /** The same for `send`; one that names services takes those only, and leaves the rest to later ones. */
  readonly sends: ReadonlyMap<SendRule['statement'], readonly Taken[]>;
}

/** Reckons it for every network behind the box and every uplink. */
export function leavingsOf({ site, wiring, prospects }: Model): Leavings {
  // A view asks, and needs no other rule.
  const rules = outwardRules(site, wiring, prospects);
  const inside = site.interfaces.filter((i) => !i.off && !i.uplink);
  const outward = site.interfaces.filter((i) => !i.off && i.uplink);
  const networks = new Map(inside.map((i) => [i, IpSet.ofPrefixes(networksOf(i, prospects))]));
  const leaves = new Map<LeaveRule['statement'], Taken[]>(rules.leaves.map((r) => [r.statement, []]));
  const sends = new Map<SendRule['statement'], Taken[]>(rules.sends.map((r) => [r.statement, []]));
  for (const [iface, all] of networks) {
    for (const out of outward) {
      const left = { 4: all.only(4), 6: all.only(6) };
      for (const rule of rules.leaves) {
        const { family } = rule;
        const takes = rule.out.has(out.name) ? takenBy(rule, iface, left[family]) : IpSet.empty;
        if (takes.isEmpty) continue;
        left[family] = left[family].minus(takes);
        note(leaves.get(rule.statement)!, iface, out.name, all.only(family).within(takes));
      }
    }
    let left = all;
    for (const rule of rules.sends) {
      const takes = takenBy(rule, iface, left);
      if (takes.isEmpty) continue;
      if (rule.services.some((s) => s.kind === 'any')) left = left.minus(takes);
      note(sends.get(rule.statement)!, iface, rule.by, all.within(takes));
    }
  }
  return { leaves, sends };
}

/** What of a network's addresses a statement is for. */
function takenBy(
  { arrival, sources }: Pick<LeaveRule, 'arrival' | 'sources'>,
  iface: Interface,
  left: IpSet,
): IpSet {
  if (arrival?.zone !== undefined && arrival.zone !== iface.zone?.name) return IpSet.empty;
  if (arrival?.interface !== undefined && arrival.interface !== iface.name) return IpSet.empty;
  return sources ? left.intersect(sources) : left;
}

function note(list: Taken[], { name }: Interface, out: string, whole: boolean): void {
  const last = list.length - 1;
  const before = list[last];
  if (before?.interface === name && before.whole === whole)
    list[last] = { ...before, out: [...before.out, out] };
  else list.push({ interface: name, out: [out], whole });
}
