'use strict';
// The spec reporter, followed by the one line that says how many ran, from the runner's real counts.
// eslint-disable-next-line @typescript-eslint/no-require-imports
const Mocha = require('mocha');

module.exports = class extends Mocha.reporters.Dot {
  constructor(runner, options) {
    super(runner, options);
    // A browser on a busy machine may miss a moment: it gets one more, and that is said.
    runner.on('retry', (test, error) => console.log(`\ntried again: ${test.fullTitle()}: ${error.message}`));
    runner.once('end', () => {
      const { passes, failures, pending } = this.stats;
      console.log(`${passes} passed, ${failures} failed, ${pending} skipped`);
    });
  }
};
