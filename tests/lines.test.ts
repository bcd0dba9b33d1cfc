/**
 * What the box looks at before a line of a generation becomes words of a command of its own (`refused_line` of the hinge):
 * whatever this code writes is taken, and of a hundred thousand damaged lines none that would be obeyed as something else.
 */
import { expect } from 'chai';
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Seeded } from '#core/base';
import { generationOf } from '#core/linux';
import { howMany, modelFrom, seedOr } from '#core/testkit';

const hinge = readFileSync('src/hinge/jolly-gate-hinge', 'utf8');
const REFUSED = /^refused_line\(\)[^]*?^\}$/m.exec(hinge)![0];

/** The lines of each file of lines, of all sites of the corpus and of one that has what they lack. */
function linesOfOurs(): Map<string, Set<string>> {
  const out = new Map<string, Set<string>>();
  const folder = 'tests/corpus/sites';
  const texts = [
    ...readdirSync(folder).map((name) => readFileSync(join(folder, name), 'utf8')),
    // Two boxes, one of which steps back while a line is dead.
    `box first: priority 150, twin second priority 100, lowers 60 without spare
zone world: upstream
interface spare: on p2, zone world, address 203.0.113.18/29, gateway .17, watch 203.0.113.1
`,
  ];
  for (const text of texts)
    for (const { name, text: lines } of generationOf(modelFrom(text), []).files) {
      // Files of servers have an ending, or a folder of their kind.
      if (/[./]|^relay$/.test(name)) continue;
      const known = out.get(name) ?? new Set();
      out.set(name, known);
      for (const line of lines.split('\n')) if (line !== '') known.add(line);
    }
  return out;
}

/** What stands where something else was. */
const SCRAPS = [
  ...[
    ' ',
    '',
    '-',
    '--',
    ' -x',
    ' -f/etc/shadow',
    ';',
    '|',
    '&',
    '$',
    '`',
    '$(id)',
    '>',
    '<',
    '*',
    '?',
    '[a]',
    '{a,b}',
  ],
  ...[
    '~',
    '!',
    '#',
    "'",
    '"',
    '\\',
    '(',
    ')',
    '../',
    '..',
    '/etc/passwd',
    '\t',
    '\u0001',
    '\u001b[2J',
    '\u0085',
    'é',
    '０',
  ],
  ...[
    '0',
    '99999999999999999999',
    'net/',
    'x'.repeat(40),
    '%',
    '@',
    ':',
    ',',
    '=',
    'dev',
    'via',
    'lo',
    'batch',
  ],
];
const chance = new Seeded(seedOr(31));
const below = (n: number): number => chance.below(Math.max(1, n));

const damaged = (line: string): string => {
  let text = line;
  for (let n = 1 + below(2); n > 0; n--) {
    const at = below(text.length + 1);
    text = text.slice(0, at) + SCRAPS[below(SCRAPS.length)]! + text.slice(at + below(6));
  }
  return text.replaceAll('\n', '');
};

/** Whether a shell, a path or the options of a program could take a line for something else than its words. */
const isObeyed = (file: string, line: string): boolean =>
  /[^ -~]/.test(line) ||
  /[$`;&|<>()*?[\]{}~!'"\\#]/.test(line) ||
  line.split(' ').some((word) => /^-./.test(word)) ||
  (/^(sysctl|forwarding)$/.test(file) && !/^net\/(?!.*\.\.)\S+ \d+$/.test(line)) ||
  (/^(links|addresses|shared)$/.test(file) &&
    (/^\S*\//.test(line) || /^\S*\.\./.test(line) || /^\S{16}/.test(line)));

describe('lines of a generation', () => {
  const ours = linesOfOurs();
  let folder: string;
  before(() => (folder = mkdtempSync(join(tmpdir(), 'jg-lines-'))));
  after(() => rmSync(folder, { recursive: true, force: true }));
  /** The refusal of a folder with these files. */
  const refusal = (files: ReadonlyMap<string, Iterable<string>>, code = REFUSED): string => {
    for (const name of readdirSync(folder)) rmSync(join(folder, name));
    for (const [name, lines] of files) writeFileSync(join(folder, name), [...lines, ''].join('\n'));
    const done = spawnSync('sh', ['-c', `${code}\nrefused_line "$1"`, 'sh', folder], {
      encoding: 'latin1',
      maxBuffer: 1e9,
      env: { ...process.env, LC_ALL: 'C' },
    });
    expect(done.stderr).to.equal('');
    return done.stdout;
  };

  it('are taken as this code writes them, and each file of them is looked at', () => {
    for (const [name, lines] of ours) expect(lines.size, name).to.be.above(0);
    expect(refusal(ours)).to.equal('');
    for (const name of ours.keys())
      expect(refusal(new Map([[name, ['$(id) -x']]])), name).to.equal(`${name}: $(id) -x\n`);
  });

  it('are refused where a shell, a path or a program would take them otherwise', () => {
    const each = Math.ceil(howMany(10_000, 100_000) / ours.size);
    const sent = new Map(
      [...ours].map(([name, lines]) => {
        const all = [...lines];
        return [name, Array.from({ length: each }, () => damaged(all[below(all.length)] ?? ''))] as const;
      }),
    );
    // All that it refuses, instead of the first.
    const everyOne = REFUSED.replace('substr($0, 1, 120); exit', '$0');
    expect(everyOne).to.not.equal(REFUSED);
    const refused = new Set(refusal(sent, everyOne).split('\n'));
    let taken = 0;
    for (const [name, lines] of sent)
      for (const line of lines) {
        if (line === '' || refused.has(Buffer.from(`${name}: ${line}`).toString('latin1'))) continue;
        taken++;
        expect(isObeyed(name, line), `${name}: ${line}`).to.equal(false);
      }
    expect(taken).to.be.within(each, (each * ours.size) / 2);
  });
});
