/**
 * The page's end of the worker. One derivation runs at a time; while it runs only the newest request waits, and
 * what came between is never begun. A worker that dies is started anew with the request it died of, once.
 */
import { proxy, wrap } from 'comlink';
import type { Remote } from 'comlink';
import { patched } from '#core/base';
import type {
  Answer,
  AskRequest,
  DeriveRequest,
  Derived,
  FindingView,
  Proved,
  TextFile,
  WorkerApi,
} from './protocol';

/** How long one job of the worker may take, milliseconds. */
const LIMIT = 30_000;

export interface WorkerClient {
  derive(request: DeriveRequest): void;
  ask(request: AskRequest): Promise<Answer>;
  check(files: readonly TextFile[]): Promise<FindingView[]>;
  compare(before: readonly TextFile[], after: readonly TextFile[]): Promise<string[]>;
  plan: WorkerApi['plan'];
  stopPlanning(): void;
  close(): void;
}

/** Starts the worker. What it tells is of the newest request only: findings first, then the whole; or what went wrong. */
export function startWorker(
  found: (findings: readonly FindingView[]) => void,
  done: (derived: Derived) => void,
  failed: (why: string) => void,
): WorkerClient {
  let worker: Worker;
  let api: Remote<WorkerApi>;
  let busy = false;
  let waiting: DeriveRequest | undefined;
  let current: DeriveRequest | undefined;
  let again = false;
  /** What the worker told last, whether anybody wanted it or not: the next is told by what changed of it. */
  let findings: readonly FindingView[] | undefined;
  let proved: Proved | undefined;
  /** Ends a worker that is stuck, and begins anew with what waits; what it was stuck in is told. */
  const limited = async <J extends Promise<unknown>>(job: J, what: string): Promise<Awaited<J>> => {
    const mine = worker;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const over = new Promise<never>((_, reject) => {
      timer = setTimeout(() => {
        reject(new Error(`${what} took more than ${LIMIT / 1000} s and was ended`));
        if (mine !== worker) return;
        mine.terminate();
        findings = proved = undefined;
        start();
      }, LIMIT);
    });
    try {
      return await Promise.race([job, over]);
    } finally {
      clearTimeout(timer);
    }
  };
  const start = () => {
    worker = new Worker(new URL('./entry.ts', import.meta.url), { type: 'module' });
    worker.addEventListener('error', (event) => {
      worker.terminate();
      findings = proved = undefined;
      start();
      busy = false;
      if (current && !again) {
        again = true;
        void run(waiting ?? current);
      } else failed(event.message || 'the worker stopped');
    });
    api = wrap<WorkerApi>(worker);
  };
  start();
  /** Takes back the mends that do not do what they offer; what is newer is told by itself. */
  const tryMends = async (request: DeriveRequest, all: readonly FindingView[]) => {
    const failing = await limited(api.failingMends(request.generation), 'trying mends');
    if (!failing.length || current !== request || waiting) return;
    const fails = (id: string, index: number) => failing.some((f) => f.finding === id && f.index === index);
    found(all.map((f) => ({ ...f, mends: f.mends.filter((_, i) => !fails(f.id, i)) })));
  };
  const run = async (request: DeriveRequest) => {
    busy = true;
    current = request;
    try {
      findings = patched(
        findings,
        await limited(api.find({ ...request, whole: !findings }), 'looking for faults'),
      ) as readonly FindingView[];
      if (waiting) return;
      found(findings);
      proved = patched(
        proved,
        await limited(api.derive({ ...request, whole: !proved }), 'the proof'),
      ) as Proved;
      again = false;
      if (!waiting) {
        done({ ...proved, findings });
        // Nobody waits for it: what goes wrong with it is told by the next thing that is asked.
        void tryMends(request, findings).catch(() => undefined);
      }
    } catch (error) {
      findings = proved = undefined;
      failed(error instanceof Error ? error.message : String(error));
    } finally {
      busy = false;
      const next = waiting;
      waiting = undefined;
      if (next) void run(next);
    }
  };
  return {
    derive(request) {
      if (busy) waiting = request;
      else void run(request);
    },
    ask: (request) => limited(api.ask(request), 'the question to the bench'),
    check: (files) => limited(api.check(files), 'looking for faults'),
    compare: (before, after) => limited(api.compare(before, after), 'comparing the reach'),
    plan: (running, draft, told, desk) =>
      limited(api.plan(running, draft, proxy(told), desk), 'the crossing'),
    stopPlanning: () => void api.stopPlanning(),
    close: () => worker.terminate(),
  };
}
