/** The worker's entry: offers its end to the page. */
import { expose } from 'comlink';
import { workerApi } from './api';

expose(
  workerApi({
    clock: () => performance.now(),
    pause: () => new Promise((go) => setTimeout(go)),
  }),
);
