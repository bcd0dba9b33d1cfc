/**
 * `npm run mutants [INPUTS] [SEED]`: damaged files through every reader and every command. Each ends with an answer or
 * with words about the input; nothing throws, and nothing takes 5 s.
 */
import { mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { readHandoff } from '#core/formats/handoff';
import { writeYang } from '#core/formats/yang';
import { siteFrom } from '#core/testkit';
import { check } from '../../src/cli/check';
import { convert, handoff, readBox } from '../../src/cli/formats';
import { Unusable } from '../../src/cli/input';
import { planFiles } from '../../src/cli/plan';
import { proveFiles } from '../../src/cli/prove';
import { reachOf } from '../../src/cli/reach';
import { review } from '../../src/cli/review';
import { traceFiles } from '../../src/cli/trace';

const inputs = Number(process.argv[2] ?? 20_000);
const seed = Number(process.argv[3] ?? 1);
const LIMIT = 5000;

const here = (name: string) => new URL(`../corpus/${name}/`, import.meta.url);
const texts = (name: string) =>
  readdirSync(here(name)).map((file) => readFileSync(new URL(file, here(name)), 'utf8'));
const sites = texts('sites');
const sheets = texts('sheets');
const documents = sites.map((text) => JSON.stringify(writeYang(siteFrom(text)), null, 1));
const LINKS = [
  { ifname: 'lo', flags: ['LOOPBACK', 'UP'], mtu: 65536, link_type: 'loopback' },
  { ifname: 'eth0', flags: ['UP'], mtu: 1500, address: '02:61:00:00:00:01', ifalias: 'line' },
  { ifname: 'eth1', flags: ['UP'], mtu: 1500, address: '02:61:00:00:00:02' },
  {
    ifname: 'eth1.20',
    link: 'eth1',
    mtu: 1500,
    linkinfo: { info_kind: 'vlan', info_data: { protocol: '802.1Q', id: 20 } },
  },
  { ifname: 'br0', mtu: 1500, linkinfo: { info_kind: 'bridge' } },
];
const ADDRS = [
  { ifname: 'eth0', addr_info: [{ family: 'inet', local: '198.51.100.18', prefixlen: 29 }] },
  {
    ifname: 'eth1.20',
    addr_info: [
      { family: 'inet', local: '10.61.20.1', prefixlen: 24 },
      { family: 'inet6', local: '2001:db8::1', prefixlen: 64 },
    ],
  },
];
const ROUTES = [
  { dst: 'default', gateway: '198.51.100.17', dev: 'eth0', metric: 100 },
  { dst: '10.9.0.0/16', gateway: '10.61.20.9', dev: 'eth1.20', table: '100' },
];
const reports = [LINKS, ADDRS, ROUTES].map((r) => JSON.stringify(r, null, 1));

/** What stands where something else was: words of every language that is read, and what no language has. */
const SCRAPS = [
  '',
  ' ',
  '\n',
  '\n  ',
  '\t',
  '\r',
  '\0',
  '\ufeff',
  '"',
  '\\',
  ',',
  ':',
  '>',
  '#',
  '/',
  '-',
  '.',
  '{',
  '}',
  '[',
  ']',
  '💥',
  '\u202e',
  'any',
  'internet',
  'main',
  'from',
  'to',
  'on',
  'tag',
  'by',
  'else',
  'as',
  'off',
  'secret "x"',
  'zone',
  'interface a:',
  'switch s: at s/1',
  '0',
  '-1',
  '1e9',
  '99999999999999999999',
  '0.0.0.0',
  '255.255.255.255/32',
  '0.0.0.0/0',
  '::/0',
  '::ffff:1.2.3.4',
  '10.0.0.0-10.255.255.255',
  '/33',
  '/-1',
  'tcp 0-65535',
  'tcp 65535-0',
  'proto 255',
  'ping',
  'null',
  'true',
  '"__proto__"',
  'constructor',
  'toString',
];

const edit = fc.record({
  at: fc.double({ min: 0, max: 1, noNaN: true }),
  span: fc.nat({ max: 60 }),
  how: fc.constantFrom('cut', 'put', 'swap', 'again', 'byte', 'line'),
  scrap: fc.constantFrom(...SCRAPS),
  times: fc.oneof({ weight: 30, arbitrary: fc.constant(1) }, { weight: 1, arbitrary: fc.nat({ max: 3000 }) }),
});
type Edit = typeof edit extends fc.Arbitrary<infer T> ? T : never;

function damaged(text: string, edits: readonly Edit[]): string {
  return edits.reduce((now, { at, span, how, scrap, times }) => {
    const start = Math.floor(at * now.length);
    const end = Math.min(now.length, start + span);
    const piece = now.slice(start, end);
    if (how === 'cut') return now.slice(0, start) + now.slice(end);
    if (how === 'put') return now.slice(0, start) + scrap.repeat(times) + now.slice(start);
    if (how === 'swap') return now.slice(0, start) + scrap + now.slice(end);
    if (how === 'again') return now.slice(0, end) + piece.repeat(Math.min(times, 400)) + now.slice(end);
    if (how === 'byte') return now.slice(0, start) + String.fromCharCode(span * 4) + now.slice(start + 1);
    const lines = now.split('\n');
    const [line] = lines.splice(Math.floor(at * lines.length), 1);
    lines.splice(span % (lines.length + 1), 0, line ?? '');
    return lines.join('\n');
  }, text);
}

const folder = mkdtempSync(join(tmpdir(), 'gate-mutants-'));
const put = (name: string, text: string): string => {
  const path = join(folder, name);
  writeFileSync(path, text);
  return path;
};
const NO_DRILL = { cut: [], dead: [] };
/** What is done with a damaged text: the source it comes from, and the call. The last few cost most and come seldom. */
const calls: readonly (readonly [
  string,
  readonly string[],
  number,
  (text: string, sound: string) => unknown,
])[] = [
  ['check', sites, 20, (t) => check([put('a.gate', t)], undefined)],
  ['convert to notation', sites, 10, (t) => convert([put('a.gate', t)], 'notation', false)],
  ['convert to json', sites, 10, (t) => convert([put('a.gate', t)], 'json', true)],
  ['convert to linux', sites, 10, (t) => convert([put('a.gate', t)], 'linux', false)],
  ['convert to wiring-sheet', sites, 5, (t) => convert([put('a.gate', t)], 'wiring-sheet', false)],
  ['convert from json', documents, 20, (t) => convert([put('a.json', t)], 'notation', false)],
  ['read-handoff', sheets, 20, (t) => handoff(put('sheet.txt', t), {})],
  ['the reader of sheets', sheets, 20, (t) => readHandoff(t)],
  [
    'read-box, links',
    reports.slice(0, 1),
    5,
    (t) => readBox({ link: put('l', t), addr: put('a', reports[1]!), route: put('r', reports[2]!) }),
  ],
  [
    'read-box, addresses',
    reports.slice(1, 2),
    5,
    (t) => readBox({ link: put('l', reports[0]!), addr: put('a', t), route: put('r', reports[2]!) }),
  ],
  [
    'read-box, routes',
    reports.slice(2),
    5,
    (t) => readBox({ link: put('l', reports[0]!), addr: put('a', reports[1]!), route: put('r', t) }),
  ],
  ['reach', sites, 2, (t) => reachOf([put('a.gate', t)])],
  ['prove', sites, 2, (t) => proveFiles([put('a.gate', t)], NO_DRILL)],
  [
    'trace',
    sites,
    1,
    (t) => traceFiles([put('a.gate', t)], { from: 'internet', to: 'internet', drill: NO_DRILL }),
  ],
  ['plan', sites, 1, (t, sound) => planFiles(put('a.gate', sound), put('b.gate', t), undefined, undefined)],
  ['review', sites, 1, (t, sound) => review(put('a.gate', sound), put('b.gate', t), undefined, false)],
];

const tally = new Map<string, { count: number; unusable: number; slowest: number; took: number }>();
let bad = 0;
const call = fc.oneof(...calls.map((c) => ({ weight: c[2], arbitrary: fc.constant(c) })));
const input = fc.record({
  call,
  pick: fc.nat(),
  edits: fc.oneof(
    fc.array(edit, { minLength: 1, maxLength: 1 }),
    fc.array(edit, { minLength: 1, maxLength: 8 }),
  ),
});
/** Made little by little: a million at once fill the memory. */
function* damages() {
  for (let done = 0; done < inputs; done += 5000)
    yield* fc.sample(input, { numRuns: Math.min(5000, inputs - done), seed: seed + done });
}
for (const {
  call: [name, from, , run],
  pick,
  edits,
} of damages()) {
  const sound = from[pick % from.length]!;
  const text = damaged(sound, edits);
  const told = tally.get(name) ?? { count: 0, unusable: 0, slowest: 0, took: 0 };
  tally.set(name, told);
  told.count++;
  const start = performance.now();
  let fault: unknown;
  try {
    run(text, sound);
  } catch (error) {
    if (error instanceof Unusable) told.unusable++;
    else fault = error;
  }
  const took = performance.now() - start;
  told.slowest = Math.max(told.slowest, took);
  told.took += took;
  if (fault === undefined && took <= LIMIT) continue;
  bad++;
  const file = join(tmpdir(), `gate-mutant-${bad}`);
  writeFileSync(file, text);
  console.log(
    `${name}: ${fault instanceof Error ? fault.stack : `${took.toFixed(0)} ms`}; the input is ${file}`,
  );
}
rmSync(folder, { recursive: true });
for (const [name, t] of tally)
  console.log(
    `${name}: ${t.count} inputs, ${t.unusable} told as unusable, ${(t.took / t.count).toFixed(1)} ms each, the slowest ${t.slowest.toFixed(0)} ms`,
  );
console.log(
  `${inputs} damaged inputs: ${bad ? `${bad} threw or took too long` : 'none threw, none took 5 s'}`,
);
process.exitCode = bad ? 1 : 0;
