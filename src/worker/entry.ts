/** The worker's entry: offers its work to the page. */
import { expose } from 'comlink';
import { ask, check, compare, derive, find, plan } from './derive';
import type { Remembered } from './derive';
import type { WorkerApi } from './protocol';

const last: Remembered = { key: '' };
const api: WorkerApi = {
  find: (request) => find(request, last),
  derive: (request) => derive(request, () => performance.now(), last),
  ask,
  check,
  compare,
  plan: (running, draft) => plan(running, draft, () => performance.now()),
};
expose(api);
