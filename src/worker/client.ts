/**
 * The page's end of the worker. One derivation runs at a time; while it runs only the newest request waits, and
 * what came between is never begun. A worker that dies is started anew with the request it died of, once; whoever waits
 * for anything else of it is told.
 */
import { proxy, wrap } from 'comlink';
import type { Remote } from 'comlink';
import { patched } from '#core/base';
import type { DrillScript } from '#core/proof/drills';
import { textSenders } from './texts';
import type {
  Answer,
  AskRequest,
  DeriveRequest,
  Derived,
  DeskState,
  DrillAnswer,
  FindingView,
  PlanTold,
  PlanView,
  Proved,
  SentRequest,
  Side,
  TextFile,
  WhatIfTold,
  WhatIfView,
  WorkerApi,
} from './protocol';

/** How long one job of the worker may take, milliseconds. */
const LIMIT = 30_000;

/** What the page asks of the worker. Each rejects where the worker fails or takes too long. */
export interface WorkerClient {
  derive(request: DeriveRequest): void;
  ask(request: AskRequest): Promise<Answer>;
  check(files: readonly TextFile[]): Promise<FindingView[]>;
  compare(before: readonly TextFile[], after: readonly TextFile[]): Promise<string[]>;
  plan(
    running: readonly TextFile[],
    draft: readonly TextFile[],
    told: PlanTold,
    desk?: DeskState,
    isLive?: boolean,
  ): Promise<PlanView>;
  drill(which: Side, files: readonly TextFile[], script: DrillScript): Promise<DrillAnswer>;
  whatIf(
    which: Side,
    files: readonly TextFile[],
    isPairs: boolean,
    told: WhatIfTold,
  ): Promise<WhatIfView | undefined>;
  stopPlanning(): void;
  close(): void;
}

/** What is told of the newest request: its findings first, then the whole; or what went wrong. */
export interface Told {
  readonly found: (findings: readonly FindingView[]) => void;
  readonly done: (derived: Derived) => void;
  readonly failed: (why: string) => void;
}

/** One life of a worker. */
export interface Life {
  readonly api: Remote<WorkerApi>;
  end(): void;
}

/** Begins one; `died` is called when it stops by itself. */
export type Spawn = (died: (why: string) => void) => Life;

const inBrowser: Spawn = (died) => {
  const worker = new Worker(new URL('./entry.ts', import.meta.url), { type: 'module' });
  worker.addEventListener('error', (event) => died(event.message || 'the worker stopped'));
  return { api: wrap<WorkerApi>(worker), end: () => worker.terminate() };
};

class Died extends Error {}

/** Starts the worker. */
export function startWorker(told: Told, spawn: Spawn = inBrowser, limit = LIMIT): WorkerClient {
  let life: Life;
  /** Of this life: what it was sent. */
  let texts = textSenders();
  let busy = false;
  let waiting: DeriveRequest | undefined;
  let current: DeriveRequest | undefined;
  let again = false;
  let isClosed = false;
  /** What the worker told last, whether anybody wanted it or not: the next is told by what changed of it. */
  let findings: readonly FindingView[] | undefined;
  let proved: Proved | undefined;
  /** By life: those who wait for an answer of it. */
  let ending = new Set<(why: Error) => void>();
  const start = () => {
    const mine = new Set<(why: Error) => void>();
    ending = mine;
    findings = proved = undefined;
    texts = textSenders();
    life = spawn((why) => {
      if (ending === mine) restart(new Died(why));
    });
  };
  const restart = (why: Error) => {
    const waitingFor = ending;
    life.end();
    start();
    for (const end of waitingFor) end(why);
  };
  /** An answer of this life of the worker; a job that takes too long ends it. */
  const limited = <J extends PromiseLike<unknown>>(job: J, what: string): Promise<Awaited<J>> => {
    const mine = ending;
    return new Promise<Awaited<J>>((resolve, reject) => {
      const timer = setTimeout(() => {
        if (ending === mine) restart(new Error(`${what} took more than ${limit / 1000} s and was ended`));
      }, limit);
      const settle = () => {
        clearTimeout(timer);
        mine.delete(end);
      };
      const end = (why: Error) => {
        settle();
        reject(why);
      };
      mine.add(end);
      job.then(
        (value) => {
          settle();
          resolve(value as Awaited<J>);
        },
        (why: unknown) => end(why instanceof Error ? why : new Error(String(why))),
      );
    });
  };
  start();
  /** Takes back the mends that do not do what they offer; what is newer is told by itself. */
  const tryMends = async (request: DeriveRequest, all: readonly FindingView[]) => {
    const failing = await limited(life.api.failingMends(request.generation), 'trying mends');
    if (!failing.length || current !== request || waiting) return;
    const fails = (id: string, index: number) => failing.some((f) => f.finding === id && f.index === index);
    told.found(all.map((f) => ({ ...f, mends: f.mends.filter((_, i) => !fails(f.id, i)) })));
  };
  /** The request as it goes over; `told` is what its answer is told by. */
  const sent = (request: DeriveRequest, told: unknown): SentRequest => ({
    ...request,
    draft: texts.draft.send(request.draft),
    running: request.running && texts.running.send(request.running),
    whole: !told,
  });
  const run = async (request: DeriveRequest) => {
    busy = true;
    current = request;
    try {
      findings = patched(
        findings,
        await limited(life.api.find(sent(request, findings)), 'looking for faults'),
      ) as readonly FindingView[];
      if (waiting) return;
      told.found(findings);
      proved = patched(proved, await limited(life.api.derive(sent(request, proved)), 'the proof')) as Proved;
      again = false;
      if (!waiting) {
        told.done({ ...proved, findings });
        // Nobody waits for it: what goes wrong with it is told by the next thing that is asked.
        void tryMends(request, findings).catch(() => undefined);
      }
    } catch (error) {
      if (isClosed) return;
      if (error instanceof Died && !again) {
        again = true;
        waiting ??= request;
      } else told.failed(error instanceof Error ? error.message : String(error));
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
    ask: (request) =>
      limited(
        life.api.ask({ ...request, files: texts.draft.send(request.files) }),
        'the question to the bench',
      ),
    check: (files) => limited(life.api.check(texts.thought.send(files)), 'looking for faults'),
    compare: (before, after) =>
      limited(life.api.compare(texts.draft.send(before), texts.thought.send(after)), 'comparing the reach'),
    plan: (running, draft, report, desk, isLive) =>
      limited(
        life.api.plan(texts.running.send(running), texts.draft.send(draft), proxy(report), desk, isLive),
        'the crossing',
      ),
    drill: (which, files, script) =>
      limited(life.api.drill(which, texts[which].send(files), script), 'the drill'),
    // It may take long on a large site, and gives way to whatever else is asked: nothing ends it but another.
    whatIf: (which, files, isPairs, report) =>
      life.api.whatIf(which, texts[which].send(files), isPairs, proxy(report)),
    stopPlanning: () => void life.api.stopPlanning(),
    close: () => {
      isClosed = true;
      life.end();
      for (const end of ending) end(new Error('closed'));
    },
  };
}
