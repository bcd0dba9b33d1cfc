/** What the machines say about a packet that is being followed: codes with values, made into sentences elsewhere. */
import type { Ip } from '#core/addr';
import type { AnswerName, Statement } from '#core/notation';
import type { IpPacket } from '#core/wire';
import type { Milliseconds } from './scheduler';
import type { DeadBecause } from './uplinks';

/** Where on its way a packet is told about. */
export type Stage =
  | 'sent'
  | 'switch'
  | 'arrival'
  | 'known-flow'
  | 'source-check'
  | 'door'
  | 'box'
  | 'route'
  | 'passage'
  | 'leave'
  | 'neighbour'
  | 'departure'
  | 'provider'
  | 'received'
  | 'answered';

/** What happens on the bench without anybody asking. */
export type Happening = { readonly time: Milliseconds; readonly interface: string } & (
  | {
      readonly what: 'uplink';
      /** Why it does not count as alive any more; absent where it does again. */
      readonly dead?: DeadBecause;
    }
  | {
      /** It was on demand, and asks for its addresses now. */
      readonly what: 'called';
    }
  | {
      /** Of two boxes this one has, or has no more, what they share on it. */
      readonly what: 'took-over' | 'stood-by';
      readonly box: string;
    }
  | {
      /** Flows that went out by it, and are forgotten with it; or that stay with others now that it is used again. */
      readonly what: 'flows-ended' | 'flows-stay';
      readonly flows: readonly EndedFlow[];
    }
);

/** A flow as its first packet came in. */
export interface EndedFlow {
  readonly protocol: number;
  readonly source: Ip;
  readonly destination: Ip;
  /** 0 for echoes and protocols without ports. */
  readonly port: number;
}

/** Hears of what happens. */
export type Told = (happening: Happening) => void;

export type StepCode =
  | 'sent'
  | 'received'
  | 'host-no-gateway'
  | 'no-neighbour'
  | 'switched'
  | 'no-interface'
  | 'port-off'
  | 'arrived'
  | 'own-source'
  | 'malformed'
  | 'one-sided'
  | 'no-route-back'
  | 'guard'
  | 'known-forward'
  | 'known-back'
  | 'box-answers'
  | 'box-silent'
  | 'door-opens'
  | 'door-closed'
  | 'send-never'
  | 'routed'
  | 'no-route'
  | 'passed'
  | 'passed-within'
  | 'dropped'
  | 'dropped-default'
  | 'dropped-within'
  | 'rejected'
  | 'left-as'
  | 'left-unchanged'
  | 'left-never'
  | 'no-free-port'
  | 'ttl'
  | 'too-big'
  | 'departed'
  | 'provider-drops-private'
  | 'provider-dead'
  | 'provider-translates'
  | 'provider-forwards'
  | 'provider-no-route'
  | 'cloud-no-route'
  | 'router-forwards'
  | 'router-no-route';

/** One step. The packet is as it was at that moment. */
export interface Step {
  readonly time: Milliseconds;
  readonly mark: number;
  readonly node: string;
  readonly stage: Stage;
  readonly code: StepCode;
  readonly packet: IpPacket;
  /** The interface it came in or goes out by, where the step is about one. */
  readonly interface?: string;
  readonly hop?: Ip;
  /** The address it now shows. */
  readonly shown?: Ip;
  readonly statement?: Statement;
  /** `studio > world`, or the one zone that a step is about. */
  readonly zones?: string;
  /** The routing table in which no route was found. */
  readonly table?: string;
  /** Octets that the way out carries, where a packet is longer. */
  readonly mtu?: number;
  /** What the box answers with: the word of its statement. */
  readonly answer?: AnswerName;
  /** Where a frame arrived that no interface takes: `p3 tag 30`. */
  readonly where?: string;
  /** The jack of a switch that it goes out by. */
  readonly jack?: string;
  /** Why a packet cannot be read. */
  readonly fault?: string;
  /** The 802.1Q tag that it goes on with, where a switch says so. */
  readonly tag?: number;
}

/** Notes a step of a packet with a mark; does nothing without one. */
export type Tracer = (mark: number | undefined, step: Omit<Step, 'time' | 'mark'>) => void;
