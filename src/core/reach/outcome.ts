/** How flows end at the box, as blocks of flows that all end alike. */
import { IpSet, familyOf, isIpv4, nptAddress } from '#core/addr';
import type { Family, Ip } from '#core/addr';
import type { Statement } from '#core/notation';
import type { AnswerRule, DoorRule, LeaveRule, Route } from '#core/semantics';
import type { Interface } from '#core/site';
import type { Block } from './block';

/** How a flow ends at the box. All but `departed` and `box-answers` are the end of it. */
export type End =
  | 'not-spoken'
  | 'own-source'
  | 'no-route-back'
  | 'guard'
  | 'box-answers'
  | 'box-silent'
  | 'nowhere'
  | 'send-never'
  | 'no-route'
  | 'dropped'
  | 'dropped-default'
  | 'dropped-within'
  | 'rejected'
  | 'left-never'
  | 'departed';

export interface Outcome {
  readonly arrival: Interface;
  /** The flows as they arrive, all of which end alike. */
  readonly flows: Block;
  readonly end: End;
  /** The statement that decided, where one did. */
  readonly statement?: Statement;
  readonly departure?: Interface;
  readonly route?: Route;
  readonly door?: DoorRule;
  /** With a door: how much higher the inside port is than the one asked for. */
  readonly shift?: number;
  readonly leave?: LeaveRule;
  /** The source address that the flow shows as it leaves; absent: its own. */
  readonly shown?: Ip;
  /** Each source is shown as one of another prefix. */
  readonly translated?: Extract<LeaveRule['action'], { as: 'prefix' }>;
  readonly answer?: AnswerRule;
}

/** Flows after a door, or as they came, with the way back to how they arrived. */
export interface Leg {
  readonly flows: Block;
  readonly table: string;
  readonly door?: DoorRule;
  readonly shift: number;
  /** What the flows were sent to. */
  readonly asked?: IpSet;
  /** Only what leaves is asked for. */
  readonly departing?: boolean;
}

export const NOTHING: readonly Outcome[] = [];

/** The family of flows that are not none. */
export const familyIn = (flows: Block): Family => familyOf(flows.sources.ranges[0]!.first);

/** The end of flows on their way, told as they arrived. */
export const ended = (
  arrival: Interface,
  leg: Leg,
  end: End,
  by: Pick<Outcome, 'statement' | 'departure' | 'route' | 'shown' | 'translated' | 'leave'>,
  flows = leg.flows,
): Outcome => ({
  arrival,
  flows: leg.asked
    ? { sources: flows.sources, destinations: leg.asked, services: flows.services.shifted(-leg.shift) }
    : flows,
  end,
  statement: by.statement,
  departure: by.departure,
  route: by.route,
  door: leg.door,
  shift: leg.door && leg.shift,
  leave: by.leave,
  shown: by.shown,
  translated: by.translated,
});

/** Whether a statement about who arrives speaks of an interface. */
export const arrivesAs = (who: LeaveRule['arrival'], arrival: Interface): boolean =>
  (!who?.zone || who.zone === arrival.zone?.name) && (!who?.interface || who.interface === arrival.name);

/** The source address that one flow shows as it leaves. */
export const shownOf = ({ shown, translated }: Pick<Outcome, 'shown' | 'translated'>, source: Ip): Ip =>
  shown ??
  (translated && !isIpv4(source) ? nptAddress(source, translated.from, translated.to) : undefined) ??
  source;

/** Of some sources those that show an address of a set. */
export function showing(outcome: Pick<Outcome, 'shown' | 'translated'>, sources: IpSet, good: IpSet): IpSet {
  const { shown, translated } = outcome;
  if (shown !== undefined) return good.has(shown) ? sources : IpSet.empty;
  if (!translated) return sources.intersect(good);
  // All of a prefix is carried, or none, or one address is asked about.
  if (IpSet.ofPrefixes([translated.to]).within(good)) return sources;
  const { single } = sources;
  if (single !== undefined) return good.has(shownOf(outcome, single)) ? sources : IpSet.empty;
  const hosts = good.ranges.flatMap(({ first, last }) =>
    first === last && !isIpv4(first) ? (nptAddress(first, translated.to, translated.from) ?? []) : [],
  );
  return sources.intersect(IpSet.ofAddresses(hosts));
}
