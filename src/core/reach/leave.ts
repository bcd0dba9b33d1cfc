/** Step 10 on sets: which source address flows show as they leave, or that they never do. */
import { contains, familyOf } from '#core/addr';
import type { Ip, Prefix } from '#core/addr';
import { Pairs } from '#core/base';
import type { Model } from '#core/model';
import type { Statement } from '#core/notation';
import type { LeaveRule, Route } from '#core/semantics';
import type { Interface } from '#core/site';
import type { Block } from './block';
import { arrivesAs, ended, familyIn } from './outcome';
import type { Leg, Outcome } from './outcome';

export class Leaving {
  private readonly leaves = new Pairs<Interface, Interface, readonly LeaveRule[]>();

  constructor(private readonly model: Pick<Model, 'rules' | 'states'>) {}

  /** The statements of leaving that flows between two interfaces meet, in their order. */
  leavesBetween(arrival: Interface, departure: Interface): readonly LeaveRule[] {
    return this.leaves.of(arrival, departure, () =>
      this.model.rules.leaves.filter((r) => r.out.has(departure.name) && arrivesAs(r.arrival, arrival)),
    );
  }

  /** Lets flows go that passed, each by the first statement that takes its source. */
  leave(
    arrival: Interface,
    leg: Leg,
    route: Route,
    departure: Interface,
    statement: Statement | undefined,
    out: Outcome[],
  ): void {
    const own = this.model.states.get(departure.name)?.addresses ?? [];
    const family = familyIn(leg.flows);
    const mine = own.filter((a) => familyOf(a.address) === family);
    const go = (flows: Block, as: Pick<Outcome, 'shown' | 'translated' | 'leave'> = {}) =>
      out.push(ended(arrival, leg, 'departed', { statement, departure, route, ...as }, flows));
    if (leg.door && departure === arrival) {
      // Out by where it came in: the target must answer the box, not the asker beside it (hairpin).
      const near = mine.find((a) => contains(a, leg.door!.inside)) ?? mine[0];
      if (near) {
        go(leg.flows, { shown: near.address });
        return;
      }
    }
    let { sources } = leg.flows;
    for (const rule of this.leavesBetween(arrival, departure)) {
      if (rule.family !== family) continue;
      const taken = rule.sources ? sources.intersect(rule.sources) : sources;
      if (taken.isEmpty) continue;
      sources = sources.minus(taken);
      const flows: Block = { ...leg.flows, sources: taken };
      if (rule.action.as === 'never')
        out.push(ended(arrival, leg, 'left-never', { statement: rule.statement, departure, route }, flows));
      else if (rule.action.as === 'prefix') go(flows, { translated: rule.action, leave: rule });
      else go(flows, { shown: shownBy(rule, mine), leave: rule });
      if (sources.isEmpty) return;
    }
    go({ ...leg.flows, sources });
  }
}

/** The address that a statement of leaving shows. */
function shownBy(rule: LeaveRule, own: readonly Prefix[]): Ip | undefined {
  if (rule.action.as === 'address')
    return familyOf(rule.action.address) === rule.family ? rule.action.address : undefined;
  return rule.action.as === 'interface' ? own[0]?.address : undefined;
}
