/** A flow followed with every frame that crossed the box's ports. */
import type { Reach } from '#core/reach';
import { traceFlow } from './trace';
import type { Trace, TraceFault, TraceQuestion } from './trace';

/** One frame on a port of the box. */
export interface FlowFrame {
  /** Virtual time, milliseconds. */
  readonly time: number;
  readonly port: string;
  readonly inbound: boolean;
  readonly bytes: Uint8Array;
  /** Whether it is of the flow that is followed. */
  readonly followed: boolean;
}

/** Follows one flow and keeps the frames; a fault comes without any. */
export function captureFlow(
  reach: Reach,
  question: TraceQuestion,
): { readonly trace: Trace | TraceFault; readonly frames: readonly FlowFrame[] } {
  const frames: FlowFrame[] = [];
  const { site } = reach.model;
  const ports = new Set(site.ports.keys());
  const boxName = site.box?.name || 'box';
  const trace = traceFlow(reach, {
    ...question,
    tap: (time, from, to, frame) => {
      const inbound = to.owner.name === boxName && ports.has(to.name);
      const port = inbound ? to.name : from.name;
      frames.push({ time, port, inbound, bytes: frame.bytes, followed: frame.mark !== undefined });
    },
  });
  return { trace, frames };
}
