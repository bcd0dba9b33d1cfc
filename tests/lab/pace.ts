/** How fast this machine is while a test looks at when something happens: seconds of a busy machine are longer. */
import { spawn } from 'node:child_process';

/** As often as a keeper's round forks, and as long as it rests. */
const ROUND =
  'while :; do for n in 1 2 3 4 5 6 7 8 9 10 11 12 13 14 15; do /bin/true; done; sleep 1; echo; done';

export class Pace {
  private readonly at: number[] = [performance.now()];
  private readonly rounds = spawn('sh', ['-c', ROUND], {
    stdio: ['ignore', 'pipe', 'ignore'],
    detached: true,
  });

  constructor() {
    this.rounds.stdout.on('data', () => this.at.push(performance.now()));
  }

  /**
   * Ends the measuring; how many seconds a round of one second took on the mean, at least 1. What a shell loop does once a
   * second may take so many times longer here than foretold, and no test fails for it.
   */
  stretch(): number {
    process.kill(-this.rounds.pid!, 'SIGKILL');
    const rounds = this.at.length - 1;
    return rounds ? Math.max(1, (this.at.at(-1)! - this.at[0]!) / 1000 / rounds) : 1;
  }
}
