/** The worker's entry: offers its work to the page. */
import { expose } from 'comlink';
import { ask, check, compare, derive, find, plan, remember } from './derive';
import type { WorkerApi } from './protocol';

const last = remember();
const time = {
  clock: () => performance.now(),
  pause: () => new Promise((go) => setTimeout(go)),
};
const api: WorkerApi = {
  find: (request) => find(request, last),
  derive: (request) => derive(request, () => performance.now(), last),
  ask,
  check: (files) => check(files, last),
  compare: (before, after) => compare(before, after, last),
  plan: (running, draft, told) => plan(running, draft, told, time, last),
  stopPlanning: () => void last.planning++,
};
expose(api);
