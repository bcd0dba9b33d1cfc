/**
 * `npm run verify [-- core|page|live]` and `npm run verify:deep [-- SEED]`, once packages are installed: every job in a
 * space of its own, as many side by side as there is room for, what they said where they failed, and where the time went.
 */
import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  closeSync,
  existsSync,
  mkdirSync,
  openSync,
  readFileSync,
  readdirSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { serve } from '../e2e/serve';
import type { Served } from '../e2e/serve';
import { COMPONENTS, PARTS, deepJobs, partOf, verifyJobs } from './jobs';
import type { Job, Part } from './jobs';
import { schedule, thisMachine } from './schedule';

/** Where what jobs wrote stands until the next run. */
const FOLDER = '.verify';

/** One test, as the reporter writes it. */
interface TestRow {
  readonly title: string;
  readonly state: 'passed' | 'failed' | 'skipped' | 'pending';
  readonly seconds: number;
  /** Seconds of all processors together; undefined where a run has no process namespace of its own. */
  readonly processor?: number;
}
/** A job that has ended. */
interface Ended {
  readonly job: Job;
  readonly ok: boolean;
  readonly seconds: number;
  readonly processor?: number;
  readonly tests: readonly TestRow[];
}

/** Minutes and seconds, `7:05`. */
const clock = (seconds: number): string => {
  const whole = Math.round(seconds);
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, '0')}`;
};
const inFolder = (job: Job, name: string): string => join(FOLDER, job.name.replaceAll(' ', '-'), name);

/** Seconds that all children of a job used: the second line that bash's `times` prints, user and system (POSIX times). */
function processorOf(job: Job): number | undefined {
  const file = inFolder(job, 'times');
  if (!existsSync(file)) return undefined;
  const children = readFileSync(file, 'utf8').split('\n')[1] ?? '';
  return [...children.matchAll(/(\d+)m([\d.]+)s/g)].reduce(
    (sum, [, m, s]) => sum + Number(m) * 60 + Number(s),
    0,
  );
}

const testsOf = (job: Job): TestRow[] => {
  const file = inFolder(job, 'results');
  if (!existsSync(file)) return [];
  return readFileSync(file, 'utf8')
    .split('\n')
    .filter(Boolean)
    .map((line) => JSON.parse(line) as TestRow);
};

/** The application, started when the first job opens it; the boxes that this machine's user calls are not known to it. */
let served: Promise<Served> | undefined;
const server = (): Promise<Served> =>
  (served ??= serve([], 0, { ...process.env, XDG_CONFIG_HOME: join(FOLDER, 'config') }).then((one) => {
    process.once('exit', () => one.child.kill());
    return one;
  }));

const ended: Ended[] = [];
const children = new Map<string, ReturnType<typeof spawn>>();

async function run(job: Job): Promise<boolean> {
  mkdirSync(inFolder(job, ''), { recursive: true });
  const said = openSync(inFolder(job, 'said'), 'w');
  const place = job.isServed ? { SERVED_AT: (await server()).origin } : {};
  const begun = Date.now();
  const child = spawn('bash', ['scripts/apart.sh', join(process.cwd(), inFolder(job, '')), ...job.command], {
    stdio: ['ignore', said, said],
    env: { ...process.env, ...job.env, ...place, RESULTS: join(process.cwd(), inFolder(job, 'results')) },
  });
  children.set(job.name, child);
  const code = await new Promise<number | null>((resolve) => {
    child.once('error', () => resolve(null));
    child.once('close', resolve);
  });
  children.delete(job.name);
  closeSync(said);
  const ok = code === 0;
  const seconds = (Date.now() - begun) / 1000;
  const one: Ended = { job, ok, seconds, processor: processorOf(job), tests: testsOf(job) };
  ended.push(one);
  const used = one.processor === undefined ? '' : `, ${one.processor.toFixed(0)} s of processor`;
  const count = one.tests.length ? `, ${one.tests.length} tests` : '';
  console.log(
    `${ok ? 'ok  ' : 'FAIL'} ${clock(since())} ${job.name}: ${seconds.toFixed(0)} s${used}${count}`,
  );
  if (!ok) console.log(readFileSync(inFolder(job, 'said'), 'utf8'));
  rmSync(inFolder(job, 'tmp'), { recursive: true, force: true });
  return ok;
}

const start = Date.now();
const since = (): number => (Date.now() - start) / 1000;

/** eslint remembers files whose text is the same, as long as its rules are: what it remembers has a place for each state of them. */
function lintCache(job: Job): Job {
  if (job.name !== COMPONENTS) return job;
  const hash = createHash('sha256');
  for (const name of ['package-lock.json', 'eslint.config.js']) hash.update(readFileSync(name));
  const location = `.verify/cache/eslint-${hash.digest('hex').slice(0, 16)}`;
  return {
    ...job,
    command: [...job.command, '--cache', '--cache-strategy', 'content', '--cache-location', location],
  };
}

/** The rows of the summary, and whether all is well. */
function summary(jobs: readonly Job[], outcomes: ReadonlyMap<string, boolean | undefined>): boolean {
  const tests = ended.flatMap((e) => e.tests.map((t) => ({ ...t, job: e.job.name })));
  console.log('\nparts');
  for (const part of [...PARTS, 'deep'] as const) {
    const its = ended.filter((e) => e.job.part === part);
    if (!its.length) continue;
    const sum = (of: (e: Ended) => number) => its.reduce((n, e) => n + of(e), 0);
    console.log(
      `  ${part}: ${its.length} jobs, ${clock(sum((e) => e.seconds))} one after another, ${clock(sum((e) => e.processor ?? 0))} of processor`,
    );
  }
  const top = (rows: typeof tests, by: (t: TestRow) => number, count: number) => {
    for (const t of rows.toSorted((a, b) => by(b) - by(a)).slice(0, count))
      console.log(`  ${by(t).toFixed(1)} s  ${t.job}: ${t.title}`);
  };
  console.log('the slowest tests');
  top(tests, (t) => t.seconds, 10);
  console.log('what used most processor time');
  top(tests, (t) => t.processor ?? 0, 3);
  for (const job of jobs) {
    const ok = outcomes.get(job.name);
    if (ok === undefined) console.log(`not run: ${job.name}, since something before it failed`);
    else if (!ok) console.log(`failed: ${job.name}`);
  }
  const count = (...states: TestRow['state'][]) => tests.filter((t) => states.includes(t.state)).length;
  const passed = count('passed');
  const ok = passed > 0 && jobs.every((j) => outcomes.get(j.name));
  // A job that failed without a test that did is one failure of its own.
  const silent = ended.filter((e) => !e.ok && !e.tests.some((t) => t.state === 'failed')).length;
  console.log(`\nall: ${clock(since())}`);
  console.log(`${passed} passed, ${count('failed') + silent} failed, ${count('skipped', 'pending')} skipped`);
  return ok;
}

const [word = '', seedWord] = process.argv.slice(2);
const isPart = (text: string): text is Part => (PARTS as readonly string[]).includes(text);
let jobs: Job[];
if (word === 'deep') {
  const seed = seedWord === undefined ? Math.floor(Math.random() * 1e6) : Number(seedWord);
  if (!Number.isSafeInteger(seed)) throw new Error(`“${seedWord}” is no seed: say a whole number`);
  console.log(`seed ${seed}`);
  jobs = deepJobs(seed);
} else if (word === '') jobs = verifyJobs();
else if (isPart(word)) jobs = partOf(verifyJobs(), word);
else {
  console.error(`“${word}” is no part: there are ${PARTS.join(', ')}, or none for all`);
  process.exit(2);
}
mkdirSync(join(FOLDER, 'cache'), { recursive: true });
for (const name of readdirSync(FOLDER))
  if (name !== 'cache') rmSync(join(FOLDER, name), { recursive: true, force: true });
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const)
  process.once(signal, () => {
    for (const child of children.values()) child.kill('SIGKILL');
    process.exit(130);
  });
const all = jobs.map(lintCache);
const outcomes = await schedule(all, { run, ...thisMachine() });
(await served)?.child.kill();
writeFileSync(join(FOLDER, 'ended.json'), JSON.stringify(ended, undefined, 1));
process.exitCode = summary(all, outcomes) ? 0 : 1;
