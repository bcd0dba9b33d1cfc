import { expect } from 'chai';
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { SEVERITIES } from '#core/findings';
import {
  END_TEXTS,
  FINDING_TEXTS,
  MEND_TEXTS,
  PROMISE_TEXTS,
  STAGE_TEXTS,
  fill,
  logText,
  restoredText,
  trialOverText,
  spanText,
} from './index';

const sources = (folder: string) =>
  (readdirSync(folder, { recursive: true }) as string[])
    .filter((f) => f.endsWith('.ts') && !f.endsWith('.test.ts'))
    .map((f) => readFileSync(join(folder, f), 'utf8'))
    .join('\n');

describe('a line of a box’s log', () => {
  it('has the time of this machine’s clock, where the box says how long it runs', () => {
    const now = new Date(2026, 11, 2, 12, 0, 30);
    expect(logText('70.25 put back: rules', 100.25, now)).to.equal('2026-12-02 12:00:00 put back: rules');
    expect(logText('70.25 put back: rules', undefined, now)).to.equal('70.25 put back: rules');
    expect(logText('no time in it', 100, now)).to.equal('no time in it');
  });
});

describe('a trial whose time is over', () => {
  it('is said to be unseen while the box is silent, with the last resort where there is one', () => {
    const now = new Date(2026, 11, 2, 12, 0, 30);
    expect(trialOverText(false, 90, now)).to.equal(
      'The time is over: the box is going back to what ran before.',
    );
    expect(trialOverText(true, undefined, now))
      .to.match(/Nobody has seen it/)
      .and.not.match(/starts anew/);
    expect(trialOverText(true, 90, now)).to.match(/starts anew by itself at 12:02:00, with what was saved/);
    expect(trialOverText(true, -30, now)).to.match(/it has started anew at 12:00:00/);
  });
});

describe('what a box has put back', () => {
  it('is told by what it does, with its age', () => {
    const what = ['rules', 'routing', 'jolly-gate-active-relay', 'jolly-gate-ppp-fibre', 'jolly-gate-other'];
    expect(restoredText({ at: 88, what }, 100)).to.equal(
      'gone, and put back by the box 12 s ago: the rules of passing, rules of routing, who relays to a DHCP server (dhcrelay), the PPPoE session fibre, other',
    );
  });
});

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
