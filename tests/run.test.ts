/** What `verify` runs, and in which order. */
import { expect } from 'chai';
import { readdirSync } from 'node:fs';
import { deepJobs, partOf, verifyJobs } from './run/jobs';
import { schedule, startable } from './run/schedule';

const job = (name: string, after: string[] = [], weight = 1) => ({ name, after, weight });

describe('a run of verify', () => {
  it('has every file of tests in one job, once', () => {
    const files = ['src', 'tests']
      .flatMap((folder) =>
        readdirSync(folder, { recursive: true, encoding: 'utf8' }).map((name) => `${folder}/${name}`),
      )
      .filter((name) => /\.(test|e2e)\.ts$/.test(name));
    const run = verifyJobs().flatMap((j) => j.command.filter((word) => /\.(test|e2e)\.ts$/.test(word)));
    expect(run.toSorted()).to.deep.equal(files.toSorted());
  });

  it('waits for nothing that it has not, in any part', () => {
    const all = verifyJobs();
    for (const jobs of [
      all,
      deepJobs(1),
      ...(['core', 'page', 'live'] as const).map((p) => partOf(all, p)),
    ]) {
      const names = jobs.map((j) => j.name);
      expect(new Set(names).size).to.equal(names.length);
      for (const j of jobs) expect(names, j.name).to.include.members([...j.after]);
    }
  });

  it('begins the heaviest first of what may begin', () => {
    const jobs = [job('a'), job('b', ['a'], 9), job('c', [], 5)];
    expect(startable(jobs, new Set()).map((j) => j.name)).to.deep.equal(['c', 'a']);
    expect(startable(jobs, new Set(['a'])).map((j) => j.name)).to.deep.equal(['b', 'c', 'a']);
  });

  /** Runs jobs that end when they are told; what ran beside what. */
  const play = async (idle: () => number, fails: readonly string[] = []) => {
    const running = new Set<string>();
    let most = 0;
    const order: string[] = [];
    const outcomes = await schedule(
      [
        job('build', [], 99),
        job('x', ['build']),
        job('y', ['build']),
        job('z', ['y']),
        ...'abcdef'.split('').map((n) => job(n)),
      ],
      {
        run: async ({ name }) => {
          order.push(name);
          running.add(name);
          most = Math.max(most, running.size);
          for (let n = 0; n < 50; n++) await Promise.resolve();
          running.delete(name);
          return !fails.includes(name);
        },
        idle,
        processors: 2,
        look: () => Promise.resolve(),
      },
    );
    return { outcomes, most, order };
  };

  it('has as many at once as there are processors where these are busy, and at most three times as many where they idle', async () => {
    expect((await play(() => 0)).most).to.equal(2);
    expect((await play(() => 2)).most).to.equal(6);
  });

  it('does not begin what waits for something that failed, and runs the rest', async () => {
    const { outcomes, order } = await play(() => 2, ['y']);
    expect(order).to.not.include('z');
    expect(outcomes.get('y')).to.equal(false);
    expect(outcomes.get('z')).to.equal(undefined);
    expect([...outcomes].filter(([, ok]) => ok).length).to.equal(8);
  });
});
