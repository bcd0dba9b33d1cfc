/** Virtual time: events in order of their moment, and of their making where the moment is the same. */

/** A moment or span of virtual time, milliseconds. */
export type Milliseconds = number;

/** Something that will happen unless it is cancelled. */
export interface Timer {
  readonly at: Milliseconds;
  readonly order: number;
  readonly run: () => void;
  cancelled: boolean;
}

/** A binary heap of timers and the clock they move. Nothing here looks at a real clock. */
export class Scheduler {
  now: Milliseconds = 0;
  private readonly heap: Timer[] = [];
  private made = 0;
  /** Something went on and on: nothing runs any more, and what is asked afterwards gets no answer. */
  isSpent = false;

  /** `most`: how many events one wait may take. */
  constructor(private readonly most = Infinity) {}

  /** Runs `run` after a delay of at least zero. */
  after(delay: Milliseconds, run: () => void): Timer {
    const timer: Timer = { at: this.now + Math.max(0, delay), order: this.made++, run, cancelled: false };
    const { heap } = this;
    let i = heap.push(timer) - 1;
    while (i > 0) {
      const parent = (i - 1) >> 1;
      if (!before(timer, heap[parent]!)) break;
      heap[i] = heap[parent]!;
      i = parent;
    }
    heap[i] = timer;
    return timer;
  }

  cancel(timer: Timer | undefined): void {
    if (timer) timer.cancelled = true;
  }

  /**
   * Runs events until `done` says so or virtual time would pass `deadline`; returns what `done` says then. The clock
   * stands at the last event, or at the deadline when it was reached. When it took too many, it is spent.
   */
  runUntil(done: () => boolean, deadline: Milliseconds): boolean {
    let left = this.most;
    while (!done()) {
      if (left-- === 0) {
        this.isSpent = true;
        this.heap.length = 0;
      }
      const next = this.heap[0];
      if (!next || next.at > deadline) {
        this.now = Math.max(this.now, deadline);
        return done();
      }
      this.pop();
      if (next.cancelled) continue;
      this.now = next.at;
      next.run();
    }
    return true;
  }

  /** Lets a span of virtual time pass. */
  pass(span: Milliseconds): void {
    this.runUntil(() => false, this.now + span);
  }

  private pop(): void {
    const { heap } = this;
    const last = heap.pop()!;
    if (heap.length === 0) return;
    let i = 0;
    for (;;) {
      let child = 2 * i + 1;
      if (child >= heap.length) break;
      if (child + 1 < heap.length && before(heap[child + 1]!, heap[child]!)) child++;
      if (!before(heap[child]!, last)) break;
      heap[i] = heap[child]!;
      i = child;
    }
    heap[i] = last;
  }
}

const before = (a: Timer, b: Timer): boolean => a.at < b.at || (a.at === b.at && a.order < b.order);
