/** What becomes of one real packet on a live box: which is waited for, and what nft tells of it. */
import { formatIp, parseIp } from '#core/addr';
import { deviceOf, readTrace } from '#core/linux';
import type { RealTrace } from '#core/linux';
import type { Model } from '#core/model';
import { readServices } from '#core/notation';
import { lookUp } from '#core/semantics';
import { interfaceNamed } from '#core/site';
import type { Interface } from '#core/site';
import { realTraceText, refusalText } from '#words';
import type { LiveBox } from './box';

/** A flow in the words of whoever asks. */
export interface Question {
  readonly from: string;
  readonly to: string;
  readonly service?: string;
}

/** The words of the order that waits for a packet of a flow, and where it would arrive; else why it cannot be asked. */
export function questionOf(
  model: Model,
  { from, to, service = 'ping' }: Question,
  wait: number,
): { readonly words: readonly string[]; readonly arrival: string } | { readonly why: string } {
  const item = readServices(service)?.[0];
  if (!item) return { why: `“${service}” is no service; write it as tcp 443 or ping` };
  const [source, target] = [endOf(model, from), endOf(model, to)];
  if (!source) return { why: `the text knows no ${from}` };
  if (!target) return { why: `the text knows no ${to}` };
  const arrival = source.interface;
  if (!arrival)
    return { why: `${from} is behind no interface of the text, so nothing of it arrives anywhere` };
  const proto =
    item.kind === 'ports'
      ? item.proto === 6
        ? 'tcp'
        : 'udp'
      : item.kind === 'proto'
        ? String(item.proto)
        : item.kind === 'any'
          ? 'any'
          : 'icmp';
  const port = item.kind === 'ports' ? String(item.first) : '-';
  const device = deviceOf(model.site, arrival);
  const ends = [source.address ?? 'any', target.address ?? 'any'];
  return { words: ['trace', String(wait), device, proto, ...ends, port], arrival: arrival.name };
}

/** What became of it, in lines: the sentence, then each chain it went through. */
export const traceLines = (trace: RealTrace): string[] => [
  realTraceText(trace),
  ...trace.steps.map((s) => `  ${s.chain.padEnd(20)} ${s.statement ?? ''} ${s.verdict}`),
];

export const nothingCame = (arrival: string, wait: number): string =>
  `no such packet came in by ${arrival} in ${wait} s: it was lost before the box, or never sent`;

/** How long a page waits for a packet, seconds. */
const WAIT = 10;

/** Waits for one packet and tells what became of it. */
export async function followPacket(box: LiveBox, model: Model, question: Question): Promise<string[]> {
  const asked = questionOf(model, question, WAIT);
  if ('why' in asked) return [`fail ${asked.why}`];
  const said = await box.order('trace', asked.words, { within: WAIT + 15 });
  if (said.heard === 'refusal') return [refusalText(said)];
  const trace = readTrace(said.answer.trace);
  return trace ? traceLines(trace) : [nothingCame(asked.arrival, WAIT)];
}

/** An end of a flow: its address where it is one, and the interface it is behind. */
function endOf(model: Model, text: string): { address?: string; interface?: Interface } | undefined {
  const { site, prospects, routes } = model;
  const address = parseIp(text);
  const behind = (a: NonNullable<typeof address>): Interface | undefined => {
    for (const i of site.interfaces) {
      const route = lookUp(routes, i.table, a);
      if (route?.interface !== undefined) return interfaceNamed(site, route.interface);
    }
    return undefined;
  };
  if (address !== undefined) return { address: formatIp(address), interface: behind(address) };
  const iface = interfaceNamed(site, text) ?? site.interfaces.find((i) => i.zone?.name === text && !i.off);
  if (iface) return { interface: iface };
  const station = prospects.stations.get(text)?.address;
  if (station !== undefined) return { address: formatIp(station), interface: behind(station) };
  const far = model.wiring.fars.find((f) => f.name === text)?.addresses[0];
  if (far !== undefined) return { address: formatIp(far), interface: behind(far) };
  const known = site.knowns.find((k) => k.name === text)?.items[0]?.value.range;
  if (known) {
    const one = known.first === known.last ? formatIp(known.first) : undefined;
    return { address: one, interface: behind(known.first) };
  }
  if (text === 'internet' || text === 'any') return { interface: site.interfaces.find((i) => i.uplink) };
  return undefined;
}
