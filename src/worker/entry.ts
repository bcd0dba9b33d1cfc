/** The worker's entry: offers its work to the page. */
import { expose } from 'comlink';
import { patchOf } from '#core/base';
import { ask, check, compare, derive, failingMends, find, plan, remember } from './derive';
import type { FindingView, Proved, WorkerApi } from './protocol';

const last = remember();
const time = {
  clock: () => performance.now(),
  pause: () => new Promise((go) => setTimeout(go)),
};
/** What the page was told last. */
const told: { findings?: readonly FindingView[]; proved?: Proved } = {};
const api: WorkerApi = {
  find: (request) => {
    const before = request.whole ? undefined : told.findings;
    return patchOf(before, (told.findings = find(request, last)));
  },
  derive: (request) => {
    const before = request.whole ? undefined : told.proved;
    const { findings: _, ...proved } = derive(request, () => performance.now(), last);
    return patchOf(before, (told.proved = proved));
  },
  failingMends: (generation) => failingMends(generation, last, time),
  ask,
  check: (files) => check(files, last),
  compare: (before, after) => compare(before, after, last),
  plan: (running, draft, told, desk) => plan(running, draft, told, time, last, desk),
  stopPlanning: () => void last.planning++,
};
expose(api);
