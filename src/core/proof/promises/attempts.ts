/** Attempts on the bench: begun, waited for, and what is seen of each afterwards. */
import type { FlowService, Ip } from '#core/addr';
import { readPacket } from '#core/bench';
import type { Attempt, Bench, Step } from '#core/bench';
import type { Point } from '#core/reach';
import { lookUp, usualRoute } from '#core/semantics';
import type { DoorRule } from '#core/semantics';
import { interfaceNamed } from '#core/site';
import { isEnd } from '../explain';
import type { EndStep } from '../explain';
import { holding } from './ends';
import type { End, Target } from './ends';

export interface Try {
  readonly from: End;
  readonly to: Target;
  readonly service: FlowService;
  readonly mark: number;
  readonly attempt: Attempt;
}

/** A packet that was sent to somebody. */
export type Sent = Pick<Try, 'to' | 'mark'>;

export function begin(bench: Bench, from: End, to: Target, service: FlowService): Try | undefined {
  if (!from.begin) return undefined;
  const mark = bench.newMark();
  return { from, to, service, mark, attempt: from.begin(to.address, service, mark) };
}

export const finishAll = (bench: Bench, tries: readonly Try[]): void => {
  bench.wait(() => tries.every((t) => t.attempt.done), 10_000);
};

/** Whether the packet reached the target at its place. */
export const arrived = (bench: Bench, t: Sent): boolean =>
  bench.stepsOf(t.mark).some((s: Step) => s.code === 'received' && s.node === t.to.name);

export const received = (bench: Bench, t: Sent, by: readonly string[] | undefined): boolean =>
  bench.stepsOf(t.mark).some((s: Step) => s.code === 'received' && !!by?.includes(s.node));

/** The hosts that a target means: itself; of one that is an address only, those who have it. */
export const meantBy = (bench: Bench, { name, address }: Target): readonly string[] =>
  bench.hosts.has(name) || bench.fars.has(name) ? [name] : holding(bench, address);

/** Whether the box sent it on to the router behind which its target would be. */
export const sentBehind = (bench: Bench, t: Sent): boolean =>
  t.to.behind !== undefined &&
  bench
    .stepsOf(t.mark)
    .some(
      (s: Step) =>
        s.node === bench.box.name &&
        s.interface === t.to.behind &&
        (s.code === 'departed' || s.code === 'no-neighbour') &&
        s.packet.destination === t.to.address,
    );

/** Whether it went through a door, and was not answered by the box itself. */
export const opened = (bench: Bench, t: Sent, door: DoorRule): boolean =>
  bench.stepsOf(t.mark).some((s: Step) => s.code === 'door-opens' && s.statement === door.statement);

/**
 * Whether a packet left by one uplink and came back in by another: what the internet does with it on the way is
 * nothing that the box could promise.
 */
export function wentAround(bench: Bench, t: Sent): boolean {
  const own = bench.stepsOf(t.mark).filter((s) => s.node === bench.box.name);
  const gone = own.findIndex((s) => s.code === 'departed');
  if (gone < 0) return false;
  return own.slice(gone).some((s, i, rest) => {
    const next = rest[i + 1]?.code;
    const known = next === 'known-back' || next === 'known-forward';
    return s.code === 'arrived' && !known && readPacket(s.packet).starts;
  });
}

/** What the box itself answers to a try: the word of the statement that lets it. */
export const answeredByBox = (bench: Bench, t: Sent): string | undefined =>
  bench.stepsOf(t.mark).find((s: Step) => s.code === 'box-answers' && s.node === bench.box.name)?.answer;

/** Whether the box serves what a try asked it for: names and the time of day want more than any bytes as a question. */
export function served(bench: Bench, t: Try): boolean {
  const { box } = bench.site;
  const word = answeredByBox(bench, t);
  return (word === 'dns' && !!box?.servesNames) || (word === 'time' && !!box?.servesTime);
}

/** Whether the target sent anything back, or wanted to and had no way. */
export const spoke = (bench: Bench, t: Try): boolean =>
  bench
    .stepsOf(t.mark)
    .some((s: Step) => (s.code === 'sent' || s.code === 'host-no-gateway') && s.node === t.to.name);

/** Whether a try left by the uplink that it would take if no statement of sending spoke of it. */
export function byActive(bench: Bench, t: Try, target: Ip): boolean {
  const { box } = bench;
  const own = bench.stepsOf(t.mark).filter((s) => s.node === box.name);
  const arrived = own.find((s) => s.code === 'arrived');
  const arrival = interfaceNamed(bench.site, arrived?.interface);
  const source = arrived?.packet.source;
  const usual =
    arrival && source !== undefined
      ? usualRoute(box.rules(), { routes: box.routes(), states: box.states() }, arrival, {
          source,
          destination: target,
        })
      : lookUp(box.routes(), 'main', target);
  return own.find((s) => s.code === 'routed')?.interface === usual?.interface;
}

export type Witness = Point & { readonly arrival: { readonly name: string } };

/** Puts a flow on a line, whoever sends it, and waits for what becomes of it. */
export function forge(bench: Bench, witness: Witness, mark = bench.newMark()): readonly Step[] {
  if (bench.forge(witness.arrival.name, witness, mark)) bench.scheduler.pass(4000);
  return bench.stepsOf(mark);
}

/** Whether such a flow gets through the box, or where one address is asked for, to the box itself. */
export const forged = (bench: Bench, witness: Witness, single: boolean): boolean =>
  forge(bench, witness).some(
    (s) =>
      s.code === 'departed' ||
      (single && s.code === 'box-answers') ||
      (s.code === 'no-neighbour' && s.node === bench.box.name),
  );

/** The source that such a flow shows as it leaves the box. */
export const leftAs = (bench: Bench, witness: Witness): Ip | undefined =>
  forge(bench, witness).find((s) => s.node === bench.box.name && s.code === 'departed')?.packet.source;

/** The step at which the box stops such a flow, or undefined where it lets it out. */
export function stoppedAt(bench: Bench, witness: Witness): EndStep | undefined {
  const steps = forge(bench, witness);
  return steps.some((s) => s.code === 'departed') ? undefined : steps.find(isEnd);
}
