/** The worker's entry: offers its work to the page. */
import { expose } from 'comlink';
import { ask, check, compare, derive, find, plan, remember } from './derive';
import type { WorkerApi } from './protocol';

const last = remember();
const api: WorkerApi = {
  find: (request) => find(request, last),
  derive: (request) => derive(request, () => performance.now(), last),
  ask,
  check: (files) => check(files, last),
  compare: (before, after) => compare(before, after, last),
  plan: (running, draft) => plan(running, draft, () => performance.now()),
};
expose(api);
