/** Good sites damaged by chance: nothing throws, every sentence is whole, and no mend leaves the text less readable. */
import { expect } from 'chai';
import { readFileSync, readdirSync } from 'node:fs';
import { contextOf, findAll } from '#core/findings';
import { applyEdits, invertEdits, parseDocument } from '#core/notation';
import { prove, traceFlow } from '#core/proof';
import { buildSite } from '#core/site';
import { howMany, reachOf } from '#core/testkit';
import { findingText, mendText, promiseText, stageText, stepText, traceFaultText } from '#words';
import { Seeded } from '../src/core/base';

const GROUND = [
  `${readFileSync('demo/box.gate', 'utf8')}${readFileSync('demo/wiring.gate', 'utf8')}`,
  ...readdirSync('tests/corpus/sites').map((f) => readFileSync(`tests/corpus/sites/${f}`, 'utf8')),
];

/** Words and clauses that do harm in the wrong place: edges of ranges, other families, contradictions. */
const HARM = [
  '2001:db8::1/64',
  'fd00::1',
  '255.255.255.255',
  '0.0.0.0/0',
  '10.61.20.1/32',
  '10.0.0.0/8',
  '.0',
  '.255',
  'off',
  'any',
  'internet',
  'address by pppoe',
  'bridge p1 p2',
  'tag 20',
  'loopback',
  'on p3',
  'zone world',
  'within drop',
  'gateway none',
  '::/0',
  'lends .1-.254',
  'keeps .5 for 02:00:00:00:00:01',
  'down',
  'translating',
  'native 20',
  'at core/1',
  'expect any reaches any',
  'expect internet reaches studio',
  'passage any > any: reject',
  'leave any > world: never',
  'leave fd00::/8 > world: as interface',
  'table main: route 0.0.0.0/0 via 10.61.20.9',
  'mtu 68',
  'names 2001:db8::53',
  'watch ::1',
  'far x.example: address 2001:db8::9, resolves',
  'listens any',
  'station z: at p1, address by dhcp',
  'loss 100%',
];

function damage(chance: Seeded): string {
  const pick = <T>(list: readonly T[]): T => list[chance.below(list.length)]!;
  const lines = pick(GROUND).split('\n');
  for (let n = 1 + chance.below(6); n > 0; n--) {
    const i = chance.below(lines.length);
    switch (chance.below(5)) {
      case 0:
        lines.splice(i, 1);
        break;
      case 1:
        lines.splice(i, 0, pick(pick(GROUND).split('\n')));
        break;
      case 2:
        lines[i] = `${lines[i]}, ${pick(HARM)}`;
        break;
      case 3:
        lines.splice(i, 0, pick(HARM));
        break;
      default: {
        const words = (lines[i] ?? '').split(/(\s+)/);
        words[chance.below(words.length)] = pick(HARM);
        lines[i] = words.join('');
      }
    }
    if (lines.length === 0) lines.push('');
  }
  return lines.join('\n');
}

/** Codes whose mend may uncover a fault that was hidden before: a renamed broken statement counts again. */
const UNCOVERS = new Set(['name-twice', 'syntax']);

describe('damaged sites', () => {
  it('are found fault with, mended and proved without a throw', () => {
    const whole = /^[^{}]{3,}$/;
    for (let seed = 1; seed <= howMany(50, 250); seed++) {
      const text = damage(new Seeded(seed));
      const document = parseDocument(text, 'f');
      const site = buildSite([document]);
      for (const finding of findAll(contextOf(reachOf(site)))) {
        expect(findingText(finding), `seed ${seed} ${finding.code}`).to.match(whole);
        expect(finding.at.end).to.be.at.most(text.length);
        for (const mend of finding.mends) {
          expect(mendText(mend), `seed ${seed} ${finding.code}`).to.match(whole);
          for (const { edits } of mend.changes) {
            const after = applyEdits(text, edits);
            expect(applyEdits(after, invertEdits(text, edits))).to.equal(text);
            if (!UNCOVERS.has(finding.code))
              expect(
                parseDocument(after, 'f').problems.length,
                `seed ${seed}: ${finding.code}, ${mendText(mend)}`,
              ).to.be.at.most(document.problems.length);
          }
        }
      }
      const proof = prove(reachOf(site));
      for (const { stages } of [...proof.uplinks, ...proof.desks]) {
        for (const stage of stages) expect(stageText(stage), `seed ${seed} ${stage.code}`).to.match(whole);
        const firstFail = stages.findIndex((s) => s.result === 'fail');
        if (firstFail >= 0)
          expect(stages.slice(firstFail + 1).every((s) => s.result === 'skipped')).to.equal(true);
      }
      for (const promise of proof.promises) expect(promiseText(promise)).to.match(whole);
      const trace = traceFlow(reachOf(site), {
        from: site.zones[seed % Math.max(1, site.zones.length)]?.name ?? 'box',
        to: 'internet',
      });
      if ('what' in trace) expect(traceFaultText(trace)).to.match(whole);
      else for (const step of trace.steps) expect(stepText(step)).to.match(whole);
    }
  });
});
