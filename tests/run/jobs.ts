/** What `verify` runs: each file of tests is a job of its own, found by its folder, so that a new file needs no entry here. */
import { existsSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';

/** Whose a job is: `core` needs no browser and no box, `page` drives Chromium, `live` tells boxes and kernels. */
export const PARTS = ['core', 'page', 'live'] as const;
export type Part = (typeof PARTS)[number];

export interface Job {
  /** Names the job in the summary, and its folder under .verify; a file name without slashes. */
  readonly name: string;
  readonly part: Part | 'deep';
  readonly command: readonly string[];
  /** Names of the jobs that must have passed before. */
  readonly after: readonly string[];
  /** Orders jobs that may begin: the largest first, since the last one to end decides how long all take. Bytes of tests. */
  readonly weight: number;
  /** Whether it opens the application in a browser; one server serves all such jobs. */
  readonly isServed?: boolean;
  /** More words of its environment. */
  readonly env?: Readonly<Record<string, string>>;
}

const bin = (tool: string): string => `node_modules/.bin/${tool}`;

/** Runs files of tests in one process. */
const mocha = (...files: readonly string[]): string[] => [
  bin('mocha'),
  '--config',
  'tests/run/mocharc.json',
  ...files,
];

/** `svelte-kit sync` writes what the compiler, the linter and both builds read. */
const SYNC = 'sync';
const COMMAND = 'build of the command';
const PAGE = 'build of the page';
/** The only job with a cache of its own, which `verify` names. */
export const COMPONENTS = 'lint of components';

/** Files of tests in a folder, by what their names end with. */
const testsIn = (folder: string, ending = '.test.ts', isDeep = false): string[] =>
  readdirSync(folder, { recursive: isDeep, encoding: 'utf8' })
    .filter((name) => name.endsWith(ending))
    .map((name) => join(folder, name))
    .toSorted();

/** A job for each of these files. */
const filesOf = (part: Part, files: readonly string[], after: readonly string[], factor: number): Job[] =>
  files.map((file) => ({
    name: file
      .replace(/^tests\//, '')
      .replace(/\.(test|e2e)\.ts$/, '')
      .replaceAll('/', ' '),
    part,
    command: mocha(file),
    after,
    weight: bytesOf([file]) * factor,
  }));

/** One job for all of these files: a process of its own would cost each two seconds. */
const together = (
  name: string,
  part: Part,
  files: readonly string[],
  after: readonly string[],
  factor: number,
): Job => ({ name, part, command: mocha(...files), after, weight: bytesOf(files) * factor });

/** Bytes of a file whose tests cost less than the process that runs them. */
const SMALL = 10_000;

/** A job for each of these files, the small ones together. */
const smallTogether = (
  name: string,
  part: Part,
  files: readonly string[],
  after: readonly string[],
  factor: number,
): Job[] => {
  const isSmall = (file: string): boolean => bytesOf([file]) < SMALL;
  const large = files.filter((f) => !isSmall(f));
  return [...filesOf(part, large, after, factor), together(name, part, files.filter(isSmall), after, factor)];
};

/** Bytes of files of tests, and of what stands beside each under the same name: a helper, or what it tests. */
const bytesOf = (files: readonly string[]): number =>
  [...new Set(files.flatMap((f) => [f, f.replace(/\.test\.ts$/, '.ts')]))]
    .filter((f) => existsSync(f))
    .reduce((sum, f) => sum + statSync(f).size, 0);

/** Beside the code stand many small files. */
function unitTests(): Job[] {
  const files = testsIn('src', '.test.ts', true);
  const isCore = (file: string): boolean => file.startsWith('src/core/');
  return [
    together('unit core', 'core', files.filter(isCore), [SYNC], 1),
    together(
      'unit rest',
      'core',
      files.filter((f) => !isCore(f)),
      [SYNC],
      1,
    ),
  ];
}

const check = (name: string, after: readonly string[], weight: number, ...command: string[]): Job => ({
  name,
  part: 'core',
  command,
  after,
  weight,
});

/** Weights of what has no file of tests, by how long it takes beside them. */
const FIRST = 1e9;
const LONG = 40_000;

/** Every job of a run of `verify`. */
export const verifyJobs = (): Job[] => [
  check(SYNC, [], FIRST, bin('svelte-kit'), 'sync'),
  { ...check(COMMAND, [SYNC], FIRST, bin('vite'), 'build', '--config', 'vite.cli.config.ts'), part: 'live' },
  { ...check(PAGE, [SYNC], FIRST - 1, bin('vite'), 'build'), part: 'page' },
  // The compiler's own build in Go: what it finds is the same, in a third of the time.
  check(
    'types',
    [SYNC],
    // Another check waits for it.
    LONG * 2,
    bin('svelte-check'),
    ...['--tsconfig', './tsconfig.json', '--fail-on-warnings', '--tsgo'],
  ),
  check(
    'types of the core',
    [],
    LONG / 4,
    'node_modules/@typescript/native/bin/tsc',
    '-p',
    'tsconfig.core.json',
  ),
  check('lint', [SYNC], LONG / 4, bin('oxlint'), '--deny-warnings'),
  check('lint of components by type', ['types'], 0, 'bash', 'scripts/lint-components.sh'),
  check(COMPONENTS, [SYNC], LONG / 2, bin('eslint'), 'src/**/*.svelte', 'src/**/*.svelte.ts'),
  check('layout', [], LONG / 4, bin('oxfmt'), '--check'),
  ...unitTests(),
  ...smallTogether('small laws', 'core', testsIn('tests'), [SYNC, COMMAND], 2),
  ...filesOf('page', testsIn('tests/e2e', '.e2e.ts'), [COMMAND, PAGE], 5).map((j) => ({
    ...j,
    isServed: true,
  })),
  ...smallTogether('lab servers', 'live', testsIn('tests/lab'), [COMMAND], 3),
  // Boxes wait most of the time, and take the longest for their bytes.
  ...filesOf('live', testsIn('tests/live'), [COMMAND], 10),
];

/** A part with all that its jobs wait for. */
export function partOf(jobs: readonly Job[], part: Part): Job[] {
  const wanted = new Set(jobs.filter((j) => j.part === part).flatMap((j) => [j.name, ...j.after]));
  for (const j of jobs) if (wanted.has(j.name)) for (const a of j.after) wanted.add(a);
  return jobs.filter((j) => wanted.has(j.name));
}

/** The longer laws, each with one seed: what `verify` samples, whole. */
export function deepJobs(seed: number): Job[] {
  const long = (name: string, file: string, ...words: (string | number)[]): Job => ({
    name,
    part: 'deep',
    command: [bin('tsx'), file, ...words.map(String)],
    after: [],
    weight: 0,
  });
  const builds = verifyJobs().filter((j) => [SYNC, COMMAND, PAGE].includes(j.name));
  const env = { DEEP: 'yes', SEED: String(seed) };
  return [
    ...builds,
    // The sampled laws of `verify`, as far as they go.
    ...verifyJobs()
      .filter((j) => j.command[0] === bin('mocha') && j.part !== 'page')
      .map((j) => ({ ...j, part: 'deep' as const, env })),
    ...verifyJobs()
      .filter((j) => /^e2e (access|restless)$/.test(j.name))
      .map((j) => ({ ...j, part: 'deep' as const, env })),
    ...[
      long('truth whole', 'tests/truth/truth.ts', 2000, seed),
      long('mutants whole', 'tests/truth/mutants.ts', 2000, seed),
      long('drills whole', 'tests/lab/run-drills.ts', 6, seed),
      long('kills of the browser', 'tests/e2e/kills.ts', 20),
    ].map((j) => ({ ...j, after: [COMMAND, PAGE] })),
  ];
}
