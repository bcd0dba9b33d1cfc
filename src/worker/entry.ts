/** The worker's entry: offers its work to the page. */
import { expose } from 'comlink';
import { ask, derive } from './derive';
import type { WorkerApi } from './protocol';

const api: WorkerApi = {
  derive: (request) => derive(request, () => performance.now()),
  ask,
};
expose(api);
