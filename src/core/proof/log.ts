/** The log of a bench: each flow that came to the box, what became of it, and by whose word. */
import type { FlowService, Ip } from '#core/addr';
import { readPacket } from '#core/bench';
import type { Bench, Step } from '#core/bench';
import type { Statement } from '#core/notation';
import { isEnd } from './explain';

export interface LogRow {
  /** Virtual milliseconds since the bench was switched on. */
  readonly time: number;
  readonly source: Ip;
  readonly destination: Ip;
  readonly service: FlowService;
  /** The interface it came by, and the one it went by where it went on. */
  readonly came: string;
  readonly went?: string;
  /** The source it showed as it left, where that is another. */
  readonly shown?: Ip;
  readonly end: 'passed' | 'answered' | Step['code'];
  readonly decided?: Statement;
  /** Whether the statement asked for this line with `log`. */
  readonly asked: boolean;
}

/** Every flow that arrived at the box since it was switched on, in the order of arrival; the box's own left out. */
export function logOf(bench: Bench): LogRow[] {
  const rows: LogRow[] = [];
  for (const steps of bench.allSteps()) {
    const own = steps.filter((s) => s.node === bench.box.name);
    let i = 0;
    while (i < own.length) {
      const arrival = own[i]!;
      if (arrival.code !== 'arrived') {
        i++;
        continue;
      }
      let next = i + 1;
      while (next < own.length && own[next]!.code !== 'arrived') next++;
      const then = own.slice(i + 1, next);
      i = next;
      // What belongs to a flow that is known was told when the flow began.
      if (!then.length || then[0]!.code === 'known-back' || then[0]!.code === 'known-forward') continue;
      const end = then.find(isEnd);
      const passed = then.find((s) => s.code === 'passed' || s.code === 'passed-within');
      const answered = then.find((s) => s.code === 'box-answers');
      const shown = then.find((s) => s.code === 'left-as')?.shown;
      const decided = (end ?? passed ?? answered)?.statement;
      rows.push({
        time: arrival.time,
        source: arrival.packet.source,
        destination: arrival.packet.destination,
        service: readPacket(arrival.packet).service,
        came: arrival.interface ?? '',
        went: end ? undefined : then.find((s) => s.code === 'routed')?.interface,
        shown,
        end: end ? end.code : answered ? 'answered' : 'passed',
        decided,
        asked: !!decided && 'log' in decided && !!decided.log,
      });
    }
  }
  return rows.sort((a, b) => a.time - b.time);
}
