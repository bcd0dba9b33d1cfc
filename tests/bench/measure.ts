/**
 * Times, side by side in one run, printed and never asserted: `npm run measure`. Figures are medians of many runs on
 * this machine; ratios are to the yardstick named beside them.
 */
import { existsSync, readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { contextOf, findAll } from '#core/findings';
import { parseDocument } from '#core/notation';
import { prove } from '#core/proof';
import { buildSite } from '#core/site';
import { derive } from '../../src/worker/derive';
import { large } from './large';

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
const site = (i: number) => buildSite(edited(i).map((f) => parseDocument(f.text, f.name)));
show(
  'demo: findings',
  time(50, (i) => findAll(contextOf(site(i)))),
  ['reading', parse],
);
show(
  'demo: boot, ladders, desks, promises',
  time(30, (i) => prove(site(i))),
  ['reading', parse],
);
const last = { key: '' };
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
  time(3, () => findAll(contextOf(buildSite([parseDocument(big, 'big')])))),
  ['reading', bigParse],
);

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

const client = 'build/client/_app/immutable';
if (existsSync(client)) {
  const files = (readdirSync(client, { recursive: true }) as string[]).filter((f) => f.endsWith('.js'));
  const sizes = files.map((f) => [f, gzipSync(readFileSync(join(client, f))).length] as const);
  const worker = sizes.filter(([f]) => f.startsWith('workers'));
  // The editor comes when its view opens, in chunks of its own.
  const editor = sizes.filter(([f]) => /cm-(?:content|scroller)/.test(readFileSync(join(client, f), 'utf8')));
  const sum = (list: typeof sizes) => list.reduce((n, [, size]) => n + size, 0) / 1024;
  console.log(
    `script of the page, compressed: ${sum(sizes.filter((s) => !worker.includes(s) && !editor.includes(s))).toFixed(0)} kB, of the worker: ${sum(worker).toFixed(0)} kB, of the editor, which comes later: ${sum(editor).toFixed(0)} kB`,
  );
}
