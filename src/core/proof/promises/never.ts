/** `A never reaches B`: nothing arrives, doors into B included; what nobody sends is put on the line. */
import { formatFlowService, formatIp, serviceTakes } from '#core/addr';
import { namedServices, outsideOf } from '#core/semantics';
import type { DoorRule } from '#core/semantics';
import { endsOf, targetsFor, holding, beyondOf, linesOf, isAddress, doorsAt, textOf } from './ends';
import {
  begin,
  finishAll,
  arrived,
  received,
  sentBehind,
  opened,
  wentAround,
  answeredByBox,
  forge,
  forged,
} from './attempts';
import type { Try, Sent } from './attempts';
import { examples, usualServices } from './services';
import type { Judging, PromiseResult } from './judging';

export function judgeNever({
  bench,
  reach,
  pointed,
  promise,
  sources,
  strangers,
  told,
  doorOf,
  pass,
  fail,
}: Judging<'never-reaches'>): PromiseResult {
  const targets = [
    ...endsOf(bench, reach, promise.to),
    ...linesOf(reach, promise.to),
    ...beyondOf(bench, reach, promise.to),
  ];
  if (!targets.length) return fail('promise-no-target', { to: textOf(promise.to) });
  const named = namedServices(promise.services);
  const services = named ? examples(named) : usualServices(bench, promise.to);
  const tries = sources.flatMap((from) =>
    targetsFor(from, targets).flatMap((to) => services.flatMap((s) => begin(bench, from, to, s) ?? [])),
  );
  finishAll(bench, tries);
  // Doors into it count as ways in.
  const through = bench.box.rules().doors.flatMap((d) => {
    // In two tables there may be two with that address.
    const behind = targets.filter((t) => t.addresses.includes(d.inside));
    if (!behind.length) return [];
    const own = d.services.filter((s) => s.kind !== 'any');
    // What a door leads to may lie amid the services that are named, and be none of their examples.
    const amid = named ? examples(d.insideServices).filter((s) => serviceTakes(named, s)) : [];
    const open =
      named || !own.length ? [...services, ...amid].flatMap((s) => outsideOf(d, s) ?? []) : examples(own);
    return open.flatMap((service) =>
      sources.flatMap((from) => {
        const other = behind.find((b) => b.name !== from.name);
        const at = other ? [{ name: other.name, addresses: [d.outside] }] : [];
        return targetsFor(from, at).flatMap((to): { t: Try; by: DoorRule }[] => {
          const t = begin(bench, from, to, service);
          return t ? [{ t, by: d }] : [];
        });
      }),
    );
  });
  finishAll(
    bench,
    through.map((x) => x.t),
  );
  const sent = (sources.length ? [] : strangers).flatMap(({ at, addresses }) => {
    const source = addresses.ranges[0]!.first;
    return targetsFor({ name: '', addresses: [source], far: true }, targets).flatMap((to) =>
      services.map((service) => {
        const mark = bench.newMark();
        forge(bench, { arrival: at, source, destination: to.address, service }, mark);
        return { from: formatIp(source), to, service, mark, line: at.name };
      }),
    );
  });
  if (!tries.length && !through.length && !sent.length) return fail('promise-no-pair', {});
  const door = doorOf(promise.to);
  const led = (t: Sent, d: DoorRule) => opened(bench, t, d) && received(bench, t, holding(bench, d.inside));
  const spots = doorsAt(bench, promise.to);
  const single = isAddress(promise.to);
  const got = (t: Sent) =>
    wentAround(bench, t)
      ? false
      : door
        ? led(t, door)
        : arrived(bench, t) ||
          sentBehind(bench, t) ||
          spots.some((d) => led(t, d)) ||
          // One address may be the box's own.
          (single && answeredByBox(bench, t) !== undefined);
  // The service said is the one inside: another door at the same address may make another of it.
  const fitting = through.filter((x) => !named || opened(bench, x.t, x.by));
  const leak = [...tries, ...fitting.map((x) => x.t)].find(got);
  if (leak) return fail('promise-leak', told(leak));
  // What no host would send: somebody on a line may, so the flow that the reach points to is put there.
  const stray = sent.find(got);
  if (stray)
    return fail('promise-leak-forged', {
      from: stray.from,
      to: textOf(promise.to),
      address: formatIp(stray.to.address),
      service: formatFlowService(stray.service),
      line: stray.line,
    });
  const witness = pointed()?.witness;
  if (witness && forged(bench, witness, single))
    return fail('promise-leak-forged', {
      from: formatIp(witness.source),
      to: textOf(promise.to),
      address: formatIp(witness.destination),
      service: formatFlowService(witness.service),
      line: witness.arrival.name,
    });
  return pass('promise-sealed', { count: String(tries.length + through.length + sent.length) });
}
