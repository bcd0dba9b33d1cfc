/**
 * Times, side by side in one run, printed and never asserted: `npm run measure`. Figures are medians of many runs on
 * this machine; ratios are to the yardstick named beside them.
 */
import { existsSync, readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { contextOf, findAll } from '#core/findings';
import { Readings, parseDocument } from '#core/notation';
import { bootBench, prove } from '#core/proof';
import { ReachMemory, ReachTable } from '#core/reach';
import { siteAfter, takePlan } from '#core/edits';
import { readPlan } from '#core/formats/address-plan';
import { comparePlan } from '#core/model';
import { faultsOf, tryFaults } from '#core/proof/drills';
import { buildSite } from '#core/site';
import type { Site } from '#core/site';
import { reachOf } from '#core/testkit';
import { derive, remember } from '../../src/worker/engine';
import { large, wide } from './large';

const median = (times: number[]): number => times.sort((a, b) => a - b)[Math.floor(times.length / 2)]!;
/** Median milliseconds of `runs` calls, after a few to warm up. */
function time(runs: number, call: (i: number) => unknown): number {
  for (let i = 0; i < 3; i++) call(i);
  const times: number[] = [];
  for (let i = 0; i < runs; i++) {
    const start = performance.now();
    call(i);
    times.push(performance.now() - start);
  }
  return median(times);
}
const show = (what: string, ms: number, yard?: readonly [string, number]) =>
  console.log(
    `${what.padEnd(58)} ${ms.toFixed(2).padStart(9)} ms${yard ? `   ${(ms / yard[1]).toFixed(1)} × ${yard[0]}` : ''}`,
  );

const demo = ['box.gate', 'wiring.gate'].map((name) => ({
  name,
  text: readFileSync(join('demo', name), 'utf8'),
}));
const edited = (i: number) =>
  demo.map((f) => ({ name: f.name, text: f.text.replace('.50-.199', `.50-.${150 + (i % 50)}`) }));

const parse = time(50, (i) => edited(i).map((f) => parseDocument(f.text, f.name)));
show('demo: reading both files', parse);
const reach = (i: number) => reachOf(buildSite(edited(i).map((f) => parseDocument(f.text, f.name))));
show(
  'demo: findings',
  time(50, (i) => findAll(contextOf(reach(i)))),
  ['reading', parse],
);
show(
  'demo: boot, ladders, desks, promises',
  time(30, (i) => prove(reach(i))),
  ['reading', parse],
);
const last = remember();
show(
  'demo: an edit to findings, draft and running proofs (worker)',
  time(30, (i) =>
    derive(
      { generation: i, draft: edited(i), running: demo, factoryPassword: false },
      () => performance.now(),
      last,
    ),
  ),
  ['reading', parse],
);

const board = (): void => {
  const model = reach(0).model;
  const looking = tryFaults(reach(0), faultsOf(model));
  while (!looking.next().done);
};
show('demo: the what-if board, every single fault', time(3, board), ['reading', parse]);
const sheet = [
  'name;vlan;subnet;dhcp',
  ...Array.from({ length: 60 }, (_, i) => `net${i};${100 + i};10.62.${i}.0/24;50-199`),
].join('\n');
show(
  'demo: sixty VLANs from a sheet, read, compared, written',
  time(20, () => {
    const { site } = reach(0).model;
    const rows = readPlan(sheet).networks.map((r) => r.value);
    siteAfter(site, takePlan(site, comparePlan(site, rows).rows));
  }),
  ['reading', parse],
);

const big = large(400);
const bigParse = time(10, () => parseDocument(big, 'big'));
show('400 VLANs: reading', bigParse);
show(
  '400 VLANs: the site',
  time(10, () => buildSite([parseDocument(big, 'big')])),
  ['reading', bigParse],
);
show(
  '400 VLANs: findings',
  time(3, () => findAll(contextOf(reachOf(buildSite([parseDocument(big, 'big')]))))),
  ['reading', bigParse],
);

// The reach: every cell of the table, against one flow a cell asked of the bench, packet by packet.
const demoSite = reach(0).model.site;
const whole = (s: Site) => {
  let open = 0;
  const table = new ReachTable(reachOf(s));
  for (const { cells } of table.rows()) for (const cell of cells) if (cell.verdict !== 'none') open++;
  return { open, pairs: table.sources.length * table.destinations.length };
};
const demoReach = time(10, () => whole(demoSite));
show('demo: the whole reach', demoReach, ['reading', parse]);
const { bench } = bootBench(reachOf(demoSite));
const ends = [...bench.hosts.values()];
const asked = time(1, () => {
  for (const a of ends)
    for (const b of ends) {
      const to = b.addresses[0]?.address;
      if (a === b || to === undefined) continue;
      const attempt = a.endpoints.ping(to, {});
      bench.wait(() => attempt.done, 10_000);
    }
});
const each = asked / (ends.length * (ends.length - 1));
console.log(
  `  one ping on the bench takes ${each.toFixed(2)} ms; a cell of the reach, all services and hosts, ${(demoReach / whole(demoSite).pairs).toFixed(3)} ms`,
);
const broad = wide();
/** As the worker reads: what a text has in common with the last one is not read anew. */
const readings = new Readings();
const reckon = (text: string, memory?: ReachMemory) => {
  const site = buildSite([readings.read(text, 'wide')]);
  const start = performance.now();
  const table = new ReachTable(reachOf(site), memory);
  let open = 0;
  for (const { cells } of table.rows()) for (const cell of cells) if (cell.verdict !== 'none') open++;
  return { open, pairs: table.sources.length * table.destinations.length, took: performance.now() - start };
};
reckon(broad);
const memory = new ReachMemory();
const first = reckon(broad, memory);
const held = process.memoryUsage().rss;
show(
  '40 zones, 400 interfaces, 3,000 passages, 200 doors: reach',
  median([first, reckon(broad), reckon(broad)].map((x) => x.took)),
  ['bench, one ping a pair', first.pairs * each],
);
console.log(
  `  ${first.pairs} pairs, ${first.open} of them open; the whole process then holds ${(held / 1e6).toFixed(0)} MB`,
);
const [outer, inner] = [wide(3000, 'on the box'), wide(3000, 'behind')];
// By turns: what a machine does beside it falls on both.
const byTurns = (what: string, took: (text: string) => number) => {
  const turns = Array.from({ length: 7 }, () => [took(outer), took(inner)] as const);
  show(what, median(turns.map(([, b]) => b)), ['all on the box', median(turns.map(([a]) => a))]);
};
byTurns('  with 77 stations, whose networks are behind a router inside', (text) => reckon(text).took);
byTurns('  and its findings', (text) =>
  time(1, () => findAll(contextOf(reachOf(buildSite([readings.read(text, 'wide')]))))),
);
const statements = broad.split('\n');
const passage = (n: number) => statements.filter((l) => l.startsWith('passage '))[n]!;
const edits: readonly [string, (i: number) => string][] = [
  ['a comment', (i) => `# ${i}\n${broad}`],
  ['a passage', (i) => broad.replace(passage(99 * i), passage(99 * i).replace(/:.*/, ': allow tcp 99'))],
  [
    'what an interface answers',
    (i) => broad.replace(`.${40 + i}.1/24, answers`, `.${40 + i}.1/24, answers ssh`),
  ],
  ['a mask', (i) => broad.replace(`10.64.${40 + i}.1/24`, `10.64.${40 + i}.1/25`)],
  ['a door', (i) => broad.replace(`tcp ${4100 + i} >`, `tcp ${5100 + i} >`)],
  [
    'who leaves as what',
    (i) => broad.replace('leave any', `leave v${3 + 12 * i} > world: as 198.51.103.9\nleave any`),
  ],
];
const checked = (text: string) => {
  const context = contextOf(reachOf(buildSite([readings.read(text, 'wide')])), {}, memory);
  const start = performance.now();
  findAll(context);
  return performance.now() - start;
};
show('  findings after an edit of a mask', median([1, 2, 3, 4, 5].map((i) => checked(edits[3]![1](i)))), [
  'all of the reach',
  first.took,
]);
/** One edit of the site as it was: what was done to it by the last is undone first. */
const once = (text: string) => {
  reckon(broad, memory);
  return reckon(text, memory).took;
};
for (const [what, edit] of edits)
  show(`  after an edit of ${what}`, median([1, 2, 3, 4, 5].map((i) => once(edit(i)))), [
    'all of it',
    first.took,
  ]);

const line =
  'interface q: on p1 tag 7, zone a, address 10.61.20.1/24, also .2 .3, lends .50-.199, answers ping\n';
const texts = [1, 5].map((mb) => line.repeat(Math.ceil((mb * 1024 * 1024) / line.length)));
const one = time(1, () => parseDocument(texts[0]!, 'x'));
show('reading 1 MB of statements', one);
show(
  'reading 5 MB of statements',
  time(1, () => parseDocument(texts[1]!, 'x')),
  ['1 MB', one],
);

/** A chunk of the built page, as Vite's manifest tells of it. */
interface Chunk {
  readonly file: string;
  readonly isEntry?: boolean;
  readonly imports?: readonly string[];
}
const client = '.svelte-kit/output/client';
if (existsSync(join(client, '.vite/manifest.json'))) {
  const chunks = JSON.parse(readFileSync(join(client, '.vite/manifest.json'), 'utf8')) as Record<
    string,
    Chunk
  >;
  const first = new Set<string>();
  const load = (key: string): void => {
    if (first.has(key)) return;
    first.add(key);
    chunks[key]!.imports?.forEach(load);
  };
  for (const [key, chunk] of Object.entries(chunks))
    if (chunk.isEntry || /nodes\/[02]\.js$/.test(key)) load(key);
  const sizeOf = (file: string): number => gzipSync(readFileSync(join(client, file))).length / 1000;
  const sum = (files: readonly string[]): string => files.reduce((n, f) => n + sizeOf(f), 0).toFixed(0);
  const named = (part: string) =>
    Object.entries(chunks).flatMap(([key, c]) => (key.endsWith(part) ? [c.file] : []));
  const workers = readdirSync(join(client, '_app/immutable/workers')).filter((f) => f.endsWith('.js'));
  console.log(
    `script of the page at its first load, compressed: ${sum([...first].map((k) => chunks[k]!.file))} kB, of the worker: ${sum(workers.map((f) => join('_app/immutable/workers', f)))} kB; later the editor ${sum(named('text/editor.ts'))} kB, charts ${sum(named('ways-out/echarts.ts'))} kB`,
  );
}
