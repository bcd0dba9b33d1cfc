/** The worker's entry: offers its work to the page. */
import { expose } from 'comlink';
import { ask, check, derive } from './derive';
import type { WorkerApi } from './protocol';

const last = { key: '' };
const api: WorkerApi = {
  derive: (request) => derive(request, () => performance.now(), last),
  ask,
  check,
};
expose(api);
