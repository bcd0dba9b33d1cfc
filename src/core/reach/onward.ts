/** Steps 8 to 10 on sets: flows that have a place to go to are sent, let pass and let go. */
import { IpSet, isIpv4 } from '#core/addr';
import type { Family, Ip, Range } from '#core/addr';
import { memo } from '#core/base';
import type { Model } from '#core/model';
import { BUCKETS, bucketOf, isLive, isWide, preferenceOf, shareBy } from '#core/semantics';
import type { Route, SendRule, ShareRule } from '#core/semantics';
import type { Interface } from '#core/site';
import { ALL, cut, meet, within } from './block';
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

/** Sources that take the same uplinks, in this order: all that live, up to the first with a way to everywhere. */
interface Portion {
  readonly order: readonly string[];
  readonly sources: IpSet;
}

export class Onward {
  private readonly portions = new Map<IpSet, readonly Portion[]>();

  constructor(
    private readonly model: Pick<Model, 'rules' | 'states'>,
    private readonly ways: Ways,
    private readonly policy: Policy,
    private readonly leaving: Leaving,
  ) {}

  /** Whether statements of sending, or a share, may lead flows to or away from an interface. */
  isSent(iface: Interface): boolean {
    const { sends, shares } = this.model.rules;
    return (
      (sends.length > 0 &&
        (iface.uplink ||
          sends.some(
            ({ by, otherwise: other }) =>
              by === iface.name || (other && other !== 'never' && other.interface === iface.name),
          ))) ||
      shares.some((s) => s.uplinks.some((u) => u.name === iface.name))
    );
  }

  /** Sends flows on their way; `usual` is the route that is taken where no statement of sending speaks. */
  route(arrival: Interface, leg: Leg, usual: Route | undefined, family: Family, out: Outcome[]): void {
    const outward = usual?.interface === undefined || !!this.ways.departureOf(usual)?.uplink;
    if (outward && this.model.rules.sends.length) this.send(arrival, leg, usual, family, out);
    else this.usually(arrival, leg, usual, family, out);
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
    for (const flows of left) this.usually(arrival, { ...leg, flows }, usual, family, out);
  }

  /** What no statement of sending speaks of goes by the route of its table, or is shared out over uplinks. */
  private usually(
    arrival: Interface,
    leg: Leg,
    usual: Route | undefined,
    family: Family,
    out: Outcome[],
  ): void {
    const rule = shareBy(this.model.rules.shares, usual);
    const from = family === 4 ? rule?.from.get(arrival.name) : undefined;
    if (!rule || !from) {
      this.pass(arrival, leg, usual, out);
      return;
    }
    const { sources } = leg.flows;
    for (const portion of this.portionsOf(rule, from)) {
      const mine = sources.intersect(portion.sources);
      if (mine.isEmpty) continue;
      let rest: Leg = { ...leg, flows: { ...leg.flows, sources: mine } };
      for (const name of portion.order) rest = this.passBy(arrival, rest, name, family, out);
      if (!rest.flows.destinations.isEmpty) this.pass(arrival, rest, usual, out);
    }
    const others = sources.minus(from);
    if (!others.isEmpty) this.pass(arrival, { ...leg, flows: { ...leg.flows, sources: others } }, usual, out);
  }

  /** The sources that take one interface to an address where that is shared out; undefined where it is not. */
  sharedBy(arrival: Interface, usual: Route | undefined, name: string, destination: Ip): IpSet | undefined {
    const rule = shareBy(this.model.rules.shares, usual);
    const from = isIpv4(destination) ? rule?.from.get(arrival.name) : undefined;
    if (!rule || !from) return undefined;
    const leads = (by: string) => this.ways.waysBy(by, 4).some((w) => w.destinations.has(destination));
    const mine = this.portionsOf(rule, from).flatMap((p) =>
      (p.order.find(leads) ?? usual!.interface) === name ? p.sources.ranges : [],
    );
    const elsewhere = usual!.interface === name ? ALL[4].minus(from) : IpSet.empty;
    return IpSet.of(mine).union(elsewhere);
  }

  /** The sources that one inside interface may have, by the uplinks that they take. */
  private portionsOf(rule: ShareRule, from: IpSet): readonly Portion[] {
    return memo(this.portions, from, () => {
      const lives = (name: string) => isLive(this.model.states.get(name));
      const everywhere = (name: string) =>
        this.ways.waysBy(name, 4).some(({ route }) => route?.prefix.length === 0);
      const orders = [...Array(BUCKETS).keys()].map((octet) => {
        const live = preferenceOf(bucketOf(octet), rule.uplinks).filter(lives);
        const last = live.findIndex(everywhere);
        return last < 0 ? live : live.slice(0, last + 1);
      });
      const keys = orders.map((order) => order.join(' '));
      return [...new Set(keys)].map((key) => ({
        order: orders[keys.indexOf(key)]!,
        sources: IpSet.of(from.ranges.flatMap((r) => piecesOf(r, (octet) => keys[octet] === key))),
      }));
    });
  }

  /** Passes what an interface that lives has a way for; what is left. */
  private passBy(arrival: Interface, leg: Leg, name: string, family: Family, out: Outcome[]): Leg {
    let { destinations } = leg.flows;
    if (isLive(this.model.states.get(name)))
      for (const way of this.ways.waysBy(name, family)) {
        const here = destinations.intersect(way.destinations);
        if (here.isEmpty) continue;
        this.pass(arrival, { ...leg, flows: { ...leg.flows, destinations: here } }, way.route, out);
        destinations = destinations.minus(way.destinations);
      }
    return { ...leg, flows: { ...leg.flows, destinations } };
  }

  private sendBy(
    arrival: Interface,
    leg: Leg,
    rule: SendRule,
    usual: Route | undefined,
    family: Family,
    out: Outcome[],
  ): void {
    const rest = this.passBy(arrival, leg, rule.by, family, out);
    if (rest.flows.destinations.isEmpty) return;
    if (rule.otherwise === undefined) {
      this.usually(arrival, rest, usual, family, out);
      return;
    }
    const last =
      rule.otherwise === 'never' ? rest : this.passBy(arrival, rest, rule.otherwise.interface, family, out);
    if (!last.flows.destinations.isEmpty)
      out.push(ended(arrival, last, 'send-never', { statement: rule.statement }));
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

/** The pieces of a stretch of addresses whose octet counts: the last one, or of a wide stretch the third. */
function piecesOf(range: Range, counts: (octet: number) => boolean): Range[] {
  const step = isWide(range) ? BUCKETS : 1;
  const [first, last] = [Number(range.first), Number(range.last)];
  const out: Range[] = [];
  for (let at = first - (first % step); at <= last; at += step)
    if (counts(Math.floor(at / step) % BUCKETS))
      out.push({ first: Math.max(at, first) as Ip, last: Math.min(at + step - 1, last) as Ip });
  return out;
}
