/** Holds the house in order: which folder may import which, read from the source itself. */
import { expect } from 'chai';
import { readFileSync, readdirSync } from 'node:fs';
import { dirname, join, normalize, relative } from 'node:path';

const SRC = 'src';
const ADDR = ['base'];
const NOTATION = ['addr', 'base'];
const SITE = ['notation', ...NOTATION];
const SEMANTICS = ['site', ...SITE];
const MODEL = ['semantics', ...SEMANTICS];
const EDITS = ['model', ...MODEL];
const BENCH = ['wire', ...EDITS];
const REACH = EDITS;
const FINDINGS = ['reach', 'edits', ...REACH];
const PROOF = ['bench', 'reach', ...BENCH];
const CHANGE = ['proof', 'findings', 'edits', ...PROOF];
const FORMATS = ['wire', ...EDITS];
/** What a real box is told; bench and reach are asked whether that is right, so it knows neither. */
const LINUX = ['wire', ...EDITS];
const BOX = ['change', 'formats', 'linux', ...CHANGE];
const CORE = [...new Set([...BOX, 'box'])];

/** What each room may import besides its own files; rooms of the core by their bare name. */
const MAY: Readonly<Record<string, readonly string[]>> = {
  base: [],
  addr: ADDR,
  notation: NOTATION,
  wire: NOTATION,
  site: SITE,
  semantics: SEMANTICS,
  model: MODEL,
  edits: EDITS,
  bench: BENCH,
  reach: REACH,
  findings: FINDINGS,
  proof: PROOF,
  change: CHANGE,
  formats: FORMATS,
  linux: LINUX,
  box: BOX,
  testkit: CORE,
  words: CORE,
  worker: [...CORE, 'words'],
  session: ['worker', 'words', ...CORE],
  ui: ['session', 'words', 'ui/primitives', ...CORE],
  'ui/primitives': [],
  server: ['words', ...CORE],
  cli: ['words', 'server', ...CORE],
  routes: ['session', 'ui', 'ui/primitives', 'server', 'words', 'worker', ...CORE],
};

/** The room of a source file, or undefined for what belongs to none (entry files of the framework). */
function roomOf(path: string): string | undefined {
  const parts = relative(SRC, path).split('/');
  if (parts[0] === 'core') return parts[1];
  if (parts[0] === 'lib' && parts[1] === 'ui' && parts[2] === 'primitives') return 'ui/primitives';
  if (parts[0] === 'lib') return parts[1];
  return parts.length > 1 ? parts[0] : undefined;
}

const files = (readdirSync(SRC, { recursive: true }) as string[])
  .map((name) => join(SRC, name))
  .filter((name) => /\.(ts|svelte)$/.test(name) && !name.endsWith('.d.ts'));

/** The places that a file imports, as paths below the source folder where they are ours. */
function importsOf(file: string): string[] {
  const text = readFileSync(file, 'utf8');
  const found = text.matchAll(
    /^\s*(?:import|export)\s+(?:type\s+)?(?:[\w*{}\s,$]+\s+from\s+)?'([^'\n]+)'|\bimport\('([^'\n]+)'\)/gm,
  );
  return [...found].map((match) => {
    const to = (match[1] ?? match[2])!;
    if (to.startsWith('#core/')) return join(SRC, 'core', to.slice(6), 'index.ts');
    if (to === '#words') return join(SRC, 'words', 'index.ts');
    if (to.startsWith('$lib/')) return join(SRC, 'lib', to.slice(5));
    return to.startsWith('.') ? normalize(join(dirname(file), to)) : to;
  });
}

/** Packages that the core may use: they know no framework either. */
const LIBRARIES = ['valibot', 'fflate', '@noble/hashes', 'papaparse'];

