/** The worker's end: texts are put together, jobs given to the engine, and answers told by what changed of them. */
import { patchOf } from '#core/base';
import { ask, check, compare, derive, failingMends, find, plan, remember } from './engine';
import type { Time } from './engine';
import type { DeriveRequest, FindingView, Proved, SentRequest, WorkerApi } from './protocol';
import { drill, whatIf } from './faults';
import { textReceivers } from './texts';

/** One life of the worker. Time is an argument. */
export function workerApi(time: Time): WorkerApi {
  const last = remember();
  const texts = textReceivers();
  /** What the page was told last. */
  const told: { findings?: readonly FindingView[]; proved?: Proved } = {};
  const whole = (request: SentRequest): DeriveRequest => ({
    ...request,
    draft: texts.draft.receive(request.draft),
    running: request.running && texts.running.receive(request.running),
  });
  return {
    find: (request) => {
      const before = request.whole ? undefined : told.findings;
      return patchOf(before, (told.findings = find(whole(request), last)));
    },
    derive: (request) => {
      const before = request.whole ? undefined : told.proved;
      const { findings: _, ...proved } = derive(whole(request), time.clock, last);
      return patchOf(before, (told.proved = proved));
    },
    failingMends: (generation) => failingMends(generation, last, time),
    ask: (request) => ask({ ...request, files: texts.draft.receive(request.files) }, last),
    check: (files) => check(texts.thought.receive(files), last),
    compare: (before, after) => compare(texts.draft.receive(before), texts.thought.receive(after), last),
    plan: (running, draft, report, desk, isLive) =>
      plan(texts.running.receive(running), texts.draft.receive(draft), report, time, last, desk, isLive),
    drill: (which, files, script) => drill(texts[which].receive(files), script, last),
    whatIf: (which, files, isPairs, report) =>
      whatIf(texts[which].receive(files), isPairs, report, time, last),
    stopPlanning: () => void last.planning++,
  };
}
