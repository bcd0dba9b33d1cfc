/** `A reaches B`: every source gets it of every destination, replies included. */
import { formatFlowService, formatIp } from '#core/addr';
import type { FlowService } from '#core/addr';
import { askedServices, kindOf } from '#core/semantics';
import type { DoorRule } from '#core/semantics';
import { PROBE } from '../desks';
import { endValues } from '../told';
import { endsOf, targetsFor, holding, beyondOf, holdsItself, isAddress, doorsAt, textOf } from './ends';
import {
  begin,
  finishAll,
  arrived,
  received,
  meantBy,
  sentBehind,
  opened,
  wentAround,
  served,
  spoke,
  stoppedAt,
} from './attempts';
import type { Try } from './attempts';
import { examples, somePorts, usualServices } from './services';
import type { Judging, PromiseResult } from './judging';

/** In which a connection that was asked for is closed on both sides, milliseconds. */
const ENDING = 500;

export function judgeReaches({
  bench,
  reach,
  pointed,
  promise,
  sources,
  told,
  doorOf,
  pass,
  fail,
}: Judging<'reaches'>): PromiseResult {
  const { site } = bench;
  const targets = [...endsOf(bench, reach, promise.to), ...beyondOf(bench, reach, promise.to)];
  if (!targets.length) return fail('promise-no-target', { to: textOf(promise.to) });
  const door = doorOf(promise.to);
  const doors = door ? [door] : doorsAt(bench, promise.to);
  // Who was put there for another question does not serve.
  const behind = (d: DoorRule) => holding(bench, d.inside).filter((name) => !name.startsWith(PROBE));
  // At an address of the box or of a door whoever answers is who is asked for.
  const whoever =
    isAddress(promise.to) &&
    (holdsItself(bench, promise.to.range.first) || doors.some((d) => behind(d).length > 0));
  const strict =
    promise.to.type === 'name' &&
    ['station', 'far', 'known', 'door'].includes(kindOf(site, promise.to) ?? '');
  const parts = askedServices(promise.services, door?.services);
  const named = parts !== undefined;
  let count = 0;
  const empty = targets.find((t) => !t.addresses.length);
  if (empty) return fail('promise-no-address', { station: empty.name });
  for (const from of sources)
    for (const to of targetsFor(from, targets)) {
      count++;
      const good = (t: Try) => {
        if (sentBehind(bench, t)) return true;
        if (wentAround(bench, t)) return false;
        const by = doors.find((d) => opened(bench, t, d));
        if (by ? !received(bench, t, behind(by)) : door) return false;
        // A door amid a network may lead to somebody else, who answers.
        const theirs = by ?? (whoever || received(bench, t, meantBy(bench, t.to)));
        return (
          (t.attempt.result === 'answered' && !!theirs) ||
          served(bench, t) ||
          // A refusal by the target itself shows that the packet got there and back.
          (((!strict && !by) || !named) && t.attempt.result === 'refused' && (!!by || arrived(bench, t))) ||
          // A target that says nothing was still reached; one whose answer is lost on the way was not.
          (!strict && !by && arrived(bench, t) && !spoke(bench, t))
        );
      };
      /** Puts services one after another; where some will do, until one is good, else until one is not. */
      const failing = (services: readonly FlowService[], some: boolean): Try | undefined => {
        let bad: Try | undefined;
        for (const service of services) {
          // What went before must end, and must not be taken for the flow that an answer belongs to.
          bench.scheduler.pass(ENDING);
          bench.box.forgetPassing();
          const t = begin(bench, from, to, service);
          if (!t) continue;
          finishAll(bench, [t]);
          // A question for a neighbour outlives what it was asked for.
          if (to.behind !== undefined && !good(t)) bench.scheduler.pass(4000);
          const got = good(t);
          if (got && some) return undefined;
          if (!got) bad ??= t;
          if (bad && !some) return bad;
        }
        return bad;
      };
      const bad = named
        ? parts
            .map((p) => failing(p.some ? somePorts(bench, p.services) : examples(p.services), p.some))
            .find((t) => t !== undefined)
        : failing(usualServices(bench, promise.to), true);
      if (bad) return fail('promise-not-reached', told(bad));
    }
  if (!count) return fail('promise-no-pair', {});
  // Where nobody can sit, behind another router, the flow that the reach points to is put on the line.
  const sets = pointed();
  const stopped = sets?.why?.why === 'box' && sets.witness && stoppedAt(bench, sets.witness);
  if (stopped)
    return fail('promise-not-reached', {
      from: formatIp(sets.witness.source),
      to: textOf(promise.to),
      address: formatIp(sets.witness.destination),
      service: formatFlowService(sets.witness.service),
      ...endValues(stopped),
    });
  return pass('promise-reached', { count: String(count) });
}
