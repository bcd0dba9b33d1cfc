/**
 * Runs jobs side by side, as many as the processors have room for: another one begins while they idle, not while a fixed
 * number is under way. Boxes that wait for timers leave room; a build does not.
 */
import { cpus } from 'node:os';

/** What a schedule needs to know of a job. */
export interface Schedulable {
  readonly name: string;
  readonly after: readonly string[];
  readonly weight: number;
}

/** How busy this machine is, by what its processors have counted. */
export class Idle {
  private last = this.counted();

  private counted(): { readonly idle: number; readonly all: number } {
    let [idle, all] = [0, 0];
    for (const { times } of cpus()) {
      idle += times.idle;
      all += times.idle + times.user + times.nice + times.sys + times.irq;
    }
    return { idle, all };
  }

  /** Processors that had nothing to do since this was asked last: from 0 to as many as there are. */
  since(): number {
    const [before, now] = [this.last, this.counted()];
    const counted = now.all - before.all;
    // Clocks are counted in ticks of 10 ms: what is too short to tell leaves no room, and goes on being counted.
    if (counted < (LOOK * cpus().length) / 2) return 0;
    this.last = now;
    return ((now.idle - before.idle) / counted) * cpus().length;
  }
}

/** Milliseconds between two looks; a job that has just begun shows what it needs after one. */
const LOOK = 1000;
/** Idle processors that make room for one more job. */
const ROOM = 0.35;

/** The jobs that may begin now, the heaviest first. */
export const startable = <J extends Schedulable>(waiting: readonly J[], passed: ReadonlySet<string>): J[] =>
  waiting.filter((j) => j.after.every((name) => passed.has(name))).toSorted((a, b) => b.weight - a.weight);

export interface Scheduling<J extends Schedulable> {
  readonly run: (job: J) => Promise<boolean>;
  /** Idle processors since this was asked last. */
  readonly idle: () => number;
  readonly processors: number;
  /** Resolves after a moment. */
  readonly look: () => Promise<void>;
}

/**
 * Runs all; each job's outcome by its name, `undefined` for a job that did not begin because one before it failed. As many
 * jobs as there are processors run on a busy machine too, and never more than three times as many.
 */
export async function schedule<J extends Schedulable>(
  jobs: readonly J[],
  { run, idle, processors, look }: Scheduling<J>,
): Promise<Map<string, boolean | undefined>> {
  const outcomes = new Map<string, boolean | undefined>();
  const passed = new Set<string>();
  const running = new Set<Promise<void>>();
  const waiting = [...jobs];
  const begin = (job: J): void => {
    waiting.splice(waiting.indexOf(job), 1);
    const ended = run(job).then((ok) => {
      outcomes.set(job.name, ok);
      if (ok) passed.add(job.name);
      running.delete(ended);
    });
    running.add(ended);
  };
  while (waiting.length || running.size) {
    const [next] = startable(waiting, passed);
    const room = running.size < processors || (running.size < processors * 3 && idle() > ROOM);
    if (next && room) begin(next);
    else if (!running.size) break;
    // Below the number of processors there is nothing to look at first.
    if (!next || running.size >= processors) await Promise.race([look(), ...running]);
  }
  for (const job of waiting) outcomes.set(job.name, undefined);
  return outcomes;
}

/** A schedule's view of this machine. */
export function thisMachine() {
  const idle = new Idle();
  return {
    idle: () => idle.since(),
    processors: cpus().length,
    look: () => new Promise<void>((resolve) => setTimeout(resolve, LOOK)),
  };
}
