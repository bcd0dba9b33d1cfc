/** Sites as JSON are judged by a YANG compiler that is not ours: yanglint, with the standard's modules that ship with it. */
import { expect } from 'chai';
import { spawnSync } from 'node:child_process';
import fc from 'fast-check';
import { existsSync, mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeYang } from '#core/formats/yang';
import { parseDocument } from '#core/notation';
import { buildSite } from '#core/site';
import { EVERYTHING, anySite } from '#core/testkit';

const MODULES = '/usr/share/doc/libyang2-tools/examples';
const STANDARD = ['ietf-interfaces', 'ietf-ip', 'iana-if-type'].map((name) => join(MODULES, `${name}.yang`));
const missing = spawnSync('yanglint', ['-v']).error
  ? 'yanglint is missing'
  : STANDARD.every((file) => existsSync(file))
    ? undefined
    : "the standard's modules are missing";

/** What the compiler says against documents, nothing where they fit. */
function judged(folder: string, documents: readonly unknown[]): string {
  const files = documents.map((document, i) => {
    const file = join(folder, `${i}.json`);
    writeFileSync(file, JSON.stringify(document));
    return file;
  });
  return files
    .map((file) => {
      const args = ['-i', '-p', MODULES, '-t', 'config', ...STANDARD, 'docs/jolly-gate.yang', file];
      const { status, stderr } = spawnSync('yanglint', args, { encoding: 'utf8' });
      return status === 0 ? '' : `${readFileSync(file, 'utf8')}\n${stderr}`;
    })
    .join('');
}

describe('the YANG module', function () {
  let folder: string;
  before(function () {
    if (missing) {
      console.log(`    no YANG compiler is asked: ${missing}`);
      this.skip();
    }
    folder = mkdtempSync(join(tmpdir(), 'gate-yang-'));
  });
  after(() => folder && rmSync(folder, { recursive: true }));
  const siteOf = (text: string) => buildSite([parseDocument(text, 'x.gate')]);

  it('fits the demo, every site of the corpus, generated ones, and what says a thing twice', () => {
    const texts = [
      ['box', 'wiring'].map((name) => readFileSync(`demo/${name}.gate`, 'utf8')).join('\n'),
      ...readdirSync('tests/corpus/sites').map((name) =>
        readFileSync(join('tests/corpus/sites', name), 'utf8'),
      ),
      'interface x: on p1, address 10.61.20.1/24, also .1, answers ping, answers ping\n',
      ...fc.sample(anySite(EVERYTHING), { numRuns: 20, seed: 20261123 }),
    ];
    expect(
      judged(
        folder,
        texts.map((text) => writeYang(siteOf(text))),
      ),
    ).to.equal('');
  });

  it('is what makes a document fit: another is refused', () => {
    const document = JSON.stringify(writeYang(siteOf('interface x: on p1, address 10.61.20.1/24\n')));
    for (const [was, becomes] of [
      ['"jolly-gate:clause"', '"jolly-gate:clauses"'],
      ['"prefix-length":24', '"prefix-length":33'],
    ] as const) {
      const other = document.replace(was, becomes);
      expect(other).to.not.equal(document);
      expect(judged(folder, [JSON.parse(other)])).to.match(/err/);
    }
  });
});
