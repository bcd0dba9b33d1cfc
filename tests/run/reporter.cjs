'use strict';
// Dots, failures, and the one line that says how many ran, from the runner's real counts. Where RESULTS names a file, a line
// a test is appended to it: how long it took, and how much of the processor it and all that it started used.
/* eslint-disable @typescript-eslint/no-require-imports */
const { appendFileSync, readFileSync, readdirSync } = require('node:fs');
const Mocha = require('mocha');

/** Clock ticks a second in /proc (proc(5); USER_HZ is 100 on every Linux architecture that Node runs on). */
const TICKS = 100;

/**
 * Processor seconds of every process that there is and of their children that were waited for. In a process namespace of
 * its own this is the time of a test run alone; elsewhere it would be everybody's, and is not asked.
 */
function processorSeconds() {
  if (process.env.APART === undefined) return undefined;
  let ticks = 0;
  for (const entry of readdirSync('/proc')) {
    if (!/^\d+$/.test(entry)) continue;
    try {
      const stat = readFileSync(`/proc/${entry}/stat`, 'utf8');
      // Fields 14 to 17: utime, stime, cutime, cstime, counted behind the command in parentheses.
      const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ');
      for (const field of fields.slice(11, 15)) ticks += Number(field);
    } catch {
      // It ended meanwhile.
    }
  }
  return ticks / TICKS;
}

module.exports = class extends Mocha.reporters.Dot {
  constructor(runner, options) {
    super(runner, options);
    const file = process.env.RESULTS;
    if (file !== undefined) {
      let before = processorSeconds();
      runner.on('test end', (test) => {
        const now = processorSeconds();
        const row = {
          title: test.fullTitle(),
          state: test.state ?? 'skipped',
          seconds: (test.duration ?? 0) / 1000,
          // What was killed with its process namespace takes its time along.
          processor: now === undefined ? undefined : Math.max(0, now - before),
        };
        before = now;
        appendFileSync(file, `${JSON.stringify(row)}\n`);
      });
    }
    runner.once('end', () => {
      const { passes, failures, pending } = this.stats;
      console.log(`${passes} passed, ${failures} failed, ${pending} skipped`);
    });
  }
};
