/** Asks the rules about one flow. The box on the bench and every explanation use these and nothing else. */
import { isSpecial, serviceTakes } from '#core/addr';
import type { FlowService, Ip, ServiceItem, Services } from '#core/addr';
import type { Statement } from '#core/notation';
import { interfaceNamed } from '#core/site';
import type { Interface, Site } from '#core/site';
import { leadsTo, lookUp } from './routes';
import type { Route, States } from './routes';
import type { AnswerRule, DoorRule, LeaveRule, PassageRule, Rules, SendRule } from './rules';

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

/** Where a door leads a flow: the inside address, and its port where the service has ports. */
export interface ThroughDoor {
  readonly rule: DoorRule;
  readonly address: Ip;
  readonly port?: number;
  /** The table in which the inside address is looked up. */
  readonly table: string;
}

type Ports = Extract<ServiceItem, { kind: 'ports' }>;
const portsOf = (services: Services): Ports[] => services.filter((s): s is Ports => s.kind === 'ports');

/** The port that an outside port leads to: item by item, and within a range by its place. */
function insidePort(rule: DoorRule, service: FlowService): number | undefined {
  if (service.port === undefined) return undefined;
  const outside = portsOf(rule.services);
  const i = outside.findIndex(
    (s) => s.proto === service.proto && service.port! >= s.first && service.port! <= s.last,
  );
  const to = portsOf(rule.insideServices)[i];
  return to ? to.first + (service.port - outside[i]!.first) : service.port;
}

/** What to ask a door for so that an inside service is reached through it; undefined where it leads to none such. */
export function outsideOf(rule: DoorRule, inside: FlowService): FlowService | undefined {
  if (rule.services.some((s) => s.kind === 'any')) return inside;
  if (inside.port === undefined) return serviceTakes(rule.services, inside) ? inside : undefined;
  const i = portsOf(rule.insideServices).findIndex(
    (s) => s.proto === inside.proto && inside.port! >= s.first && inside.port! <= s.last,
  );
  const [from, to] = [portsOf(rule.services)[i], portsOf(rule.insideServices)[i]];
  return from && to ? { ...inside, port: from.first + (inside.port - to.first) } : undefined;
}

/** Whether a flow asks for a door, be it open to whoever asks or not. */
export const isAskedFor = (rule: DoorRule, flow: Flow): boolean =>
  rule.outside === flow.destination && serviceTakes(rule.services, flow.service);

/**
 * Step 6: the door that takes a new flow, if one does. Without `from` it is open to every upstream zone, and to an
 * inside zone where a passage lets it reach the inside service; `from` names who may instead.
 */
export function decideDoor(
  site: Site,
  rules: Rules,
  routes: readonly Route[],
  arrival: Interface,
  flow: Flow,
): ThroughDoor | undefined {
  for (const rule of rules.doors) {
    if (!isAskedFor(rule, flow)) continue;
    const table = interfaceNamed(site, rule.on)?.table ?? arrival.table;
    const port = insidePort(rule, flow.service);
    const through: ThroughDoor = { rule, address: rule.inside, port, table };
    if (rule.sources) {
      if (rule.sources.has(flow.source)) return through;
      continue;
    }
    if (arrival.zone?.upstream) return through;
    const route = lookUp(routes, table, rule.inside);
    const departure = interfaceNamed(site, route?.interface);
    const inside: Flow = {
      source: flow.source,
      destination: rule.inside,
      service: port === undefined ? flow.service : { ...flow.service, port },
    };
    if (departure && decidePassage(rules, arrival, departure, inside).verdict === 'allow') return through;
  }
  return undefined;
}

/** Step 8: the statement of sending that a new flow falls under. */
export const decideSend = (rules: Rules, arrival: Interface, flow: Flow): SendRule | undefined =>
  rules.sends.find(
    (r) =>
      serviceTakes(r.services, flow.service) &&
      (!r.arrival?.zone || r.arrival.zone === arrival.zone?.name) &&
      (!r.arrival?.interface || r.arrival.interface === arrival.name) &&
      (!r.sources || r.sources.has(flow.source)),
  );

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
  if (!arrival.guard) return undefined;
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
