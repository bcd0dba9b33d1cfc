import { expect } from 'chai';
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { SEVERITIES } from '#core/findings';
import { END_TEXTS, FINDING_TEXTS, MEND_TEXTS, PROMISE_TEXTS, STAGE_TEXTS, fill, spanText } from './index';

const sources = (folder: string) =>
  (readdirSync(folder, { recursive: true }) as string[])
    .filter((f) => f.endsWith('.ts') && !f.endsWith('.test.ts'))
    .map((f) => readFileSync(join(folder, f), 'utf8'))
    .join('\n');

describe('sentences', () => {
  it('fill places, leave out what has no value, and never show a place', () => {
    expect(fill('{a} on {b}{c?, with {c}}', { a: '1', b: '2' })).to.equal('1 on 2');
    expect(fill('{a}{c?, with {c}}', { a: '1', c: '3' })).to.equal('1, with 3');
    expect(fill('{missing}', {})).to.equal('');
    expect(fill('{a}', { a: '{b}' }), 'a value is no template').to.equal('{b}');
    expect([spanText(90), spanText(3600), spanText(43200), spanText(86400 * 7)]).to.deep.equal([
      '90 s',
      '1 h',
      '12 h',
      '7 d',
    ]);
  });

  it('exist for every code that the core can send, and for none that it cannot', () => {
    expect(Object.keys(FINDING_TEXTS).sort()).to.deep.equal(Object.keys(SEVERITIES).sort());
    const checks = sources('src/core/findings');
    const mends = new Set([...checks.matchAll(/what: '([\w-]+)'/g)].map((m) => m[1]!));
    expect([...mends].filter((m) => !(m in MEND_TEXTS))).to.deep.equal([]);
    expect(Object.keys(MEND_TEXTS).filter((m) => !mends.has(m))).to.deep.equal([]);
    const proof = sources('src/core/proof');
    const unused = (texts: object) => Object.keys(texts).filter((code) => !proof.includes(`'${code}'`));
    expect(unused(STAGE_TEXTS), 'stages').to.deep.equal([]);
    expect(unused(PROMISE_TEXTS), 'promises').to.deep.equal([]);
    expect(unused(END_TEXTS), 'ends').to.deep.equal([]);
  });
});