describe('the borders between rooms', () => {
  it('no file imports a room that its own room may not know', () => {
    const wrong: string[] = [];
    for (const file of files) {
      const own = roomOf(file);
      if (!own) continue;
      expect(MAY, `a room for ${file}`).to.have.property(own);
      const isTest = file.endsWith('.test.ts');
      for (const to of importsOf(file)) {
        const room = to.startsWith(SRC) ? roomOf(to) : undefined;
        if (!room || room === own) continue;
        if (room === 'testkit' ? !isTest : !isTest && !MAY[own]!.includes(room))
          wrong.push(`${file} -> ${to}`);
      }
    }
    expect(wrong).to.deep.equal([]);
  });

  it('a view shows itself: it takes from the shared rooms of the page, and from no other view', () => {
    const shared = [
      'primitives',
      'controls',
      'making',
      'slip',
      'ladder',
      'trial',
      'live',
      'looks.ts',
      'looks',
      'save',
    ];
    const roomOfView = (path: string) => relative(join(SRC, 'lib/ui'), path).split('/')[0]!;
    const wrong = files
      .filter((file) => file.startsWith(join(SRC, 'lib/ui')) && roomOfView(file) !== 'frame')
      .flatMap((file) =>
        importsOf(file)
          .filter((to) => to.startsWith(join(SRC, 'lib/ui')))
          .filter((to) => roomOfView(to) !== roomOfView(file) && !shared.includes(roomOfView(to)))
          .map((to) => `${file} -> ${to}`),
      );
    expect(wrong).to.deep.equal([]);
  });

  it('a room of the core is spoken of in one way', () => {
    const wrong = files
      .filter((file) => file.startsWith(join(SRC, 'core')))
      .flatMap((file) =>
        [...readFileSync(file, 'utf8').matchAll(/from '(\.[^'\n]+)'/g)]
          .map((m) => normalize(join(dirname(file), m[1]!)))
          .filter((to) => roomOf(`${to}/`) !== roomOf(file))
          .map((to) => `${file} -> ${to}`),
      );
    expect(wrong).to.deep.equal([]);
  });

  it('what is printed goes through the outlet', () => {
    const prints = files.filter(
      (file) =>
        file.startsWith(join(SRC, 'cli')) &&
        /process\.std(out|err)\.write|console\.(log|error|warn)/.test(readFileSync(file, 'utf8')),
    );
    expect(prints).to.deep.equal([join(SRC, 'cli/outlet.ts')]);
  });

  it('no files import one another in a circle, for types neither', () => {
    const known = new Set(files.map((f) => f.replace(/(\.svelte)?\.ts$/, '')));
    const graph = new Map(
      files.map((file) => [
        file.replace(/(\.svelte)?\.ts$/, ''),
        importsOf(file).flatMap((to) => {
          const plain = to.replace(/(\.svelte)?\.ts$/, '');
          return [plain, `${plain}/index`].filter((p) => known.has(p));
        }),
      ]),
    );
    const done = new Set<string>();
    const circles: string[] = [];
    const visit = (file: string, way: readonly string[]) => {
      const at = way.indexOf(file);
      if (at >= 0) circles.push([...way.slice(at), file].join(' -> '));
      if (at >= 0 || done.has(file)) return;
      for (const to of graph.get(file) ?? []) visit(to, [...way, file]);
      done.add(file);
    };
    for (const file of graph.keys()) visit(file, []);
    expect(circles).to.deep.equal([]);
  });

  it('a room of the core is entered by its index only', () => {
    const wrong = files.flatMap((file) =>
      importsOf(file)
        .filter((to) => {
          const room = to.startsWith(join(SRC, 'core')) ? roomOf(to) : undefined;
          return room && room !== roomOf(file) && room !== 'testkit' && !/\/index(\.ts)?$/.test(to);
        })
        .map((to) => `${file} -> ${to}`),
    );
    expect(wrong).to.deep.equal([]);
  });

  it('what a statement says is asked of the site; only edits and findings look at the statement behind it', () => {
    /** What a place in the text has, whatever its kind. */
    const places = 'file|index|subject|start|end|line|head|kind|name|note';
    // The slip and the words before the caret are about a statement; so is an export of statements.
    const about =
      /core\/(notation|site|edits|findings|testkit|formats\/yang)\/|ui\/(slip|text)\/|model\/plausible|reach\/because/;
    const asked = new RegExp(`\\bstatement[?!]?\\.(?!(?:${places})\\b)\\w+`);
    const wrong = files
      .filter((file) => !file.endsWith('.test.ts') && !about.test(file))
      .flatMap((file) =>
        readFileSync(file, 'utf8')
          .split('\n')
          .flatMap((line, i) => (asked.test(line) ? [`${file}:${i + 1} ${line.trim()}`] : [])),
      );
    expect(wrong).to.deep.equal([]);
  });

  it('the core and its words know no framework, no DOM and no Node', () => {
    const wrong = files
      .filter((file) => /^src\/(core|words)\//.test(file) && !/\.test\.ts$|\/testkit\//.test(file))
      .flatMap((file) =>
        importsOf(file)
          .filter((to) => !to.startsWith(SRC) && !LIBRARIES.some((l) => to === l || to.startsWith(`${l}/`)))
          .map((to) => `${file} -> ${to}`),
      );
    expect(wrong).to.deep.equal([]);
  });
});
