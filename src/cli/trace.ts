/** `trace`: one flow followed stage by stage, with the reply; its frames as a capture file where asked. */
import { writeFileSync } from 'node:fs';
import type { Day } from '#core/base';
import { formatIp } from '#core/addr';
import type { Services } from '#core/addr';
import { readServices, written } from '#core/notation';
import { writePcapng } from '#core/formats/pcapng';
import { captureFlow } from '#core/proof';
import type { Drill } from '#core/proof';
import { Reach } from '#core/reach';
import { frameComment, stepText, traceFaultText, traceText } from '#words';
import { Unusable, readModel } from './input';
import type { CommandResult } from './outcome';

export interface TraceOptions {
  readonly from: string;
  readonly to: string;
  readonly service?: string;
  readonly drill: Drill;
  readonly pcapng?: string;
  /** The day that is asked about. */
  readonly at?: Day;
}

/** Reads a service as the notation writes it. */
export function readService(text: string): Services {
  const services = readServices(text);
  if (!services) throw new Unusable(`“${text}” is no service; write one such as "tcp 443", "dns" or "ping"`);
  return services;
}

export function traceFiles(files: readonly string[], options: TraceOptions): CommandResult {
  const site = new Reach(readModel(files, options.at));
  const { trace, frames } = captureFlow(site, {
    from: options.from,
    to: options.to,
    service: options.service === undefined ? undefined : readService(options.service),
    drill: options.drill,
  });
  if ('what' in trace) throw new Unusable(traceFaultText(trace));
  if (options.pcapng !== undefined)
    try {
      writeFileSync(
        options.pcapng,
        writePcapng(frames, (time) => frameComment(trace, time)),
      );
    } catch {
      throw new Unusable(`${options.pcapng} cannot be written`, { file: options.pcapng });
    }
  const { decided } = trace;
  const json = {
    verdict: trace.verdict,
    by: decided
      ? `${decided.kind} ${written(decided)
          .header.map((t) => t.text)
          .join(' ')}`
      : undefined,
    file: decided?.file,
    line: decided?.line,
    seenAs: trace.seenAs === undefined ? undefined : formatIp(trace.seenAs),
    out: trace.out,
    steps: trace.steps.map((s) => ({
      node: s.node,
      stage: s.stage,
      detail: stepText(s),
      line: s.statement?.line,
    })),
  };
  const lines = [
    traceText(trace),
    ...trace.steps.map(
      (s) =>
        `  ${s.node.padEnd(14)} ${s.stage.padEnd(12)} ${stepText(s)}${s.statement ? `  [line ${s.statement.line}]` : ''}`,
    ),
  ];
  const good = trace.verdict === 'answered' || trace.verdict === 'delivered';
  return { json, text: `${lines.join('\n')}\n`, status: good ? 0 : 1 };
}
