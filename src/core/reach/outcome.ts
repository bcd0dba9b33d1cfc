/** How flows end at the box, as blocks of flows that all end alike. */
import { familyOf } from '#core/addr';
import type { Family, Ip, IpSet } from '#core/addr';
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
  by: Pick<Outcome, 'statement' | 'departure' | 'route' | 'shown' | 'leave'>,
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
});

/** Whether a statement about who arrives speaks of an interface. */
export const arrivesAs = (who: LeaveRule['arrival'], arrival: Interface): boolean =>
  (!who?.zone || who.zone === arrival.zone?.name) && (!who?.interface || who.interface === arrival.name);
