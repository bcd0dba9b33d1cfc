/** Asks the rules about one flow. The box on the bench and every explanation use these and nothing else. */
import { isSpecial, serviceTakes } from '#core/addr';
import type { FlowService, Ip } from '#core/addr';
import type { Statement } from '#core/notation';
import type { Interface, Site } from '#core/site';
import { leadsTo } from './routes';
import type { Route, States } from './routes';
import type { AnswerRule, LeaveRule, PassageRule, Rules } from './rules';

/** A flow as its first packet shows it. */
export interface Flow {
  readonly source: Ip;
  readonly destination: Ip;
  readonly service: FlowService;
}

/** What decided, for telling: a statement, a zone's `within`, or nothing that allowed it. */
export type DecidedBy =
  | { readonly by: 'statement'; readonly statement: Statement }
  | { readonly by: 'within'; readonly statement: Statement }
  | { readonly by: 'default' };

export interface PassageDecision {
  readonly verdict: 'allow' | 'drop' | 'reject';
  readonly decided: DecidedBy;
}

const takes = (rule: PassageRule, from: string, to: string, flow: Flow): boolean =>
  (rule.from === 'any' || rule.from === from) &&
  (rule.to === 'any' || rule.to === to) &&
  serviceTakes(rule.services, flow.service) &&
  (!rule.sources || rule.sources.has(flow.source)) &&
  (!rule.destinations || rule.destinations.has(flow.destination));

/**
 * Step 9: may this flow start from one interface to another? First match in file order; none: `within` for the
 * same zone, nothing between zones. An interface without a zone lets nothing through.
 */
export function decidePassage(
  rules: Rules,
  arrival: Interface,
  departure: Interface,
  flow: Flow,
): PassageDecision {
  const from = arrival.zone;
  const to = departure.zone;
  if (!from || !to) return { verdict: 'drop', decided: { by: 'default' } };
  const rule = rules.passages.find((r) => takes(r, from.name, to.name, flow));
  if (rule) return { verdict: rule.verdict, decided: { by: 'statement', statement: rule.statement } };
  if (from.name === to.name)
    return { verdict: from.within, decided: { by: 'within', statement: from.statement } };
  return { verdict: 'drop', decided: { by: 'default' } };
}

/** Step 7: the rule by which the arrival interface answers this flow, or undefined where it stays silent. */
export function decideAnswer(rules: Rules, arrival: string, flow: Flow): AnswerRule | undefined {
  return rules.answers
    .get(arrival)
    ?.find((r) => serviceTakes(r.services, flow.service) && (!r.sources || r.sources.has(flow.source)));
}

/** Step 10: the rule of leaving for a flow that came in by one interface and goes out by another. */
export function decideLeave(
  rules: Rules,
  arrival: Interface,
  departure: Interface,
  source: Ip,
): LeaveRule | undefined {
  const family = typeof source === 'number' ? 4 : 6;
  return rules.leaves.find(
    (r) =>
      r.family === family &&
      r.out.has(departure.name) &&
      (!r.arrival?.zone || r.arrival.zone === arrival.zone?.name) &&
      (!r.arrival?.interface || r.arrival.interface === arrival.name) &&
      (!r.sources || r.sources.has(source)),
  );
}

/** Why a source is refused; undefined: it is not. */
export type SourceFault = 'no-route-back' | 'special' | 'own-network' | 'not-by-this-interface';

/**
 * Step 5: the source check for packets that start a flow. Loose reverse path for all; with `guard` strict
 * (RFC 3704 §2.3), stand-by defaults included, and neither special-purpose nor from the box's own networks.
 */
export function checkSource(
  site: Site,
  routes: readonly Route[],
  states: States,
  arrival: Interface,
  source: Ip,
): SourceFault | undefined {
  if (!leadsTo(routes, arrival.table, source)) return 'no-route-back';
  if (!arrival.statement.guard) return undefined;
  if (isSpecial(source)) return 'special';
  const ownElsewhere = site.interfaces.some(
    (i) =>
      i.name !== arrival.name &&
      i.table === arrival.table &&
      routes.some((r) => r.interface === i.name && r.origin === 'connected' && covers(r, source)),
  );
  if (ownElsewhere || states.get(arrival.name)?.addresses.some((a) => a.address === source))
    return 'own-network';
  return leadsTo(routes, arrival.table, source, arrival.name) ? undefined : 'not-by-this-interface';
}

const covers = (route: Route, address: Ip): boolean =>
  typeof route.prefix.address === typeof address &&
  leadsTo([{ ...route, usable: true }], route.table, address);

/** Whether a packet with this source dies at a provider that does not translate. */
export const providerDrops = (source: Ip): boolean => isSpecial(source);
