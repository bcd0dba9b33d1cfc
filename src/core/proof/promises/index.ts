/** Promises put to the bench: every station and far host that stands for either side, probes where nobody sits. */
import { formatFlowService, formatIp } from '#core/addr';
import type { Bench } from '#core/bench';
import type { StatementOf, Who } from '#core/notation';
import { becauseOf, judgeOnSets, promiseNow } from '#core/reach';
import type { Reach } from '#core/reach';
import { kindOf } from '#core/semantics';
import type { DoorRule } from '#core/semantics';
import { endOf } from '../explain';
import { endValues } from '../told';
import type { PromiseValues } from '../told';
import { endsOf, remotesOf, strangersOf, textOf } from './ends';
import type { Try } from './attempts';
import { judgeAnswersPing } from './answers-ping';
import type { PromiseResult, Told } from './judging';
import { judgeLeavesAs } from './leaves-as';
import { judgeNever } from './never';
import { judgeReaches } from './reaches';

export type { PromiseResult } from './judging';

/** A promise judged by the reach alone, where there is no time to put it to the bench. */
export function reckon(reach: Reach, statement: StatementOf<'expect'>): PromiseResult {
  const sets = judgeOnSets(reach, statement);
  if (!sets) return { statement, result: 'fail', code: 'promise-unread', values: {} };
  return sets.holds
    ? { statement, result: 'pass', code: 'promise-reckoned', values: {} }
    : { statement, result: 'fail', code: 'promise-reckoned-not', values: { ...becauseOf(sets) } };
}

/** Puts one promise to a bench that has booted. */
export function judge(bench: Bench, statement: StatementOf<'expect'>, reach: Reach): PromiseResult {
  const promise = promiseNow(reach.model, statement);
  const tell =
    (result: 'pass' | 'fail') =>
    <C extends keyof PromiseValues>(code: C, values: PromiseValues[C]): PromiseResult => ({
      statement,
      result,
      code,
      values: { ...values },
    });
  const [pass, fail] = [tell('pass'), tell('fail')];
  if (!promise) return fail('promise-unread', {});
  bench.box.forgetPassing();
  const { site } = bench;
  const doorOf = (who: Who): DoorRule | undefined => {
    if (who.type !== 'name' || kindOf(site, who) !== 'door') return undefined;
    return bench.box.rules().doors.find((d) => d.name === who.name);
  };
  const sources = [
    ...endsOf(bench, reach, promise.from).filter((e) => e.begin),
    ...remotesOf(bench, reach, promise.from),
  ];
  const strangers = promise.says === 'never-reaches' ? strangersOf(reach, promise.from) : [];
  if (!sources.length && !strangers.length) return fail('promise-no-source', { from: textOf(promise.from) });
  const homeless = sources.find((s) => !s.addresses.length);
  if (promise.says !== 'never-reaches' && homeless)
    return fail('promise-no-address', { station: homeless.name });
  const told = (t: Try): Told => {
    const end = endOf(bench, t.mark);
    const what = {
      from: t.from.name,
      to: t.to.name,
      address: formatIp(t.to.address),
      service: formatFlowService(t.service),
      result: t.attempt.result,
    };
    return end ? { ...what, ...endValues(end) } : what;
  };
  const pointed = () => judgeOnSets(reach, statement);
  const judging = { bench, reach, pointed, sources, strangers, doorOf, told, pass, fail };
  switch (promise.says) {
    case 'reaches':
      return judgeReaches({ ...judging, promise });
    case 'never-reaches':
      return judgeNever({ ...judging, promise });
    case 'leaves-as':
      return judgeLeavesAs({ ...judging, promise });
    case 'answers-ping':
      return judgeAnswersPing({ ...judging, promise });
  }
}
