/**
 * `npm run answers [SITES] [SEED]`: a line for each site and command with a hash of the JSON that it answers, for the
 * demo, the corpus and generated sites. Run before and after a redesign, two files that are alike say that no answer
 * changed.
 */
import { createHash } from 'node:crypto';
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { EVERYTHING, anySite } from '#core/testkit';
import { check } from '../../src/cli/check';
import { convert } from '../../src/cli/formats';
import type { CommandResult } from '../../src/cli/outcome';
import { planFiles } from '../../src/cli/plan';
import { proveFiles } from '../../src/cli/prove';
import { reachOf } from '../../src/cli/reach';
import { review } from '../../src/cli/review';
import { traceFiles } from '../../src/cli/trace';

const sites = Number(process.argv[2] ?? 500);
const seed = Number(process.argv[3] ?? 1);
/** Crossings are the dearest: of the generated sites only the first are asked for theirs. */
const CROSSINGS = 60;

const folder = mkdtempSync(join(tmpdir(), 'gate-answers-'));
const root = new URL('../../', import.meta.url).pathname;
const generated = fc
  .sample(anySite({ ...EVERYTHING, promises: 4 }), { numRuns: sites, seed })
  .map((text, i) => {
    const file = join(folder, `${i}.gate`);
    writeFileSync(file, text);
    return [file];
  });
const corpus = readdirSync(join(root, 'tests/corpus/sites')).map((f) => [
  join(join(root, 'tests/corpus/sites'), f),
]);
const demo = ['box.gate', 'wiring.gate'].map((f) => join(join(root, 'demo'), f));

function tell(what: string, command: string, answer: () => CommandResult): void {
  let said: unknown;
  try {
    const { json, text, status } = answer();
    said = [status, json ?? text];
  } catch (error) {
    said = String(error);
  }
  // The folder is another one each time.
  const plain = JSON.stringify(said).replaceAll(folder, '').replaceAll(root, '');
  console.log(`${what} ${command} ${createHash('sha256').update(plain).digest('hex').slice(0, 16)}`);
}

const all = [demo, ...corpus, ...generated];
for (const [i, files] of all.entries()) {
  const what = i === 0 ? 'demo' : files[0]!.replace(/.*\//, '');
  tell(what, 'check', () => check(files));
  tell(what, 'prove', () => proveFiles(files, {}));
  tell(what, 'cut', () => proveFiles(files, { cut: ['p1'] }));
  tell(what, 'reach', () => reachOf(files));
  tell(what, 'out', () => traceFiles(files, { from: '10.61.1.10', to: '192.0.2.80', drill: {} }));
  tell(what, 'in', () =>
    traceFiles(files, { from: 'internet', to: '198.51.100.18', service: 'tcp 443', drill: {} }),
  );
  for (const form of ['linux', 'json', 'wiring-sheet', 'notation'])
    tell(what, form, () => convert(files, form, true));
  const next = all[i + 1];
  if (!next || i > corpus.length + CROSSINGS) continue;
  tell(what, 'plan', () => planFiles(files[0]!, next[0]!, files[1]));
  tell(what, 'review', () => review(files[0]!, next[0]!, files[1], false));
}
rmSync(folder, { recursive: true });
