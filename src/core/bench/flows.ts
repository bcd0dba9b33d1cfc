/** The table of flows that a translating router keeps: both directions of each, ports remapped where they clash. */
import { PROTO } from '#core/addr';
import type { Ip } from '#core/addr';
import { isEcho } from './packet';
import type { Ends } from './packet';
import type { Milliseconds } from './scheduler';

/** Idle time after which a flow is forgotten: ICMP and UDP as usual, TCP by RFC 5382 §5 (REQ-5). */
const IDLE: Readonly<Record<number, Milliseconds>> = {
  [PROTO.icmp]: 30_000,
  [PROTO.icmp6]: 30_000,
  [PROTO.udp]: 180_000,
  [PROTO.tcp]: 7_440_000,
};
const IDLE_OTHER: Milliseconds = 600_000;

/** First port that a clash is moved to (RFC 6335 §6, the dynamic ports). */
const DYNAMIC = 49152;

/** A flow with what its replies look like when they come back. `T` is what the router wants to remember. */
export interface Flow<T> {
  readonly protocol: number;
  /** As the first packet arrived. */
  readonly forward: Ends;
  /** As a reply arrives: from the target to the address that was shown. */
  readonly back: Ends;
  readonly forwardTable: string;
  readonly backTable: string;
  readonly about: T;
  lastSeen: Milliseconds;
  /** Whether anything came back. */
  answered: boolean;
}

/** A packet of a flow that is already known, and in which direction it goes. */
export interface KnownFlow<T> {
  readonly flow: Flow<T>;
  readonly direction: 'forward' | 'back';
}

const keyOf = (table: string, protocol: number, e: Ends): string =>
  `${table}|${protocol}|${e.source}|${e.sourcePort}|${e.destination}|${e.destinationPort}`;

export class FlowTable<T> {
  private readonly byKey = new Map<string, KnownFlow<T>>();

  /** The flow that a packet arriving in a table belongs to. Idle ones are forgotten on the way. */
  find(table: string, protocol: number, ends: Ends, now: Milliseconds): KnownFlow<T> | undefined {
    const found = this.byKey.get(keyOf(table, protocol, ends));
    if (!found) return undefined;
    if (now - found.flow.lastSeen > (IDLE[protocol] ?? IDLE_OTHER)) {
      this.forget(found.flow);
      return undefined;
    }
    return found;
  }

  /**
   * Remembers a new flow. `shown` are the ends as they leave; where a reply to them would be taken for another
   * flow's, the source port (or echo identifier) moves to the next free one. Undefined when none is free.
   */
  add(
    protocol: number,
    forward: Ends,
    shown: Ends,
    tables: { readonly forward: string; readonly back: string },
    about: T,
    now: Milliseconds,
  ): Flow<T> | undefined {
    for (let i = 0; i < 16384; i++) {
      const port = i === 0 ? shown.sourcePort : DYNAMIC + ((shown.sourcePort + i) % 16384);
      const echo = isEcho(protocol);
      const back: Ends = {
        source: shown.destination,
        destination: shown.source,
        sourcePort: echo ? port : shown.destinationPort,
        destinationPort: port,
      };
      const key = keyOf(tables.back, protocol, back);
      const clash = this.byKey.get(key);
      if (clash && now - clash.flow.lastSeen <= (IDLE[protocol] ?? IDLE_OTHER)) continue;
      const flow: Flow<T> = {
        protocol,
        forward,
        back,
        forwardTable: tables.forward,
        backTable: tables.back,
        about,
        lastSeen: now,
        answered: false,
      };
      this.byKey.set(keyOf(tables.forward, protocol, forward), { flow, direction: 'forward' });
      this.byKey.set(key, { flow, direction: 'back' });
      return flow;
    }
    return undefined;
  }

  forget(flow: Flow<T>): void {
    this.byKey.delete(keyOf(flow.forwardTable, flow.protocol, flow.forward));
    this.byKey.delete(keyOf(flow.backTable, flow.protocol, flow.back));
  }

  /** Every flow that `which` picks and that is not idle for too long. */
  where(which: (about: T) => boolean, now: Milliseconds): Flow<T>[] {
    return this.all(which).filter((f) => now - f.lastSeen <= (IDLE[f.protocol] ?? IDLE_OTHER));
  }

  private all(which: (about: T) => boolean): Flow<T>[] {
    return [...this.byKey.values()].flatMap(({ flow, direction }) =>
      direction === 'forward' && which(flow.about) ? [flow] : [],
    );
  }

  /** Forgets every flow that `which` picks, and tells those. */
  forgetWhere(which: (about: T) => boolean): Flow<T>[] {
    const gone = this.all(which);
    for (const flow of gone) this.forget(flow);
    return gone;
  }

  get size(): number {
    return this.byKey.size / 2;
  }
}

/** The ends with which a packet of a known flow goes on. */
export function translated<T>(found: KnownFlow<T>): Ends {
  const { flow, direction } = found;
  const other = direction === 'forward' ? flow.back : flow.forward;
  return {
    source: other.destination,
    destination: other.source,
    sourcePort: other.destinationPort,
    destinationPort: other.sourcePort,
  };
}

/** The ends of the opposite direction. */
export const reversed = (e: Ends): Ends => ({
  source: e.destination,
  destination: e.source,
  sourcePort: e.destinationPort,
  destinationPort: e.sourcePort,
});

/** The ends with another source address. */
export const fromSource = (e: Ends, source: Ip): Ends => ({ ...e, source });
