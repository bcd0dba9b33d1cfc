/** Steps 8 to 10 on sets: flows that have a place to go to are sent, let pass and let go. */
import type { Family } from '#core/addr';
import type { Model } from '#core/model';
import type { Route, SendRule } from '#core/semantics';
import type { Interface } from '#core/site';
import { cut, meet, within } from './block';
import type { Region } from './block';
import type { Leaving } from './leave';
import { arrivesAs, ended, familyIn } from './outcome';
import type { End, Leg, Outcome } from './outcome';
import { passes, regionOf } from './policy';
import type { Decision, Policy } from './policy';
import type { Ways } from './ways';

const ENDS: Record<Exclude<Decision['verdict'], 'allow'>, End> = {
  drop: 'dropped',
  reject: 'rejected',
  within: 'dropped-within',
  default: 'dropped-default',
};

/** What is said of all flows where a side has no zone. */
const UNRULED: readonly (Omit<Decision, 'flows'> & { readonly flows?: undefined })[] = [
  { verdict: 'default' },
];

export class Onward {
  constructor(
    private readonly model: Pick<Model, 'rules' | 'states'>,
    private readonly ways: Ways,
    private readonly policy: Policy,
    private readonly leaving: Leaving,
  ) {}

  /** Whether statements of sending may lead flows to or away from an interface. */
  isSent(iface: Interface): boolean {
    return (
      this.model.rules.sends.length > 0 &&
      (iface.uplink ||
        this.model.rules.sends.some(
          ({ by, otherwise: other }) =>
            by === iface.name || (other && other !== 'never' && other.interface === iface.name),
        ))
    );
  }

  /** Sends flows on their way; `usual` is the route that is taken where no statement of sending speaks. */
  route(arrival: Interface, leg: Leg, usual: Route | undefined, family: Family, out: Outcome[]): void {
    const outward = usual?.interface === undefined || !!this.ways.departureOf(usual)?.uplink;
    if (outward && this.model.rules.sends.length) this.send(arrival, leg, usual, family, out);
    else this.pass(arrival, leg, usual, out);
  }

  private send(arrival: Interface, leg: Leg, usual: Route | undefined, family: Family, out: Outcome[]): void {
    let left: Region = [leg.flows];
    for (const rule of this.model.rules.sends) {
      if (!left.length) return;
      if (!arrivesAs(rule.arrival, arrival)) continue;
      const takes = regionOf(rule, family);
      for (const flows of within(left, takes))
        this.sendBy(arrival, { ...leg, flows }, rule, usual, family, out);
      left = cut(left, takes);
    }
    for (const flows of left) this.pass(arrival, { ...leg, flows }, usual, out);
  }

  private sendBy(
    arrival: Interface,
    leg: Leg,
    rule: SendRule,
    usual: Route | undefined,
    family: Family,
    out: Outcome[],
  ): void {
    let { destinations } = leg.flows;
    const by = (name: string) => {
      const state = this.model.states.get(name);
      if (!state?.up || !state.alive) return;
      for (const way of this.ways.waysBy(name, family)) {
        const here = destinations.intersect(way.destinations);
        if (here.isEmpty) continue;
        this.pass(arrival, { ...leg, flows: { ...leg.flows, destinations: here } }, way.route, out);
        destinations = destinations.minus(way.destinations);
      }
    };
    by(rule.by);
    if (destinations.isEmpty) return;
    const rest = (): Leg => ({ ...leg, flows: { ...leg.flows, destinations } });
    if (rule.otherwise === undefined) {
      this.pass(arrival, rest(), usual, out);
      return;
    }
    if (rule.otherwise !== 'never') by(rule.otherwise.interface);
    if (!destinations.isEmpty) out.push(ended(arrival, rest(), 'send-never', { statement: rule.statement }));
  }

  private pass(arrival: Interface, leg: Leg, route: Route | undefined, out: Outcome[]): void {
    const departure = this.ways.departureOf(route);
    if (!route || !departure) {
      out.push(ended(arrival, leg, 'no-route', {}));
      return;
    }
    if (leg.door) {
      this.leaving.leave(arrival, leg, route, departure, leg.door.statement, out);
      return;
    }
    const [from, to] = [arrival.zone, departure.zone];
    const policy = from && to ? this.policy.between(from.name, to.name, familyIn(leg.flows)) : UNRULED;
    for (const d of policy) {
      const good = from !== undefined && passes(d, from);
      if (leg.departing && !good) continue;
      const flows = d.flows ? meet(leg.flows, d.flows) : leg.flows;
      if (!flows) continue;
      const piece: Leg = { ...leg, flows };
      const statement = d.rule?.statement ?? (d.verdict === 'within' ? from!.statement : undefined);
      if (good) this.leaving.leave(arrival, piece, route, departure, statement, out);
      else
        out.push(
          ended(arrival, piece, ENDS[d.verdict as keyof typeof ENDS], { statement, departure, route }),
        );
    }
  }
}
